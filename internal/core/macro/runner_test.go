package macro

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
)

var began = time.Unix(1000, 0)

// stage is a world for runs: conditions hold from a time on, turns go round.
type stage struct {
	latencies
	now   time.Time
	holds map[string]time.Duration // since the start
	turn  map[string]int
	stuck bool // nobody can tell which branch is in force
	r     *rand.Rand
}

func (s *stage) Holds(c string) bool {
	at, known := s.holds[c]
	return known && !s.now.Before(began.Add(at))
}

func (s *stage) Turn(n *Node) (int, string, bool) {
	if s.stuck {
		return 0, "Nobody knows which picture is on.", false
	}
	i := s.turn[n.ID]
	s.turn[n.ID] = (i + 1) % len(n.Children)
	return i, "", true
}

func (s *stage) Settled(*show.Step) bool { return true }

func (s *stage) Chance(n *Node) int { return s.r.IntN(len(n.Children)) }

// play runs a macro; late says how much later than due it is asked each time.
func (s *stage) play(t testing.TB, sh *show.Show, late func() time.Duration) (orders []Order, r *Runner) {
	t.Helper()
	tree, err := Build(sh, "m")
	if err != nil {
		t.Fatal(err)
	}
	s.now = began
	r = Start(tree, s, began)
	for range 100_000 {
		for due := r.Due(s.now); len(due) > 0; due = r.Due(s.now) {
			orders = append(orders, due...)
		}
		at, ok := r.Next()
		if !ok {
			return orders, r
		}
		next := at.Add(late())
		// What is waited for may come before it is given up.
		for _, since := range s.holds {
			if c := began.Add(since); c.After(s.now) && c.Before(next) {
				next = c
			}
		}
		s.now = next
	}
	t.Fatal("it does not end")
	return nil, nil
}

func onTime() time.Duration { return 0 }

func shortly(orders []Order) string {
	var out []string
	for _, o := range orders {
		what := o.Kind
		if o.Step.Action != nil {
			what = o.Step.Action.Device
		}
		out = append(out, fmt.Sprintf("%s@%d", what, o.At.Sub(began).Milliseconds()))
	}
	return strings.Join(out, " ")
}

func TestARunDoesItsStepsInTheirTime(t *testing.T) {
	for name, c := range map[string]struct {
		steps, orders, state string
		holds                map[string]time.Duration
	}{
		"waits":               {"do d1\n\t\twait 500\n\t\tdo d2", "d1@0 d2@500", Ended, nil},
		"together":            {"together\n\t\t\tdo d80\n\t\t\tdo d5\n\t\t\tdo d40\n\t\tdo d0", "d80@0 d40@40 d5@75 d0@75", Ended, nil},
		"what comes in time":  {"wait-for 2000\n\t\tdo d1", "d1@700", Ended, map[string]time.Duration{"true": 700 * time.Millisecond}},
		"what is so already":  {"wait-for 2000\n\t\tdo d1", "d1@0", Ended, map[string]time.Duration{"true": 0}},
		"what never comes":    {"do d1\n\t\twait-for 2000\n\t\tdo d2", "d1@0", Failed, nil},
		"repeats":             {"repeat 3\n\t\t\tdo d1\n\t\t\twait 100\n\t\tdo d2", "d1@0 d1@100 d1@200 d2@300", Ended, nil},
		"put back":            {"do d1\n\t\twait 8000\n\t\tput-back", "d1@0 put-back@8000", Ended, nil},
		"turns":               {"turns\n\t\t\tbranch\n\t\t\t\tdo d1\n\t\t\tbranch\n\t\t\t\tdo d2\n\t\tdo d3", "d1@0 d3@0", Ended, nil},
		"nothing to do":       {"wait 10", "", Ended, nil},
		"a branch with no if": {"if\n\t\t\tbranch\n\t\t\t\tdo d1\n\t\t\tbranch\n\t\t\t\tdo d2", "d1@0", Ended, nil},
	} {
		s := &stage{holds: c.holds, turn: map[string]int{}, r: rand.New(rand.NewPCG(1, 1))}
		orders, r := s.play(t, script(t, "m", c.steps), onTime)
		if got := shortly(orders); got != c.orders || r.State() != c.state || (r.Reason != "") != (c.state == Failed) {
			t.Errorf("%s: %s, %s %s; want %s, %s", name, got, r.State(), r.Reason, c.orders, c.state)
		}
	}
	s := &stage{stuck: true}
	if _, r := s.play(t, script(t, "m", "turns\n\t\t\tbranch\n\t\t\t\tdo d1"), onTime); r.State() != Failed || r.Reason != "Nobody knows which picture is on." {
		t.Errorf("turns that cannot be told: %s %q", r.State(), r.Reason)
	}
}

