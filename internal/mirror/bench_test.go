package mirror_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/feed"
	"synaptor/internal/link"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

// BenchmarkRehearsal is a rehearsal of 1,900 steps as the API gives it, with its findings
// and all of it in words.
func BenchmarkRehearsal(b *testing.B) {
	r := enginetest.New(b, engine.Exact)
	defer r.Close()
	m, err := mirror.New(r.Program, mirror.Config{Changes: r.Changes(), Sync: r.Sync, Journal: r, Hub: feed.NewHub()})
	if err != nil {
		b.Fatal(err)
	}
	defer m.Close()
	for m.View().Link("dome-switcher").Phase != link.Up {
		time.Sleep(time.Millisecond)
	}
	d := show.NewDraft(r.Program.Show)
	d.Put(&show.Macro{ID: "m", Name: "Long"})
	for i := range 1900 {
		d.Put(&show.Step{ID: fmt.Sprint("s", i), Macro: "m", Position: i, Kind: macro.Do,
			Action: &show.Call{Device: "dome-switcher", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": fmt.Sprint(1 + i%6)}}})
	}
	r.Use(program.Compile(r.Program, d.Now(), enginetest.Library(), r.Sources))
	v := m.Current()
	for b.Loop() {
		if _, err := v.Rehearse(context.Background(), "m", 0); err != nil {
			b.Fatal(err)
		}
	}
}
