package engine_test

import (
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/journal"
)

// BenchmarkPress is what the engine itself takes for a press of a key: from the input
// until the command was handed to a device that takes it at once.
func BenchmarkPress(b *testing.B) {
	r := rigOf(enginetest.New(b, engine.Exact))
	defer r.Close()
	r.waitReady()
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		key := []string{"a1", "b1", "c1", "d1"}[i%4]
		r.Input(engine.Input{Entry: journal.NextID(), At: time.Now(), Controller: "producer-grid", Control: key, Gesture: input.Press, Via: "osc", Link: "osc", Actor: "bench"})
		r.Sync()
	}
}
