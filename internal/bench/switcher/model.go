// Package switcher is the bench's video switcher: two mix effects, keyers,
// outputs, stills and memories, spoken to in OSC over TCP with SLIP framing.
package switcher

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// FrameRate of the stand-in in frames per second.
const FrameRate = 25

const model = "Larkfell bench switcher 2 M/E, version 1.4"

// Inputs of the demo show; 81 and 82 are stills, 90 to 92 made inside.
var inputs = []struct {
	number int
	name   string
}{
	{1, "Presenter cam"}, {2, "Telescope feed"}, {3, "All-sky cam"}, {4, "Guest cam"}, {5, "Slides"}, {6, "Replay"},
	{81, "Still 1"}, {82, "Still 2"}, {90, "Black"}, {91, "Bars"}, {92, "Matte"}, {93, "Boxes"},
}

var (
	corners = []string{"top left", "top right", "bottom right", "bottom left"}
	kinds   = []string{"mix", "wipe", "dip"}
)

// machine is the switcher without its socket.
type machine struct {
	values *panel.Values
	autos  [3]auto              // by mix effect, from 1
	keyers [keyerCount + 1]auto // that come or go, from 1
	began  map[string]time.Time // what is recorded or streamed, by address
}

// auto is a transition under way.
type auto struct {
	start  time.Time
	frames int
}

// NewMachine gives the simulation without its socket.
func NewMachine() panel.Machine {
	s := &machine{values: panel.NewValues(), began: map[string]time.Time{}}
	add := s.values.Add
	for _, in := range inputs {
		add(fmt.Sprintf("/input/%d/name", in.number), in.name)
		add(fmt.Sprintf("/input/%d/gone", in.number), 0)
		add(fmt.Sprintf("/sound/%d/mode", in.number), modes[0])
	}
	for m := 1; m <= 2; m++ {
		mix := fmt.Sprintf("/mix/%d", m)
		add(mix+"/program", m)
		add(mix+"/preview", m+1)
		add(mix+"/transition/kind", "mix")
		add(mix+"/transition/frames", FrameRate)
		add(mix+"/transition/position", 0.0)
		add(mix+"/keyer/1/on", 0)
		add(mix+"/keyer/1/corner", corners[0])
	}
	for i, name := range []string{"Logo", "Caption", "Count"} {
		add(fmt.Sprintf("/keyer/%d/name", i+1), name)
		add(fmt.Sprintf("/keyer/%d/on", i+1), 0)
		add(fmt.Sprintf("/keyer/%d/frames", i+1), 10)
		add(fmt.Sprintf("/keyer/%d/running", i+1), 0)
	}
	for i, name := range []string{"Dome projector", "Foyer screen", "Presenter's monitor"} {
		add(fmt.Sprintf("/out/%d/name", i+1), name)
		add(fmt.Sprintf("/out/%d/source", i+1), []int{2, 3, 5}[i])
	}
	s.addBoxes()
	add("/still/1/picture", 1)
	add("/still/2/picture", 2)
	add("/pictures/port", 0) // set when the socket of the pictures is open
	add("/model", model)     // last: its report ends the full state
	return s
}

// Values implements panel.Machine.
func (s *machine) Values() *panel.Values { return s.values }

// Do implements panel.Machine.
func (s *machine) Do(m device.Message, now time.Time) ([]device.Message, error) {
	parts := strings.Split(strings.TrimPrefix(m.Address, "/"), "/")
	if parts[0] == "mix" && len(parts) == 3 && (parts[2] == "cut" || parts[2] == "auto") {
		return s.transition(m.Address, parts, now)
	}
	if parts[0] == "memory" && len(parts) == 3 && parts[2] == "run" {
		return s.memory(parts[1])
	}
	if parts[0] == "keyer" && len(parts) == 3 && parts[2] == "auto" {
		return s.keyer(parts[1], m.Args, now)
	}
	if m.Address == "/record/on" || m.Address == "/stream/on" {
		return s.run(m, now)
	}
	old, known := s.values.Get(m.Address)
	if !known {
		return nil, fmt.Errorf("%s is not known here", m.Address)
	}
	last := parts[len(parts)-1]
	if m.Address == "/model" || m.Address == "/pictures/port" || parts[0] != "input" && last == "name" || last == "seconds" || last == "running" {
		return nil, fmt.Errorf("%s cannot be set", m.Address)
	}
	if len(m.Args) != 1 {
		return nil, fmt.Errorf("%s takes one value, not %d", m.Address, len(m.Args))
	}
	v, err := s.accept(m.Address, parts, old, m.Args[0])
	if err != nil {
		return nil, err
	}
	if pos, ok := v.(float64); ok && pos == 1 {
		return s.swap(parts[1]), nil
	}
	return []device.Message{s.values.Put(m.Address, v)}, nil
}