// TestWhatFollowsWaitsForTheRestAfterAStep: for the gap that is set, and while the device is at it; in the plan as in
// the run.
func TestWhatFollowsWaitsForTheRestAfterAStep(t *testing.T) {
	for _, c := range []struct{ steps, rests, want string }{
		{"do d1\n\t\tdo d2\n\t\tdo d3", "m0:30 m1:5", "d1@0 d2@30 d3@35"},
		{"do d1\n\t\tdo d2", "m0:busy", "d1@0 d2@201"},
		{"together\n\t\t\tdo d5\n\t\t\tdo d1\n\t\tdo d2", "m1:30 m2:busy", "d5@0 d1@4 d2@205"},
		{"repeat 2\n\t\t\tdo d1", "m1:10", "d1@0 d1@10"},
	} {
		d := show.NewDraft(script(t, "m", c.steps))
		for _, r := range strings.Fields(c.rests) {
			id, rest, _ := strings.Cut(r, ":")
			s := *d.Now().StepsOf("m")[slices.IndexFunc(d.Now().StepsOf("m"), func(s *show.Step) bool { return s.ID == id })]
			if rest == "busy" {
				call := *s.Action
				call.Params = map[string]string{"busy": "200"}
				s.Action = &call
			} else if _, err := fmt.Sscan(rest, &s.GapMs); err != nil {
				t.Fatal(err)
			}
			d.Put(&s)
		}
		tree, err := Build(d.Now(), "m")
		if err != nil {
			t.Fatal(err)
		}
		var planned []string
		for _, b := range Compile(tree, latencies{}).Bars {
			planned = append(planned, fmt.Sprintf("%s@%d", b.Device, b.Dispatch.Milliseconds()))
		}
		if got := strings.Join(planned, " "); got != c.want {
			t.Errorf("%q with %s is planned as %s, not %s", c.steps, c.rests, got, c.want)
		}
		orders, _ := (&stage{}).play(t, d.Now(), onTime)
		if got := shortly(orders); got != c.want {
			t.Errorf("%q with %s runs as %s, not %s", c.steps, c.rests, got, c.want)
		}
	}
}

func TestAHaltedRunDoesNothingMore(t *testing.T) {
	tree, err := Build(script(t, "m", "do d1\n\t\ttogether\n\t\t\tdo d80\n\t\t\tdo d5\n\t\tdo d2"), "m")
	if err != nil {
		t.Fatal(err)
	}
	r := Start(tree, &stage{}, began)
	if got := shortly(append(r.Due(began), r.Due(began)...)); got != "d1@0 d80@0" {
		t.Errorf("at once: %s", got)
	}
	r.Halt()
	if got := r.Due(began.Add(time.Hour)); len(got) > 0 || r.State() != Halted {
		t.Errorf("after the halt: %s", shortly(got))
	}
	if _, ok := r.Next(); ok {
		t.Error("it wants to be asked again")
	}
}

// TestARunKeepsToItsPlan holds runs of thousands of macros to their plans, asked on
// time and asked late: the same steps, in the same order, at the same times.
func TestARunKeepsToItsPlan(t *testing.T) {
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 6))
		text := generated(r, 2, "")
		if strings.Contains(text, WaitFor) || strings.Contains(text, If) || strings.Contains(text, Turns) || strings.Contains(text, OneOf) {
			continue // what their branches do is not known in advance
		}
		sh := script(t, "m", text)
		var want []string
		for _, b := range planOf(t, sh, "m").Bars {
			want = append(want, fmt.Sprint(b.Step, b.Dispatch))
		}
		for _, late := range []func() time.Duration{onTime, func() time.Duration { return time.Duration(r.IntN(40)) * time.Millisecond }} {
			orders, run := (&stage{}).play(t, sh, late)
			var got []string
			for i, o := range orders {
				got = append(got, fmt.Sprint(o.Step.ID, o.At.Sub(began)))
				if i > 0 && o.At.Before(orders[i-1].At) {
					t.Fatalf("seed %d: %v after %v", seed, o.At, orders[i-1].At)
				}
			}
			slices.Sort(got)
			sorted := slices.Sorted(slices.Values(want))
			if !slices.Equal(got, sorted) || run.State() != Ended {
				t.Fatalf("seed %d: the run did %v, planned was %v\n%s", seed, got, sorted, text)
			}
		}
	}
}

func TestOneOfAndIfTakeOneBranch(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 8))
		text := generated(r, 2, "")
		s := &stage{holds: map[string]time.Duration{"true": 0}, turn: map[string]int{}, r: r}
		orders, run := s.play(t, script(t, "m", text), func() time.Duration { return time.Duration(r.IntN(10)) * time.Millisecond })
		if run.State() != Ended {
			t.Fatalf("seed %d: %s %s\n%s", seed, run.State(), run.Reason, text)
		}
		for i, o := range orders {
			if i > 0 && o.At.Before(orders[i-1].At) {
				t.Fatalf("seed %d: out of order\n%s", seed, text)
			}
		}
	}
}
