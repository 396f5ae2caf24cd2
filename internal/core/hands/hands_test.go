package hands

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/input"
	"synaptor/internal/core/midi"
	"synaptor/internal/core/show"
)

// events reads events as they are written here: "KEY_A down", "controller 1 7 at 64", "REL_WHEEL by -1", "ABS_X at 10 of 0..255".
func events(lines ...string) (out []Event) {
	for _, line := range lines {
		var e Event
		head, tail := line, ""
		for word, sort := range map[string]Sort{" down": On, " up": Off} {
			if source, is := strings.CutSuffix(line, word); is {
				e.Source, e.Sort = source, sort
			}
		}
		if e.Sort == 0 {
			e.Sort = At
			if head, tail, _ = strings.Cut(line, " at "); tail == "" {
				e.Sort = By
				head, tail, _ = strings.Cut(line, " by ")
			}
			e.Source, e.High = head, 127
			value, ends, _ := strings.Cut(tail, " of ")
			fmt.Sscan(value, &e.Value)
			if low, high, is := strings.Cut(ends, ".."); is {
				fmt.Sscan(low, &e.Low)
				fmt.Sscan(high, &e.High)
			}
			if strings.HasPrefix(head, "bend") {
				e.High = fullScale
			}
		}
		for i, mod := range modNames {
			if rest, is := strings.CutPrefix(e.Source, mod+"+"); is {
				e.Source = rest
				e.Mods |= 1 << i
			}
		}
		out = append(out, e)
	}
	return out
}

// done writes what comes of events, as "a1 down, dial1 turn 2".
func done(t *Translator, all []Event) string {
	var out []string
	for _, e := range all {
		moves, _ := t.Take(e)
		for _, m := range moves {
			text := m.Control + " " + string(m.Edge)
			if m.Edge == input.Turns || m.Edge == input.Moves {
				text += fmt.Sprintf(" %.3g", m.Amount)
			}
			out = append(out, text)
		}
	}
	return strings.Join(out, ", ")
}

func key(source, control string) show.Binding {
	return show.Binding{Source: source, Control: control, As: show.AsKey}
}

