package macro

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
)

// latencies is an Env whose devices are called after their latency: d40 takes 40 ms,
// with a 95th percentile of 44.
type latencies struct{}

func (latencies) FrameRate() float64 { return 25 }

func (latencies) Timing(s *show.Step) (t Timing, err error) {
	c := s.Action
	var ms, own, busy int
	if n, _ := fmt.Sscanf(c.Device, "d%d", &ms); n != 1 {
		return t, errors.New("Not connected.")
	}
	_, _ = fmt.Sscanf(c.Params["own"], "%d", &own)
	lag := time.Duration(ms) * time.Millisecond
	_, _ = fmt.Sscanf(c.Params["busy"], "%d", &busy)
	return Timing{Device: c.Device, Busy: time.Duration(busy) * time.Millisecond, Median: lag, P95: lag + lag/10, Own: time.Duration(own) * time.Millisecond}, nil
}

// script writes steps in short, one a line: indented by what they are in.
//
//	do d40
//	wait 500
//	together
//	  do d80
func script(t testing.TB, name, text string, more ...show.Entity) *show.Show {
	t.Helper()
	d := show.NewDraft(show.Empty())
	d.Put(&show.Macro{ID: name, Name: name})
	parents := []string{""}
	for i, line := range strings.Split(strings.TrimSpace(text), "\n") {
		line = strings.TrimRight(line, " \t")
		body := strings.TrimLeft(line, "\t ")
		depth := (len(line) - len(strings.TrimLeft(line, "\t")))
		depth = max(0, depth-2)
		if i == 0 {
			depth = 0
		}
		words := strings.Fields(body)
		s := &show.Step{ID: fmt.Sprintf("%s%d", name, i), Macro: name, Parent: parents[depth], Position: i, Kind: words[0]}
		arg := func(n int) string {
			if n < len(words) {
				return words[n]
			}
			return ""
		}
		switch s.Kind {
		case Do, Fade:
			s.Action = &show.Call{Device: arg(1), Action: "set", Params: map[string]string{"own": arg(2)}}
			if s.Kind == Fade {
				_, _ = fmt.Sscan(arg(2), &s.Ms)
				s.Action.Params = nil
			}
		case Wait:
			if frames, is := strings.CutSuffix(arg(1), "f"); is {
				_, _ = fmt.Sscan(frames, &s.Frames)
			} else {
				_, _ = fmt.Sscan(arg(1), &s.Ms)
			}
		case WaitFor:
			s.When = "true"
			_, _ = fmt.Sscan(arg(1), &s.LimitMs)
		case Repeat:
			_, _ = fmt.Sscan(arg(1), &s.Count)
		case Run:
			s.Run = arg(1)
		}
		d.Put(s)
		parents = append(parents[:depth+1], s.ID)
	}
	for _, e := range more {
		d.Put(e)
	}
	return d.Now()
}

func planOf(t testing.TB, s *show.Show, name string) *Plan {
	t.Helper()
	tree, err := Build(s, name)
	if err != nil {
		t.Fatal(err)
	}
	return Compile(tree, latencies{})
}

// in short: step 0/40/540 is dispatched at once, has its effect after 40 ms and has
// settled after 540.
func (p *Plan) short() (out []string) {
	for _, b := range p.Bars {
		text := fmt.Sprintf("%d/%d/%d", b.Dispatch.Milliseconds(), b.Starts.Milliseconds(), b.Settles.Milliseconds())
		if b.Segment > 0 {
			text = fmt.Sprintf("%d:%s", b.Segment, text)
		}
		out = append(out, text)
	}
	return out
}

func TestThePlanSaysWhenEverythingHappens(t *testing.T) {
	for name, c := range map[string]struct {
		steps, plan   string
		length, worst int
		open          bool
	}{
		"one after the other": {"do d40\n\t\tdo d80 500", "0/40/40 0/80/580", 580, 580, false},
		"a wait":              {"do d40\n\t\twait 500\n\t\tdo d5", "0/40/40 500/505/505", 505, 505, false},
		"frames":              {"wait 25f\n\t\tdo d0", "1000/1000/1000", 1000, 1000, false},
		"ends with a wait":    {"do d40\n\t\twait 500", "0/40/40", 500, 500, false},
		"together":            {"together\n\t\t\tdo d80\n\t\t\tdo d5\n\t\t\tdo d40 100\n\t\tdo d0", "0/80/80 75/80/80 40/80/180 75/75/75", 180, 180, false},
		"a fade":              {"fade d40 4000\n\t\tdo d0", "0/40/4040 0/0/0", 4040, 4040, false},
		"waits for something": {"do d40 100\n\t\twait-for 2000\n\t\tdo d5", "0/40/140 1:0/5/5", 145, 2145, true},
		"repeats":             {"repeat 3\n\t\t\tdo d5\n\t\t\twait 100", "0/5/5 100/105/105 200/205/205", 300, 300, false},
		"turns":               {"turns\n\t\t\tbranch\n\t\t\t\tdo d5\n\t\t\tbranch\n\t\t\t\twait 300\n\t\t\t\tdo d5\n\t\tdo d0", "0/5/5 300/305/305 300/300/300", 305, 305, false},
		"a branch that waits for something": {"if\n\t\t\tbranch\n\t\t\t\twait-for 1000\n\t\t\t\tdo d5\n\t\t\tbranch\n\t\t\t\tdo d40\n\t\tdo d0",
			"1:0/5/5 0/40/40 2:0/0/0", 40, 1040, true},
		"cannot be sent": {"do away\n\t\tdo d5", "0/0/0 0/5/5", 5, 5, false},
	} {
		p := planOf(t, script(t, "m", c.steps), "m")
		if got := strings.Join(p.short(), " "); got != c.plan {
			t.Errorf("%s: %s, want %s", name, got, c.plan)
		}
		if p.Length.Milliseconds() != int64(c.length) || p.Worst.Milliseconds() != int64(c.worst) || p.Open != c.open {
			t.Errorf("%s: length %v, at worst %v, open %v", name, p.Length, p.Worst, p.Open)
		}
	}
	p := planOf(t, script(t, "m", "together\n\t\t\tdo d80\n\t\t\tdo d5"), "m")
	if g := p.Groups[0]; g.Starts != 80*time.Millisecond || g.Skew != 8*time.Millisecond {
		t.Errorf("the together: %+v", g)
	}
	if p := planOf(t, script(t, "m", "do away"), "m"); p.Bars[0].Problem == "" {
		t.Error("that a step cannot be sent is not said")
	}
}

