package switcher

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
)

func say(address string, args ...any) device.Message {
	return device.Message{Address: address, Args: args}
}

func TestTheSwitcherDoesWhatASwitcherDoes(t *testing.T) {
	now := time.Unix(0, 0)
	for name, c := range map[string]struct {
		do   []device.Message
		want map[string]any
	}{
		"a cut swaps program and preview": {[]device.Message{say("/mix/1/cut")}, map[string]any{"/mix/1/program": 2, "/mix/1/preview": 1}},
		"program is set at once":          {[]device.Message{say("/mix/2/program", 90)}, map[string]any{"/mix/2/program": 90, "/mix/1/program": 1}},
		"the lever at its end swaps":      {[]device.Message{say("/mix/1/transition/position", 1.0)}, map[string]any{"/mix/1/program": 2, "/mix/1/transition/position": 0.0}},
		"an output is routed":             {[]device.Message{say("/out/2/source", 5)}, map[string]any{"/out/2/source": 5}},
		"a keyer is switched":             {[]device.Message{say("/keyer/2/on", 1)}, map[string]any{"/keyer/2/on": 1, "/keyer/1/on": 0}},
		"a memory sets several things":    {[]device.Message{say("/memory/2/run")}, map[string]any{"/mix/1/program": 3, "/mix/1/preview": 2, "/keyer/1/on": 1}},
		"an input is renamed":             {[]device.Message{say("/input/4/name", "Door cam")}, map[string]any{"/input/4/name": "Door cam"}},
	} {
		s := newState()
		for _, m := range c.do {
			if _, err := s.do(m, now); err != nil {
				t.Errorf("%s: %v", name, err)
			}
		}
		for address, want := range c.want {
			if got := s.values[address]; got != want {
				t.Errorf("%s: %s is %v, want %v", name, address, got, want)
			}
		}
	}
}

func TestAnAutoTakesItsFrames(t *testing.T) {
	s, now := newState(), time.Unix(0, 0)
	if _, err := s.do(say("/mix/1/transition/frames", 10), now); err != nil {
		t.Fatal(err)
	}
	if _, err := s.do(say("/mix/1/auto"), now); err != nil {
		t.Fatal(err)
	}
	if _, running := s.tick(now.Add(200 * time.Millisecond)); !running || s.values["/mix/1/transition/position"] != 0.5 || s.values["/mix/1/program"] != 1 {
		t.Errorf("half way: %v", s.values["/mix/1/transition/position"])
	}
	if _, err := s.do(say("/mix/1/cut"), now); err == nil {
		t.Error("a cut during a transition was carried out")
	}
	if _, running := s.tick(now.Add(400 * time.Millisecond)); running || s.values["/mix/1/program"] != 2 || s.values["/mix/1/transition/position"] != 0.0 {
		t.Errorf("at its end program is %v", s.values["/mix/1/program"])
	}
}

func TestNonsenseGetsAnHonestAnswer(t *testing.T) {
	s := newState()
	before := fmt.Sprint(s.values)
	for _, m := range []device.Message{
		say("/mix/1/program", 7), say("/mix/1/program"), say("/mix/1/program", "one"), say("/mix/1/program", 1, 2), say("/mix/3/cut"), say("/mix/x/auto"),
		say("/nothing", 1), say("/model", "mine"), say("/keyer/1/on", 2), say("/keyer/1/name", "x"), say("/mix/1/transition/frames", 0),
		say("/mix/1/transition/kind", "explode"), say("/mix/1/transition/position", 1.5), say("/memory/9/run"), say("/input/1/name", ""),
		say("/input/1/name", strings.Repeat("x", 81)), say("/mix/1/keyer/1/corner", "middle"), say("/mix/1/program", 1.5), say(""), say("/"), say("/mix"),
		say("/keyer"), say("/memory"),
	} {
		if changed, err := s.do(m, time.Unix(0, 0)); err == nil {
			t.Errorf("%v was carried out and changed %v", m, changed)
		}
	}
	if after := fmt.Sprint(s.values); after != before {
		t.Error("nonsense changed something")
	}
}

func TestAGoneInputCannotBeChosen(t *testing.T) {
	s := newState()
	if _, err := s.do(say("/input/4/gone", 1), time.Unix(0, 0)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.do(say("/mix/1/program", 4), time.Unix(0, 0)); err == nil {
		t.Error("an input that is gone went on program")
	}
}