func TestWhatHardwareSaysIsDoneToControls(t *testing.T) {
	dial := func(encoding string) show.Binding {
		return show.Binding{Source: "controller 1 21", Control: "dial1", As: show.AsDial, Encoding: encoding}
	}
	slider := func(b show.Binding) show.Binding {
		b.Control, b.As = "slider1", show.AsSlider
		return b
	}
	for name, c := range map[string]struct {
		bindings []show.Binding
		events   []Event
		want     string
	}{
		"a key":                        {[]show.Binding{key("note 1 36", "a1")}, events("note 1 36 down", "note 1 36 up"), "a1 down, a1 up"},
		"down again is nothing":        {[]show.Binding{key("note 1 36", "a1")}, events("note 1 36 down", "note 1 36 down", "note 1 36 up", "note 1 36 up"), "a1 down, a1 up"},
		"two sources hold one control": {[]show.Binding{key("x", "a1"), key("y", "a1")}, events("x down", "y down", "x up", "y up"), "a1 down, a1 up"},
		"nothing is mapped to it":      {[]show.Binding{key("x", "")}, events("x down", "x up", "z down"), ""},
		"a combination":                {[]show.Binding{key("F13", "a1"), key("Ctrl+Shift+F13", "b1")}, events("Ctrl+Shift+F13 down", "F13 up", "F13 down", "F13 up"), "b1 down, b1 up, a1 down, a1 up"},
		"none stands for another":      {[]show.Binding{key("F13", "a1")}, events("Ctrl+F13 down", "Ctrl+F13 up"), ""},
		"a modifier that is a control": {[]show.Binding{key("F13", "a1"), key("ShiftLeft", "d1")}, events("ShiftLeft down", "Shift+F13 down", "Shift+F13 up", "ShiftLeft up"), "d1 down, a1 down, a1 up, d1 up"},
		"a controller as a key":        {[]show.Binding{key("controller 1 64", "a1")}, events("controller 1 64 at 127", "controller 1 64 at 0"), "a1 down, a1 up"},
		"it trembles in the middle":    {[]show.Binding{key("controller 1 64", "a1")}, events("controller 1 64 at 80", "controller 1 64 at 60", "controller 1 64 at 80", "controller 1 64 at 40"), "a1 down, a1 up"},
		"a wheel as a key":             {[]show.Binding{key("REL_WHEEL", "a1")}, events("REL_WHEEL by 1", "REL_WHEEL by 0"), "a1 down, a1 up"},
		"two's complement":             {[]show.Binding{dial(show.Twos)}, events("controller 1 21 at 1", "controller 1 21 at 127", "controller 1 21 at 3", "controller 1 21 at 125"), "dial1 turn 1, dial1 turn -1, dial1 turn 3, dial1 turn -3"},
		"around 64":                    {[]show.Binding{dial(show.Offset)}, events("controller 1 21 at 65", "controller 1 21 at 63", "controller 1 21 at 64"), "dial1 turn 1, dial1 turn -1"},
		"with a sign":                  {[]show.Binding{dial(show.Sign)}, events("controller 1 21 at 2", "controller 1 21 at 66", "controller 1 21 at 64"), "dial1 turn 2, dial1 turn -2"},
		"a dial with ends":             {[]show.Binding{dial(show.Absolute)}, events("controller 1 21 at 0", "controller 1 21 at 64", "controller 1 21 at 127", "controller 1 21 at 0"), "dial1 turn 12, dial1 turn 12, dial1 turn -24"},
		"a wheel as a dial":            {[]show.Binding{{Source: "REL_WHEEL", Control: "dial1", As: show.AsDial}}, events("REL_WHEEL by -2"), "dial1 turn -2"},
		"a fader":                      {[]show.Binding{slider(show.Binding{Source: "controller 1 7"})}, events("controller 1 7 at 0", "controller 1 7 at 127"), "slider1 slide 0, slider1 slide 1"},
		"a bend":                       {[]show.Binding{slider(show.Binding{Source: "bend 1"})}, events("bend 1 at 8192"), "slider1 slide 0.5"},
		"two halves":                   {[]show.Binding{slider(show.Binding{Source: "controller 1 7", Encoding: show.Pair})}, events("controller 1 7 at 64", "controller 1 39 at 0", "controller 1 7 at 127", "controller 1 39 at 127"), "slider1 slide 0.5, slider1 slide 1"},
		"an axis as it was calibrated": {[]show.Binding{slider(show.Binding{Source: "ABS_Z", Low: 20, High: 220})}, events("ABS_Z at 20 of 0..255", "ABS_Z at 120 of 0..255", "ABS_Z at 240 of 0..255"), "slider1 slide 0, slider1 slide 0.5, slider1 slide 1"},
		"turned round":                 {[]show.Binding{slider(show.Binding{Source: "ABS_Z", Low: 255, High: 0})}, events("ABS_Z at 255 of 0..255", "ABS_Z at 0 of 0..255"), "slider1 slide 0, slider1 slide 1"},
		"dead at its ends":             {[]show.Binding{slider(show.Binding{Source: "ABS_Z", Dead: 0.1})}, events("ABS_Z at 9 of 0..100", "ABS_Z at 50 of 0..100", "ABS_Z at 91 of 0..100"), "slider1 slide 0, slider1 slide 0.5, slider1 slide 1"},
		"an axis that trembles":        {[]show.Binding{slider(show.Binding{Source: "ABS_Z"})}, events("ABS_Z at 500 of 0..1000", "ABS_Z at 502 of 0..1000", "ABS_Z at 499 of 0..1000", "ABS_Z at 520 of 0..1000", "ABS_Z at 512 of 0..1000", "ABS_Z at 531 of 0..1000"), "slider1 slide 0.5, slider1 slide 0.52, slider1 slide 0.531"},
		"a hand on a fader is no key":  {[]show.Binding{slider(show.Binding{Source: "bend 1", Touched: "note 1 104"})}, events("note 1 104 down", "bend 1 at 0", "note 1 104 up"), "slider1 slide 0"},
	} {
		if got := done(NewTranslator(c.bindings), c.events); got != c.want {
			t.Errorf("%s: %s, not %s", name, got, c.want)
		}
	}
}

func TestWhatIsDownAtTheStartDoesNothingUntilItWasUp(t *testing.T) {
	tr := NewTranslator([]show.Binding{key("ABS_X", "pedal1"), {Source: "ABS_Y", Control: "slider1", As: show.AsSlider}})
	for _, e := range events("ABS_X at 255 of 0..255", "ABS_Y at 100 of 0..255") {
		tr.Stand(e, false)
	}
	if got := tr.Stuck(); !reflect.DeepEqual(got, []string{"ABS_X"}) {
		t.Errorf("stuck are %v", got)
	}
	if got := done(tr, events("ABS_X at 254 of 0..255", "ABS_Y at 100 of 0..255", "ABS_X at 3 of 0..255", "ABS_X at 250 of 0..255")); got != "pedal1 down" {
		t.Errorf("done is %s", got)
	}
	if got := tr.Stuck(); got != nil {
		t.Errorf("stuck are %v", got)
	}
}

