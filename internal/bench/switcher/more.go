package switcher

import (
	"fmt"
	"strconv"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// keyerCount is how many downstream keyers there are.
const keyerCount = 3

var (
	// modes are how the sound of an input goes along: not at all, always, or with its picture.
	modes = []string{"off", "on", "with the picture"}
	// layouts put several pictures into the input Boxes.
	layouts = []string{"Two side by side", "Speaker and slides", "Three", "Four"}
)

// boxCount is how many pictures a layout has at most.
const boxCount = 4

func (s *machine) addBoxes() {
	for i, name := range layouts {
		s.values.Add(fmt.Sprintf("/layout/%d/name", i+1), name)
	}
	s.values.Add("/boxes/layout", 1)
	for i := range boxCount {
		s.values.Add(fmt.Sprintf("/box/%d/source", i+1), i+1)
	}
	for _, what := range []string{"record", "stream"} {
		s.values.Add("/"+what+"/on", 0)
		s.values.Add("/"+what+"/seconds", 0)
	}
}

// keyer has a keyer come (1) or go (0) with a transition of its own.
func (s *machine) keyer(n string, args []any, now time.Time) ([]device.Message, error) {
	k, err := strconv.Atoi(n)
	if err != nil || k < 1 || k > keyerCount || len(args) != 1 {
		return nil, fmt.Errorf("there is no keyer %s, or it is not said whether it comes or goes", n)
	}
	to, err := panel.Accept("a keyer", 0, args[0], panel.Limits{Max: 1})
	at := "/keyer/" + n
	switch {
	case err != nil:
		return nil, err
	case s.keyers[k].frames > 0:
		return nil, fmt.Errorf("%s: its transition is under way", at+"/auto")
	case to == s.values.Int(at+"/on"):
		return []device.Message{s.values.Put(at+"/on", to)}, nil
	}
	s.keyers[k] = auto{start: now, frames: s.values.Int(at + "/frames")}
	return []device.Message{s.values.Put(at+"/running", 1)}, nil
}

// run starts and stops a recording or a stream.
func (s *machine) run(m device.Message, now time.Time) ([]device.Message, error) {
	on, err := panel.Accept(m.Address, 0, panel.Arg(m, 0), panel.Limits{Max: 1})
	if err != nil {
		return nil, err
	}
	seconds := m.Address[:len(m.Address)-len("on")] + "seconds"
	if delete(s.began, seconds); on == 1 {
		s.began[seconds] = now
	}
	return []device.Message{s.values.Put(m.Address, on), s.values.Put(seconds, 0)}, nil
}

// moveOn moves the keyers and the clocks.
func (s *machine) moveOn(now time.Time) (changed []device.Message, running bool) {
	for k := 1; k <= keyerCount; k++ {
		a := &s.keyers[k]
		if a.frames == 0 {
			continue
		}
		if int(now.Sub(a.start)*FrameRate/time.Second) < a.frames {
			running = true
			continue
		}
		a.frames = 0
		at := fmt.Sprintf("/keyer/%d", k)
		changed = append(changed, s.values.Put(at+"/on", 1-s.values.Int(at+"/on")), s.values.Put(at+"/running", 0))
	}
	for at, since := range s.began {
		if n := int(now.Sub(since).Seconds()); n != s.values.Int(at) {
			changed = append(changed, s.values.Put(at, n))
		}
	}
	return changed, running || len(s.began) > 0
}
