package engine_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
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

// What a run of many steps will take is worked out before its first command leaves, so each step is asked about once.
func TestARunAsksOnceAboutEachStep(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Many"}, show.Step{ID: "again", Kind: macro.Repeat, Count: 100}, in("again", keyer("1", true)), in("again", keyer("1", false)))
		asked := 0
		facts := plan.Facts{Known: r, Program: r.Program, Macro: r.Program.Macros["m"], Stats: func(string, string) reading.Stats {
			asked++
			return reading.Stats{Count: 1}
		}}
		if bars := macro.Compile(facts.Macro.Tree, facts.Still()).Bars; len(bars) != 200 || asked != 2 {
			t.Errorf("%d bars, %d times asked", len(bars), asked)
		}
	})
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
	t.Parallel()
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

// careless gives the steps of a random macro that sets the same things again and again, on the heels of
// each other.
func careless(random *rand.Rand) (steps []show.Step) {
	pick := func(list ...string) string { return list[random.IntN(len(list))] }
	for range 2 + random.IntN(7) {
		switch random.IntN(8) {
		case 0:
			steps = append(steps, mute("2", random.IntN(2) == 0))
		case 1:
			steps = append(steps, do("sound-desk", "mute-toggle", map[string]string{"channel": "2"}))
		case 2:
			steps = append(steps, fade5(pick("-30", "-10", "0"), 300+random.IntN(900)))
		case 3:
			steps = append(steps, do("sound-desk", "level", map[string]string{"channel": "5", "level": pick("-40", "-20")}))
		case 4:
			steps = append(steps, do("dome-switcher", "put-on-preview", map[string]string{"mix": "1", "input": pick("3", "4", "5")}))
		case 5:
			steps = append(steps, do("dome-switcher", "cut", map[string]string{"mix": "1"}))
		case 6:
			steps = append(steps, keyer("1", random.IntN(2) == 0))
		default:
			steps = append(steps, wait(random.IntN(400)))
		}
	}
	return steps
}

func told(steps []show.Step) (out string) {
	for _, s := range steps {
		if out += fmt.Sprintf("\n  %s %d ms", s.Kind, s.Ms); s.Action != nil {
			out += fmt.Sprint(" ", s.Action.Action, s.Action.Params)
		}
	}
	return out
}

// TestARehearsalEndsAsTheRunDoes: commands to one device keep their order, whatever their latencies, the
// next one starts from the one before, and a reading has one writer.
func TestARehearsalEndsAsTheRunDoes(t *testing.T) {
	t.Parallel()
	for seed := range uint64(40) {
		on(t, func(r *rig) {
			r.slow(40)
			for _, m := range [][]show.Step{{mute("2", true), wait(200), mute("2", false), wait(200)}} {
				r.macro(show.Macro{ID: "warm", Name: "Warm"}, m...)
				r.over(r.run("warm"))
			}
			time.Sleep(time.Second)
			steps := careless(rand.New(rand.NewPCG(seed, 11)))
			r.macro(show.Macro{ID: "m", Name: "Careless", OnError: "go-on"}, steps...)
			want := r.rehearse("m")
			r.over(r.run("m"))
			time.Sleep(5 * time.Second)
			last := map[string]string{}
			for _, c := range want.Changes {
				last[c.Key] = c.To
			}
			for k, v := range last {
				dev, path, _ := strings.Cut(k, ":")
				if got := r.Program.Word(reading.Key{Device: dev, Path: path}, r.value(k), r); got != v {
					t.Errorf("seed %d: %s was rehearsed to end as %v, and is %v after %s", seed, k, v, got, told(steps))
				}
			}
		})
	}
}
