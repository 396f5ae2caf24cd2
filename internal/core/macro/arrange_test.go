package macro

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// tree writes the steps of a macro as they are nested: a(b c) d.
func tree(steps []*show.Step, parent string) string {
	var out []string
	for _, s := range Within(steps, parent) {
		text := s.ID
		if in := tree(steps, s.ID); in != "" {
			text += "(" + in + ")"
		}
		out = append(out, text)
	}
	return strings.Join(out, " ")
}

func listed(list ...show.Step) (out []*show.Step) {
	for i, s := range list {
		s.Position = i
		out = append(out, &s)
	}
	return out
}

// with gives the steps after some of them have changed places.
func with(all, changed []*show.Step) []*show.Step {
	out := slices.Clone(all)
	for _, c := range changed {
		i := slices.IndexFunc(out, func(s *show.Step) bool { return s.ID == c.ID })
		out[i] = c
	}
	slices.SortStableFunc(out, func(a, b *show.Step) int { return a.Position - b.Position })
	return out
}

func TestStepsMoveByOneIntoAndOutOfWhatHoldsThem(t *testing.T) {
	all := listed(show.Step{ID: "a", Kind: Do}, show.Step{ID: "t", Kind: Together}, show.Step{ID: "b", Parent: "t", Kind: Do}, show.Step{ID: "c", Kind: Do},
		show.Step{ID: "w", Kind: Wait}, show.Step{ID: "i", Kind: If}, show.Step{ID: "x", Parent: "i", Kind: Branch}, show.Step{ID: "d", Kind: Do})
	for _, c := range []struct{ id, way, want string }{
		{"a", Down, "t(b) a c w i(x) d"},
		{"c", Up, "a c t(b) w i(x) d"},
		{"c", In, "a t(b c) w i(x) d"},
		{"b", Out, "a t b c w i(x) d"},
		{"d", In, "a t(b) c w i(x(d))"}, // into its last branch
		{"a", Up, ""},
		{"d", Down, ""},
		{"a", In, ""},
		{"w", In, ""}, // an action holds nothing
		{"x", Out, ""},
		{"nobody", Up, ""},
	} {
		to, ok := Next(all, c.id, c.way)
		if !ok {
			if c.want != "" {
				t.Errorf("%s %s: it cannot", c.id, c.way)
			}
			continue
		}
		if got := tree(with(all, Place(all, []string{c.id}, to)), ""); got != c.want {
			t.Errorf("%s %s: %s, wanted %s", c.id, c.way, got, c.want)
		}
	}
}

func TestANewStepGoesWhereItBelongs(t *testing.T) {
	all := listed(show.Step{ID: "a", Kind: Do}, show.Step{ID: "t", Kind: Together}, show.Step{ID: "b", Parent: "t", Kind: Do}, show.Step{ID: "e", Kind: Together},
		show.Step{ID: "i", Kind: Turns}, show.Step{ID: "x", Parent: "i", Kind: Branch}, show.Step{ID: "c", Parent: "x", Kind: Do}, show.Step{ID: "y", Parent: "i", Kind: Branch})
	for name, c := range map[string]struct {
		selected, kind string
		outside        bool
		want           Spot
	}{
		"nothing is selected":             {"", Do, false, Spot{"", 4}},
		"after an action":                 {"a", Do, false, Spot{"", 1}},
		"into what is empty":              {"e", Do, false, Spot{"e", 0}},
		"not into what is empty":          {"e", Do, true, Spot{"", 3}},
		"after what has steps":            {"t", Do, false, Spot{"", 2}},
		"beside one in a together":        {"b", Do, false, Spot{"t", 1}},
		"out of a together":               {"b", Do, true, Spot{"", 2}},
		"a wait cannot be together":       {"b", Wait, false, Spot{"", 2}},
		"a wait beside an empty one":      {"e", Wait, false, Spot{"", 3}},
		"into an empty branch":            {"y", Do, false, Spot{"y", 0}},
		"a branch after that it is in":    {"c", Branch, false, Spot{"i", 1}},
		"a branch after a branch":         {"x", Branch, false, Spot{"i", 1}},
		"a branch to what has branches":   {"i", Branch, false, Spot{"i", 2}},
		"a step beside what has branches": {"i", Do, false, Spot{"", 4}},
		"nobody":                          {"gone", Do, false, Spot{"", 4}},
	} {
		if got := After(all, c.selected, c.kind, c.outside); got != c.want {
			t.Errorf("%s: %v, wanted %v", name, got, c.want)
		}
	}
}

