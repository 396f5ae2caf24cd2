package engine_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
)

// rehearse rehearses a macro as things stand.
func (r *rig) rehearse(id string) *plan.Rehearsed {
	r.Helper()
	r.settle()
	ctx := context.Background()
	f := plan.NewFacts(ctx, r.Program, r.Program.Macros[id], r, func(string) string { return "" },
		func(device, action string) reading.Stats {
			if action != "" {
				device += "/" + action
			}
			return r.stats[device]
		})
	out, err := plan.Rehearse(ctx, f, 0)
	if err != nil {
		r.Fatal(err)
	}
	return out
}

// generated gives the steps of a random macro. Its devices are never told two things at
// the same moment, since one that is answers late.
func generated(random *rand.Rand, on *bool) (steps []show.Step) {
	for i := range 3 + random.IntN(5) {
		*on = !*on
		id := fmt.Sprint("s", i)
		switch random.IntN(4) {
		case 0:
			steps = append(steps, wait(60+10*random.IntN(15)))
		case 1:
			steps = append(steps, show.Step{ID: id, Kind: macro.Together}, in(id, keyer("3", *on)), in(id, mute("3", *on)), wait(250))
		case 2:
			steps = append(steps, show.Step{ID: id, Kind: macro.Repeat, Count: 2}, in(id, keyer("1", *on)), in(id, wait(220)))
		default:
			steps = append(steps, mute("4", *on), wait(200))
		}
	}
	return append(steps, putBack)
}

// A rehearsal and a run are the same walk, so they agree to the microsecond where
// devices answer as they were measured.
func TestARunIsAsItWasRehearsed(t *testing.T) {
	for seed := range uint64(20) {
		on(t, func(r *rig) {
			if err := r.Switcher.SetFaults(faults.Faults{LatencyMs: 30}); err != nil {
				t.Fatal(err)
			}
			if err := r.Desk.SetFaults(faults.Faults{LatencyMs: 70}); err != nil {
				t.Fatal(err)
			}
			r.macro(show.Macro{ID: "warm", Name: "Warm"}, keyer("1", true), wait(200), keyer("1", false), wait(200), mute("1", true), wait(200), mute("1", false), wait(200))
			for range 3 {
				r.over(r.run("warm"))
			}
			time.Sleep(time.Second)
			state := true
			r.macro(show.Macro{ID: "m", Name: "Generated", OnError: "go-on"}, generated(rand.New(rand.NewPCG(seed, 7)), &state)...)
			want := r.rehearse("m")
			row := r.over(r.run("m"))
			if len(row.Steps) != len(want.Steps) {
				t.Fatalf("seed %d: rehearsed %+v, it ran %+v", seed, want.Steps, row.Steps)
			}
			for i, s := range row.Steps {
				w := want.Steps[i]
				if ran := float64(s.DispatchedUs) / 1000; s.Step != w.Step || math.Abs(ran-w.AtMs) > 0.01 {
					t.Errorf("seed %d, step %d: rehearsed %s at %.2f ms, it ran %s at %.2f ms", seed, i, w.Step, w.AtMs, s.Step, ran)
				}
				at := slices.IndexFunc(want.Changes, func(c plan.RehearsedRow) bool { return c.Step == s.Step })
				if at >= 0 && s.Group != "" && math.Abs(float64(s.StartedUs)/1000-want.Changes[at].AtMs) > 1 {
					t.Errorf("seed %d, step %d: rehearsed to show at %.2f ms, it did at %.2f ms", seed, i, want.Changes[at].AtMs, float64(s.StartedUs)/1000)
				}
			}
		})
	}
}