func TestAKeyThatIsDownAtTheStartIsStuckUntilItIsLetGo(t *testing.T) {
	tr := NewTranslator([]show.Binding{key("KEY_KP1", "a1")})
	tr.Stand(Event{Source: "KEY_KP1", Sort: On}, true)
	if got := tr.Stuck(); !reflect.DeepEqual(got, []string{"KEY_KP1"}) {
		t.Errorf("stuck are %v", got)
	}
	if got := done(tr, events("KEY_KP1 up", "KEY_KP1 down")); got != "a1 down" || tr.Stuck() != nil {
		t.Errorf("let go, and pressed: %s; stuck are %v", got, tr.Stuck())
	}
}

func TestAFaderIsSentItsLevelUnlessAHandIsOnIt(t *testing.T) {
	tr := NewTranslator([]show.Binding{{Source: "bend 1", Control: "slider1", As: show.AsSlider, Touched: "note 1 104", Level: true}})
	if !tr.Follows("bend 1", 0.5) {
		t.Fatal("it does not follow")
	}
	if got := done(tr, events("bend 1 at 8192")); got != "" {
		t.Errorf("that it did what it was told is taken for a hand: %s", got)
	}
	if got := done(tr, events("note 1 104 down", "bend 1 at 16383")); got != "slider1 slide 1" {
		t.Errorf("a hand does %s", got)
	}
	if tr.Follows("bend 1", 0.2) || !tr.Hand("bend 1") {
		t.Error("it is sent its level under a hand")
	}
	done(tr, events("note 1 104 up"))
	if !tr.Follows("bend 1", 0.2) || tr.Follows("bend 2", 0) {
		t.Error("after the hand it does not follow, or another one does")
	}
}

func TestAnEditKeepsWhatIsHeld(t *testing.T) {
	old := NewTranslator([]show.Binding{key("x", "a1"), key("y", "b1"), key("Ctrl+z", "c1")})
	done(old, events("x down", "y down", "Ctrl+z down"))
	now := NewTranslator([]show.Binding{key("x", "a1"), key("y", "b2"), key("Ctrl+z", "c1")})
	released := now.Keep(old)
	if want := []Move{{Control: "b1", Edge: input.Up}}; !reflect.DeepEqual(released, want) {
		t.Errorf("let go is %v", released)
	}
	if got := done(now, events("x up", "y up", "z up", "y down")); got != "a1 up, c1 up, b2 down" {
		t.Errorf("then %s", got)
	}
}

func TestLampsAreToldByRole(t *testing.T) {
	b := show.Binding{Lamps: map[string]int{"on-air": 5, "any": 1, "off": 9}}
	for _, c := range []struct {
		roles []string
		want  int
	}{{[]string{"on-air", "preview"}, 5}, {[]string{"preview", "on-air"}, 5}, {[]string{"preview"}, 1}, {nil, 9}} {
		if got, ok := b.Lamp(c.roles); got != c.want || !ok {
			t.Errorf("with %v it is %d", c.roles, got)
		}
	}
	if _, ok := (show.Binding{}).Lamp([]string{"set"}); ok {
		t.Error("one without a table is told something")
	}
	for source, want := range map[string]string{"note 2 60": "913c40", "controller 1 7": "b00740", "bend 1": "", "KEY_A": "", "note 99 1": "", "program 1 2": ""} {
		if got := fmt.Sprintf("%x", ToMIDI(source, 64)); got != want {
			t.Errorf("%s is told %s", source, got)
		}
	}
	for _, c := range []struct {
		source string
		pair   bool
		want   string
	}{{"bend 3", false, "e27f7f"}, {"controller 1 7", false, "b0077f"}, {"controller 1 7", true, "b0077fb0277f"}, {"controller 1 70", true, "b0467f"}, {"ABS_X", false, ""}} {
		if got := fmt.Sprintf("%x", LevelToMIDI(c.source, c.pair, 1)); got != c.want {
			t.Errorf("%s goes up by %s, not %s", c.source, got, c.want)
		}
	}
}