func TestMacrosRunOthersButNotInACircle(t *testing.T) {
	s := script(t, "a", "do d5\n\t\trun b\n\t\tdo d5", &show.Macro{ID: "b", Name: "b", SpacingMs: 100},
		&show.Step{ID: "b1", Macro: "b", Position: 1, Kind: Wait, Ms: 50}, &show.Step{ID: "b2", Macro: "b", Position: 2, Kind: Do, Action: &show.Call{Device: "d40"}})
	if got := strings.Join(planOf(t, s, "a").short(), " "); got != "0/5/5 150/190/190 150/155/155" {
		t.Errorf("nested: %s", got)
	}
	s = script(t, "Meteor", "run clouds", &show.Macro{ID: "clouds", Name: "Clouds"}, &show.Macro{ID: "night", Name: "Night"},
		&show.Step{ID: "c", Macro: "clouds", Kind: Run, Run: "night"}, &show.Step{ID: "n", Macro: "night", Kind: Run, Run: "Meteor"})
	_, err := Build(s, "Meteor")
	if err == nil || !strings.Contains(err.Error(), "Meteor → Clouds → Night → Meteor") {
		t.Errorf("a circle of three: %v", err)
	}
}

func TestStepsThatCannotBeAreSaid(t *testing.T) {
	for steps, says := range map[string]string{
		"together\n\t\t\twait 5": "Only actions and fades can be together",
		"turns\n\t\t\tdo d5":     "stand in its branches",
		"branch":                 "stand in its branches",
		"repeat 0\n\t\t\tdo d5":  "1 to 100 times",
		"wait-for":               "at most",
		"run nowhere":            "does not exist",
		"repeat 2\n\t\t\ttogether\n\t\t\t\trun nowhere": "Only actions",
	} {
		_, err := Build(script(t, "m", steps), "m")
		var at *Error
		if !errors.As(err, &at) || at.Step == "" || !strings.Contains(at.Text, says) {
			t.Errorf("%q: %v, want %q at a step", steps, err, says)
		}
	}
	s := script(t, "m", "do d5\n\t\tdo d40")
	off := *s.StepsOf("m")[0]
	off.Off = true
	d := show.NewDraft(s)
	d.Put(&off)
	if p := planOf(t, d.Now(), "m"); len(p.Bars) != 1 || p.Bars[0].Device != "d40" {
		t.Errorf("a step that is switched off: %+v", p.Bars)
	}
}

// generated writes a macro by chance.
func generated(r *rand.Rand, indent int, in string) string {
	var b strings.Builder
	tabs := strings.Repeat("\t", indent)
	for range 1 + r.IntN(4) {
		kinds := []string{Do, Do, Wait, WaitFor, Together, Fade, If, Turns, OneOf, PutBack, Repeat}
		switch in {
		case Together:
			kinds = []string{Do, Fade}
		case If, Turns, OneOf:
			kinds = []string{Branch}
		}
		kind := kinds[r.IntN(len(kinds))]
		if indent > 5 && kind != Do && kind != Fade && kind != Branch {
			kind = Wait
		}
		fmt.Fprintf(&b, "%s%s", tabs, kind)
		switch kind {
		case Do, Fade:
			fmt.Fprintf(&b, " d%d %d", r.IntN(200), r.IntN(2000))
		case Wait, WaitFor:
			fmt.Fprintf(&b, " %d", 1+r.IntN(2000))
		case Repeat:
			fmt.Fprintf(&b, " %d", 1+r.IntN(3))
		}
		b.WriteByte('\n')
		switch kind {
		case Together, If, Turns, OneOf, Branch, Repeat:
			b.WriteString(generated(r, indent+1, kind))
		}
	}
	return b.String()
}

func TestPlansHoldForMacrosOfEveryKind(t *testing.T) {
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 5))
		text := generated(r, 2, "")
		s := script(t, "m", text)
		p := planOf(t, s, "m")
		starts := map[string]Group{}
		for _, g := range p.Groups {
			starts[fmt.Sprint(g.Step, g.Segment, g.Starts)] = g
		}
		for _, b := range p.Bars {
			if b.Dispatch < 0 || b.Starts != b.Dispatch+b.Median || b.Settles != b.Starts+b.Own {
				t.Fatalf("seed %d: %+v", seed, b)
			}
			// All effects of a together start at its mark.
			if _, ok := starts[fmt.Sprint(b.Group, b.Segment, b.Starts)]; b.Group != "" && !ok {
				t.Fatalf("seed %d: a child of %s starts at %v\n%s", seed, b.Group, b.Starts, text)
			}
			if p.Length < b.Settles {
				t.Fatalf("seed %d: the plan is %v long, and a step settles at %v\n%s", seed, p.Length, b.Settles, text)
			}
		}
		if p.Worst < p.Length || p.Open != strings.Contains(text, WaitFor) {
			t.Fatalf("seed %d: length %v, worst %v, open %v\n%s", seed, p.Length, p.Worst, p.Open, text)
		}
	}
}
