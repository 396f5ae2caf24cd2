package macro

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// bench is a world whose actions put the number of their device into one reading,
// mix:program, after their own time.
type benchWorld struct {
	latencies
	before map[reading.Key]reading.Reading
}

var program = reading.Key{Device: "mix", Path: "program"}

func (b benchWorld) Reading(k reading.Key) reading.Reading {
	if r, ok := b.before[k]; ok {
		return r
	}
	return reading.Reading{Quality: reading.Unknown}
}

func (b benchWorld) Effects(s *show.Step, _ expr.World) []device.Effect {
	t, _ := b.Timing(s)
	return []device.Effect{{Key: program, Value: s.Action.Device, After: t.Own}}
}

// Refusal: d9 takes nothing while d1 is on program.
func (b benchWorld) Refusal(s *show.Step, w expr.World) string {
	if s.Action.Device == "d9" && w.Reading(program).Value == "d1" {
		return "Not now."
	}
	return ""
}

func (b benchWorld) Restore(k reading.Key, v reading.Value) (Timing, []device.Effect, bool) {
	return Timing{Median: 10 * time.Millisecond}, []device.Effect{{Key: k, Value: v}}, k == program
}

func (b benchWorld) Last(string) int { return -1 }

func rehearse(t testing.TB, steps string, seed uint64, change ...func(*show.Draft)) *Rehearsal {
	t.Helper()
	d := show.NewDraft(script(t, "m", steps))
	for _, f := range change {
		f(d)
	}
	tree, err := Build(d.Now(), "m")
	if err != nil {
		t.Fatal(err)
	}
	return Rehearse(tree, benchWorld{before: map[reading.Key]reading.Reading{program: {Value: "d1", Quality: reading.Confirmed}}}, seed)
}

func (r *Rehearsal) short() string {
	var out []string
	for _, c := range r.Changes {
		out = append(out, fmt.Sprintf("%v@%d", c.Value, c.At.Milliseconds()))
	}
	return strings.Join(out, " ")
}

func TestARehearsalShowsWhatHappens(t *testing.T) {
	for steps, want := range map[string]string{
		"do d40 500\n\t\twait 1000\n\t\tdo d5": "d40@540 d5@1005",
		"do d40 2000\n\t\tdo d5":               "d5@5 d40@2040", // the second picture comes first, and is overwritten
		"together\n\t\t\tdo d80\n\t\t\tdo d5":  "d80@80 d5@80",
		"fade d5 4000":                         "d5@4005",
		"do away\n\t\tdo d5":                   "d5@5",
		"turns\n\t\t\tbranch\n\t\t\t\tdo d2\n\t\t\tbranch\n\t\t\t\tdo d3\n\t\twait 10": "d2@2",
	} {
		if got := rehearse(t, steps, 1); got.short() != want || got.State != Ended {
			t.Errorf("%q: %s, %s; want %s", steps, got.short(), got.State, want)
		}
	}
	// A wait for what a step brings about ends when it has.
	r := rehearse(t, "do d40 300\n\t\twait-for 2000\n\t\tdo d5", 1, func(d *show.Draft) {
		for _, s := range d.Now().StepsOf("m") {
			if s.Kind == WaitFor {
				w := *s
				w.When = "reading('mix:program') == 'd40'"
				d.Put(&w)
			}
		}
	})
	if r.short() != "d40@340 d5@345" || r.State != Ended || r.Length != 345*time.Millisecond {
		t.Errorf("waited for: %s, %s %v", r.short(), r.State, r.Length)
	}
	if r := rehearse(t, "wait-for 2000\n\t\tdo d5", 1, func(d *show.Draft) {
		w := *d.Now().StepsOf("m")[0]
		w.When = "reading('mix:program') == 'never'"
		d.Put(&w)
	}); r.State != Failed || r.Reason == "" || r.Length != 2*time.Second {
		t.Errorf("what never comes: %s %q %v", r.State, r.Reason, r.Length)
	}
}

// TestAFadeThatWasTakenOverIsForgotten: what comes after it is worked out from what comes, and not from where it would
// have ended, however long that would have taken.
func TestAFadeThatWasTakenOverIsForgotten(t *testing.T) {
	// d9 takes nothing while d1 is on its way: the fade to it has been taken over by then.
	r := rehearse(t, "do d40\n\t\tfade d1 4000\n\t\tdo d2\n\t\tdo d9", 1)
	if r.State != Ended || r.short() != "d2@2 d9@9 d40@40" {
		t.Errorf("%s, %s: %s", r.short(), r.State, r.Reason)
	}
}

// TestARehearsalStopsWhereTheRunDoes: at a step that its device would not take as things stand by then.
func TestARehearsalStopsWhereTheRunDoes(t *testing.T) {
	for _, c := range []struct{ steps, onError, changes, state string }{
		{"do d9\n\t\tdo d5", "", "", Failed},
		{"do d9\n\t\tdo d5", "go-on", "d5@5", Ended},
		{"do d5\n\t\twait 20\n\t\tdo d9", "", "d5@5 d9@29", Ended},
		{"do d5\n\t\twait 20\n\t\tdo d1\n\t\twait 20\n\t\tdo d9", "", "d5@5 d1@21", Failed},
	} {
		r := rehearse(t, c.steps, 1, func(d *show.Draft) {
			m := *d.Now().Macro("m")
			m.OnError = c.onError
			d.Put(&m)
		})
		if r.short() != c.changes || r.State != c.state || (r.Reason != "") != (c.state == Failed) {
			t.Errorf("%q, on an error %q: %s, %s (%s); want %s, %s", c.steps, c.onError, r.short(), r.State, r.Reason, c.changes, c.state)
		}
	}
}

func TestTheSameSeedGivesTheSameRehearsal(t *testing.T) {
	for seed := range uint64(1000) {
		text := generated(rand.New(rand.NewPCG(seed, 12)), 2, "")
		a, b := rehearse(t, text, seed), rehearse(t, text, seed)
		if !reflect.DeepEqual(a, b) {
			t.Fatalf("seed %d: two rehearsals differ\n%s", seed, text)
		}
		var last time.Duration
		for _, c := range a.Changes {
			if c.At < last {
				t.Fatalf("seed %d: changes are out of order", seed)
			}
			last = c.At
		}
	}
}

func BenchmarkRehearsalOf200Steps(b *testing.B) {
	var lines []string
	for i := range 100 {
		lines = append(lines, fmt.Sprintf("do d%d 40", i%50), "wait 40")
	}
	s := script(b, "m", strings.Join(lines, "\n\t\t"))
	for b.Loop() {
		tree, err := Build(s, "m")
		if err != nil {
			b.Fatal(err)
		}
		Rehearse(tree, benchWorld{before: map[reading.Key]reading.Reading{}}, 1)
	}
}