func TestWhatWasTouchedIsFoundOut(t *testing.T) {
	many := func(source string, values ...int) (out []string) {
		for _, v := range values {
			out = append(out, fmt.Sprintf("%s at %d", source, v))
		}
		return out
	}
	sweep := func(source, ends string, from, to int) (out []string) {
		for i := range 21 {
			out = append(out, fmt.Sprintf("%s at %d of %s", source, from+(to-from)*i/20, ends))
		}
		return out
	}
	var halves []string
	for i := range 20 {
		halves = append(halves, fmt.Sprintf("controller 1 3 at %d", i*5), fmt.Sprintf("controller 1 35 at %d", i*37%128))
	}
	for name, c := range map[string]struct {
		kind   string
		events []string
		want   show.Binding
		sure   bool
		text   string
	}{
		"a key":                       {"key", []string{"note 1 36 down"}, key("note 1 36", ""), true, ""},
		"a combination":               {"key", []string{"ControlLeft down", "Ctrl+F13 down", "F13 up", "ControlLeft up"}, key("Ctrl+F13", ""), true, ""},
		"a modifier alone":            {"key", []string{"ShiftLeft down", "ShiftLeft up"}, key("ShiftLeft", ""), true, ""},
		"a key as numbers":            {"key", many("controller 1 64", 127, 0), key("controller 1 64", ""), true, ""},
		"two's complement":            {"dial", many("controller 1 21", 1, 1, 1, 2, 1, 127, 127, 126, 127), show.Binding{Source: "controller 1 21", As: "dial", Encoding: "twos"}, true, "two's"},
		"around 64":                   {"dial", many("controller 1 21", 65, 65, 65, 66, 63, 63, 62), show.Binding{Source: "controller 1 21", As: "dial", Encoding: "offset"}, true, "64"},
		"with a sign":                 {"dial", many("controller 1 21", 1, 1, 1, 2, 65, 65, 66), show.Binding{Source: "controller 1 21", As: "dial", Encoding: "sign"}, true, "sign"},
		"turned one way only":         {"dial", many("controller 1 21", 1, 1, 1, 1, 1), show.Binding{Source: "controller 1 21", As: "dial", Encoding: "twos"}, false, "other way"},
		"a dial with ends":            {"dial", sweep("controller 1 22", "0..127", 10, 100), show.Binding{Source: "controller 1 22", As: "dial", Encoding: "absolute"}, true, "ends"},
		"a fader":                     {"slider", sweep("controller 1 7", "0..127", 0, 127), show.Binding{Source: "controller 1 7", As: "slider"}, true, ""},
		"a fader around the middle":   {"slider", sweep("controller 1 7", "0..127", 50, 80), show.Binding{Source: "controller 1 7", As: "slider"}, true, ""},
		"a fader that hardly moved":   {"slider", sweep("controller 1 7", "0..127", 60, 65), show.Binding{Source: "controller 1 7", As: "slider"}, false, "one end"},
		"two halves":                  {"slider", halves, show.Binding{Source: "controller 1 3", As: "slider", Encoding: "pair"}, true, ""},
		"a motor fader":               {"slider", append([]string{"note 1 104 down"}, sweep("bend 1", "0..16383", 0, 16000)...), show.Binding{Source: "bend 1", As: "slider", Touched: "note 1 104"}, true, ""},
		"an axis":                     {"slider", sweep("ABS_Z", "0..1023", 30, 990), show.Binding{Source: "ABS_Z", As: "slider", Low: 30, High: 990}, true, ""},
		"an axis that rests above":    {"slider", sweep("ABS_Z", "0..1023", 1000, 20), show.Binding{Source: "ABS_Z", As: "slider", Low: 1000, High: 20}, true, ""},
		"an axis as a pedal":          {"pedal", sweep("ABS_Z", "0..255", 0, 255), show.Binding{Source: "ABS_Z", As: "key", High: 255}, true, "middle"},
		"a wheel":                     {"dial", []string{"REL_WHEEL by 1"}, show.Binding{Source: "REL_WHEEL", As: "dial"}, true, ""},
		"a dial for a key":            {"key", many("controller 1 21", 1, 1, 1, 127, 127), show.Binding{Source: "controller 1 21", As: "dial", Encoding: "twos"}, false, "Touch a key"},
		"a key for a slider":          {"slider", []string{"KEY_A down"}, key("KEY_A", ""), false, "Touch a fader"},
		"for any control":             {"", sweep("ABS_Z", "0..255", 0, 255), show.Binding{Source: "ABS_Z", As: "slider", High: 255}, true, ""},
		"while another axis trembles": {"key", []string{"ABS_RZ at 128 of 0..255", "BTN_TRIGGER down", "ABS_RZ at 129 of 0..255", "ABS_RZ at 128 of 0..255", "ABS_RZ at 129 of 0..255", "ABS_RZ at 128 of 0..255"}, key("BTN_TRIGGER", ""), true, ""},
	} {
		l := NewLearner(c.kind)
		var got Proposal
		for _, e := range events(c.events...) {
			if p, ok := l.Take(e); ok {
				got = p
			}
		}
		if !reflect.DeepEqual(got.Binding, c.want) || got.Sure != c.sure || !strings.Contains(got.Text, c.text) {
			t.Errorf("%s: %+v", name, got)
		}
	}
}