func TestMovingStepsAboutLosesNoneAndPutsNoneTwice(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 500 {
		var all []*show.Step
		for i := range 3 + r.IntN(8) {
			s := &show.Step{ID: fmt.Sprint("s", i), Kind: []string{Do, Wait, Together, Repeat}[r.IntN(4)], Position: i}
			if i > 0 {
				if p := all[r.IntN(i)]; MayHold(p.Kind, s.Kind) {
					s.Parent = p.ID
				}
			}
			all = append(all, s)
		}
		for range 20 {
			id := all[r.IntN(len(all))].ID
			if to, ok := Next(all, id, []string{Up, Down, In, Out}[r.IntN(4)]); ok {
				all = with(all, Place(all, []string{id}, to))
			}
			seen := 0
			for _, root := range Within(all, "") {
				seen += len(Under(all, root.ID))
			}
			if seen != len(all) {
				t.Fatalf("%d of %d steps are left: %s", seen, len(all), tree(all, ""))
			}
		}
	}
}

func TestAShiftedStepWaitsLongerOrGetsAWait(t *testing.T) {
	all := listed(show.Step{ID: "a", Kind: Do}, show.Step{ID: "w", Kind: Wait, Ms: 300}, show.Step{ID: "t", Kind: Together}, show.Step{ID: "b", Parent: "t", Kind: Do})
	for _, c := range []struct {
		id   string
		by   int
		wait string
		ms   int
		ok   bool
	}{
		{"b", 200, "w", 500, true}, // the together as a whole
		{"t", -200, "w", 100, true},
		{"t", -900, "w", 0, true},
		{"a", 400, "", 400, true},
		{"a", -400, "", -400, false},
		{"a", 0, "", 0, false},
		{"nobody", 5, "", 0, false},
	} {
		wait, _, ms, ok := Shift(all, c.id, c.by)
		got := ""
		if wait != nil {
			got = wait.ID
		}
		if ok != c.ok || got != c.wait || ok && ms != c.ms {
			t.Errorf("%s by %d: %s %d %v", c.id, c.by, got, ms, ok)
		}
	}
}

var keyOf = func(path string) reading.Key { return reading.Key{Device: "mix", Path: path} }

// used is something that was done after so many milliseconds, which changed a reading.
func used(ms int, device, path string, before, after reading.Value) Used {
	return Used{At: time.Duration(ms) * time.Millisecond, Call: show.Call{Device: device, Action: "set", Params: map[string]string{"to": fmt.Sprint(path, after)}},
		Before: map[reading.Key]reading.Value{keyOf(path): before}, After: map[reading.Key]reading.Value{keyOf(path): after}}
}