// accept checks a value for an address.
func (s *machine) accept(address string, parts []string, old, v any) (any, error) {
	last := parts[len(parts)-1]
	switch old.(type) {
	case string:
		text, ok := v.(string)
		switch {
		case !ok || text == "" || len(text) > 80:
			return nil, fmt.Errorf("%s takes a text of 1 to 80 bytes", address)
		case last == "kind" && !slices.Contains(kinds, text):
			return nil, fmt.Errorf("%s takes one of %s", address, strings.Join(kinds, ", "))
		case last == "mode" && !slices.Contains(modes, text):
			return nil, fmt.Errorf("%s takes one of %s", address, strings.Join(modes, ", "))
		case last == "corner" && !slices.Contains(corners, text):
			return nil, fmt.Errorf("%s takes one of %s", address, strings.Join(corners, ", "))
		}
		return text, nil
	case float64:
		f, ok := number(v)
		if !ok || f < 0 || f > 1 {
			return nil, fmt.Errorf("%s takes a number from 0 to 1", address)
		}
		return f, nil
	}
	f, ok := number(v)
	n := int(f)
	if !ok || f != math.Trunc(f) {
		return nil, fmt.Errorf("%s takes a whole number", address)
	}
	switch last {
	case "on", "gone":
		if n != 0 && n != 1 {
			return nil, fmt.Errorf("%s takes 0 or 1", address)
		}
	case "program", "preview", "source":
		if gone, has := s.values.Get(fmt.Sprintf("/input/%d/gone", n)); !has || gone == 1 {
			return nil, fmt.Errorf("there is no input %d", n)
		}
	case "layout":
		if n < 1 || n > len(layouts) {
			return nil, fmt.Errorf("there is no layout %d", n)
		}
	case "frames":
		if n < 1 || n > 250 {
			return nil, fmt.Errorf("%s takes 1 to 250 frames", address)
		}
	}
	return n, nil
}

func number(v any) (float64, bool) {
	switch n := v.(type) {
	case int:
		return float64(n), true
	case float64:
		return n, !math.IsNaN(n)
	}
	return 0, false
}

func (s *machine) transition(address string, parts []string, now time.Time) ([]device.Message, error) {
	n, err := strconv.Atoi(parts[1])
	if err != nil || n < 1 || n > 2 {
		return nil, fmt.Errorf("there is no mix effect %s", parts[1])
	}
	if s.autos[n].frames > 0 {
		return nil, fmt.Errorf("%s: a transition is under way", address)
	}
	if parts[2] == "cut" {
		return s.swap(parts[1]), nil
	}
	s.autos[n] = auto{start: now, frames: s.values.Int("/mix/" + parts[1] + "/transition/frames")}
	return nil, nil
}

// swap ends a transition: what was on preview is on program.
func (s *machine) swap(mix string) []device.Message {
	program, preview := "/mix/"+mix+"/program", "/mix/"+mix+"/preview"
	a, b := s.values.Int(program), s.values.Int(preview)
	return []device.Message{s.values.Put(program, b), s.values.Put(preview, a), s.values.Put("/mix/"+mix+"/transition/position", 0.0)}
}

// memory recalls one of two stored looks.
func (s *machine) memory(n string) ([]device.Message, error) {
	looks := map[string][2]int{"1": {1, 2}, "2": {3, 2}}
	look, ok := looks[n]
	if !ok {
		return nil, fmt.Errorf("there is no memory %s", n)
	}
	return []device.Message{s.values.Put("/mix/1/program", look[0]), s.values.Put("/mix/1/preview", look[1]), s.values.Put("/keyer/1/on", 1)}, nil
}

// Tick implements panel.Machine: it moves the transitions under way.
func (s *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	for n := 1; n <= 2; n++ {
		a := &s.autos[n]
		if a.frames == 0 {
			continue
		}
		done := int(now.Sub(a.start) * FrameRate / time.Second)
		if done >= a.frames {
			a.frames = 0
			changed = append(changed, s.swap(strconv.Itoa(n))...)
			continue
		}
		running = true
		pos := math.Round(float64(done)/float64(a.frames)*1000) / 1000
		changed = append(changed, s.values.Put(fmt.Sprintf("/mix/%d/transition/position", n), pos))
	}
	more, goes := s.moveOn(now)
	return append(changed, more...), running || goes
}