func TestWhatIsLearnedIsSeenToMove(t *testing.T) {
	l := NewLearner("slider")
	var got Proposal
	for i := range 128 {
		got, _ = l.Take(Event{Source: "controller 1 7", Sort: At, Value: float64(i), High: 127})
	}
	if got.Share != 1 {
		t.Errorf("at its end it is shown at %v", got.Share)
	}
	l = NewLearner("dial")
	for _, e := range events("controller 1 21 at 1", "controller 1 21 at 1", "controller 1 21 at 1", "controller 1 21 at 127", "controller 1 21 at 127", "controller 1 21 at 127", "controller 1 21 at 127") {
		got, _ = l.Take(e)
	}
	if got.Turns != -1 {
		t.Errorf("it has turned by %v", got.Turns)
	}
}

func TestEveryMessageOfMIDIIsAnEvent(t *testing.T) {
	for _, c := range []struct {
		m    midi.Message
		want string
	}{
		{midi.Message{Kind: midi.NoteOn, Channel: 2, Number: 60, Value: 1}, "note 2 60"}, {midi.Message{Kind: midi.Controller, Channel: 1, Number: 7}, "controller 1 7"},
		{midi.Message{Kind: midi.Bend, Channel: 9}, "bend 9"}, {midi.Message{Kind: midi.Program, Channel: 1, Number: 3}, "program 1 3"},
	} {
		if got := OfMIDI(c.m); len(got) == 0 || got[0].Source != c.want {
			t.Errorf("%+v is %+v", c.m, got)
		}
	}
	if got := OfMIDI(midi.Message{Kind: midi.Quarter}); got != nil {
		t.Errorf("a quarter frame is %+v", got)
	}
}

// FuzzTranslator holds that controls go down and up in turn, and that nothing is out of its range, whatever comes.
func FuzzTranslator(f *testing.F) {
	f.Add(uint64(1), 50)
	f.Add(uint64(7), 400)
	f.Fuzz(func(t *testing.T, seed uint64, n int) {
		r := rand.New(rand.NewPCG(seed, 1))
		sources := []string{"x", "y", "ShiftLeft", "controller 1 7", "controller 1 39", "bend 1", "ABS_X"}
		bindings := func() (out []show.Binding) {
			for _, s := range sources {
				b := show.Binding{Source: s, Control: []string{"a1", "b1", "slider1", ""}[r.IntN(4)], As: []string{show.AsKey, show.AsDial, show.AsSlider}[r.IntN(3)]}
				if b.As == show.AsDial {
					b.Encoding = append(slices.Clone(show.Encodings), "")[r.IntN(5)]
				}
				if b.As == show.AsSlider && r.IntN(2) == 0 {
					b.Encoding = show.Pair
				}
				out = append(out, b)
			}
			return out
		}
		tr, down := NewTranslator(bindings()), map[string]bool{}
		check := func(moves []Move) {
			for _, m := range moves {
				switch {
				case m.Control == "":
					t.Fatalf("nothing is moved: %+v", m)
				case m.Edge == input.Down && down[m.Control], m.Edge == input.Up && !down[m.Control]:
					t.Fatalf("%s goes %s twice", m.Control, m.Edge)
				case m.Edge == input.Moves && !(m.Amount >= 0 && m.Amount <= 1), m.Edge == input.Turns && !(math.Abs(m.Amount) < 1e12):
					t.Fatalf("it is moved by %v", m.Amount)
				}
				switch m.Edge {
				case input.Down, input.Up:
					down[m.Control] = m.Edge == input.Down
				}
			}
		}
		l := NewLearner([]string{"", "key", "dial", "slider"}[r.IntN(4)])
		for range min(n, 500) {
			e := Event{Source: sources[r.IntN(len(sources))], Sort: Sort(1 + r.IntN(4)), Value: r.NormFloat64() * 200, High: 127, Mods: Mods(r.IntN(16))}
			if r.IntN(30) == 0 {
				e.Value = []float64{math.NaN(), math.Inf(1), 1e300, -1e300}[r.IntN(4)]
			}
			moves, _ := tr.Take(e)
			check(moves)
			l.Take(e)
			if r.IntN(40) == 0 {
				next := NewTranslator(bindings())
				check(next.Keep(tr))
				tr = next
			}
		}
	})
}