func TestUseBecomesStepsWithRoundedWaits(t *testing.T) {
	for name, c := range map[string]struct {
		list []Used
		want string
	}{
		"nothing":            {nil, ""},
		"at the same moment": {[]Used{used(900, "a", "p", 1, 2), used(940, "b", "q", 1, 2)}, "p2 q2"},
		"some time between":  {[]Used{used(0, "a", "p", 1, 2), used(1240, "a", "q", 1, 2), used(4600, "a", "r", 1, 2), used(27_400, "a", "s", 1, 2)}, "p2 1200 q2 3500 r2 23000 s2"},
		"a slip is left out": {[]Used{used(0, "a", "p", 1, 2), used(800, "a", "q", 1, 2), used(1400, "a", "q", 2, 1)}, "p2"},
		"shown for a while":  {[]Used{used(0, "a", "p", 1, 2), used(8000, "a", "p", 2, 1)}, "p2 8000 p1"},
		"a fader on its way": {[]Used{used(0, "a", "p", 1, 2), used(100, "a", "p", 2, 3), used(200, "a", "p", 3, 4)}, "p4"},
		"not undone in the end": {[]Used{used(0, "a", "p", 1, 2), used(600, "a", "p", 2, 3), used(1200, "a", "p", 3, 1)},
			"p2 600 p3 600 p1"},
	} {
		var got []string
		for _, s := range FromUse(c.list) {
			if s.Kind == Wait {
				got = append(got, fmt.Sprint(s.Ms))
			} else {
				got = append(got, s.Action.Params["to"])
			}
		}
		if text := strings.Join(got, " "); text != c.want {
			t.Errorf("%s: %q, wanted %q", name, text, c.want)
		}
	}
}

func TestPicturesTellWhatTheAudienceSeesAndForHowLong(t *testing.T) {
	r := rehearse(t, "do d40\n\t\twait 1000\n\t\tdo d20\n\t\twait 200\n\t\tdo d20", 0)
	out := r.Pictures(func(k reading.Key) bool { return k == program }, func(reading.Key) reading.Value { return "d1" })
	if len(out) != 1 {
		t.Fatalf("outputs %+v", out)
	}
	var got []string
	for _, s := range out[0].Seen {
		got = append(got, fmt.Sprintf("%v %d-%d", s.Value, s.From.Milliseconds(), s.To.Milliseconds()))
	}
	if text := strings.Join(got, ", "); text != "d1 0-40, d40 40-1020, d20 1020-1220" {
		t.Errorf("seen: %s", text)
	}
	if len(r.Pictures(func(reading.Key) bool { return false }, nil)) != 0 {
		t.Error("what is no picture is not seen")
	}
}

func TestWhatSetsAPreviewIsWaitedForByWhatIsComputedFromIt(t *testing.T) {
	tr, err := Build(script(t, "m", "do d40\n\t\tdo d1"), "m")
	if err != nil {
		t.Fatal(err)
	}
	plan := Compile(tr, chained{})
	if got := plan.Bars[1].Dispatch; got != 40*time.Millisecond {
		t.Errorf("the second is sent after %v, wanted when the first is confirmed", got)
	}
}

// chained has every action computed from what d40 sets.
type chained struct{ latencies }

func (c chained) Timing(s *show.Step) (t Timing, err error) {
	t, err = c.latencies.Timing(s)
	if t.Uses = []reading.Key{program}; s.Action.Device == "d40" {
		t.Uses, t.Sets = nil, []reading.Key{program}
	}
	return t, err
}

func TestABaselineIsTheSameAfterItWasStored(t *testing.T) {
	b := &Baseline{}
	now := map[string]reading.Value{"level": -10.0, "mute": true, "input": "3"}
	for path, v := range now {
		b.Capture([]reading.Key{keyOf(path)}, func(reading.Key) reading.Reading { return reading.Reading{Value: v, Quality: reading.Confirmed} })
		b.Gave(keyOf(path), "changed", 0)
	}
	after := Restored(b.Kept())
	back, left := after.Back(func(reading.Key) reading.Reading {
		return reading.Reading{Value: "changed", Quality: reading.Confirmed}
	}, func(reading.Key) bool { return true }, nil)
	if len(back) != 3 || len(left) != 0 {
		t.Fatalf("back %v, left %v", back, left)
	}
	for _, r := range back {
		if r.To != now[r.Key.Path] {
			t.Errorf("%s returns to %v, wanted %v", r.Key.Path, r.To, now[r.Key.Path])
		}
	}
}
