package engine_test

import (
	"fmt"
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/journal"
	"synaptor/internal/program"
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

// BenchmarkChange is what a change of a reading takes with a thousand reflexes, of which fifty wait for it.
func BenchmarkChange(b *testing.B) {
	for _, n := range []int{0, 1000} {
		b.Run(fmt.Sprint(n, " reflexes"), func(b *testing.B) {
			r := rigOf(enginetest.New(b, engine.Exact))
			defer r.Close()
			r.waitReady()
			d := show.NewDraft(r.Program.Show)
			for i := range n {
				on := show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/5/level", Edge: reflex.Rises, Level: 5, Back: 1}
				if i >= 50 {
					on.Path = fmt.Sprintf("channel/%d/level", 1+i%4)
				}
				d.Put(&show.Reflex{ID: fmt.Sprint("r", i), Name: fmt.Sprint("R", i), On: on, Position: i, Then: show.Call{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": "1"}}})
			}
			if n > 0 {
				next, err := r.Program.Show.Apply(d.Edit("test", 1))
				if err != nil {
					b.Fatal(err)
				}
				r.Use(program.Compile(r.Program, next, enginetest.Library(), r.Sources))
			}
			b.ReportAllocs()
			for i := 0; b.Loop(); i++ {
				if err := r.Desk.Operate(deviceMessage("/channel/5/level", -40+float64(i%200)/10)); err != nil {
					b.Fatal(err)
				}
				if i%50 == 0 {
					r.Sync()
					r.Changes().Take()
				}
			}
		})
	}
}
