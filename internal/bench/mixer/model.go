// Package mixer is the bench's sound desk: six channels, two effect returns, a
// main fader and a recorded-music player, spoken to in OSC over UDP.
// Subscriptions expire unless they are renewed.
package mixer

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench sound desk, version 2.3"

var channels = []string{"Imke", "Guest 1", "Guest 2", "Dome room", "Music", "Replay"}

// scenes are what the desk can be set to at once: the channels that are open, and the level of each, in decibels.
var scenes = []struct {
	name   string
	open   []int
	levels []float64
}{
	{"Talk", []int{1}, []float64{-4, -10, -10, -20, -30, -10}},
	{"Guests", []int{1, 2, 3}, []float64{-4, -6, -6, -20, -40, -10}},
	{"Music only", []int{5}, []float64{-10, -10, -10, -20, -6, -10}},
}

// lowest and highest are the ends of a fader, in decibels; below the lowest it
// is shut, which is minus infinity.
const (
	lowest  = -90.0
	highest = 10.0
)

// machine is the desk without its socket. Levels are in decibels.
type machine struct{ values *panel.Values }

// NewMachine gives the simulation without its socket.
func NewMachine() panel.Machine {
	s := &machine{values: panel.NewValues()}
	add := s.values.Add
	for i, name := range channels {
		ch := fmt.Sprintf("/channel/%d", i+1)
		add(ch+"/name", name)
		add(ch+"/mute", 1)
		add(ch+"/level", -10.0)
		add(ch+"/solo", 0)
	}
	add("/return/1/mute", 0)
	add("/return/2/mute", 0)
	for n := 1; n <= 3; n++ {
		add(fmt.Sprintf("/track/%d/play", n), 0)
	}
	add("/main/level", 0.0)
	for i, sc := range scenes {
		add(fmt.Sprintf("/scene/%d/name", i+1), sc.name)
	}
	add("/scene/at", 0)
	add("/model", model)
	return s
}

// Values implements panel.Machine.
func (s *machine) Values() *panel.Values { return s.values }

// Tick implements panel.Machine: nothing here moves by itself.
func (s *machine) Tick(time.Time) ([]device.Message, bool) { return nil, false }

// Do implements panel.Machine.
func (s *machine) Do(m device.Message, _ time.Time) ([]device.Message, error) {
	old, known := s.values.Get(m.Address)
	switch {
	case m.Address == "/scene/run":
		return s.scene(m)
	case m.Address == "/model", m.Address == "/scene/at":
		return nil, fmt.Errorf("%s cannot be set", m.Address)
	case !known:
		return nil, fmt.Errorf("%s is not known here", m.Address)
	case len(m.Args) != 1:
		return nil, fmt.Errorf("%s takes one value, not %d", m.Address, len(m.Args))
	}
	v, err := accept(m.Address, old, m.Args[0])
	if err != nil {
		return nil, err
	}
	changed := []device.Message{s.values.Put(m.Address, v)}
	if strings.HasPrefix(m.Address, "/channel/") && !strings.HasSuffix(m.Address, "/solo") && s.values.Int("/scene/at") != 0 && v != old {
		changed = append(changed, s.values.Put("/scene/at", 0)) // it is no longer as the scene was
	}
	if strings.HasPrefix(m.Address, "/track/") && v == 1 {
		changed = append(changed, s.stopOthers(m.Address)...)
	}
	return changed, nil
}

// scene recalls a scene of the desk.
func (s *machine) scene(m device.Message) (changed []device.Message, err error) {
	n, ok := panel.Arg(m, 0).(int)
	if !ok || n < 1 || n > len(scenes) {
		return nil, fmt.Errorf("there is no scene %v", panel.Arg(m, 0))
	}
	for i := range channels {
		at, muted := fmt.Sprintf("/channel/%d", i+1), 1
		if slices.Contains(scenes[n-1].open, i+1) {
			muted = 0
		}
		changed = append(changed, s.values.Put(at+"/mute", muted), s.values.Put(at+"/level", scenes[n-1].levels[i]))
	}
	return append(changed, s.values.Put("/scene/at", n)), nil
}

// stopOthers stops every track but one: the player plays one at a time.
func (s *machine) stopOthers(playing string) (changed []device.Message) {
	for _, a := range s.values.Below("/track/") {
		if a != playing && s.values.Int(a) == 1 {
			changed = append(changed, s.values.Put(a, 0))
		}
	}
	return changed
}

func accept(address string, old, v any) (any, error) {
	switch old.(type) {
	case string:
		text, ok := v.(string)
		if !ok || text == "" || len(text) > 40 {
			return nil, fmt.Errorf("%s takes a text of 1 to 40 bytes", address)
		}
		return text, nil
	case float64:
		f, ok := v.(float64)
		if n, whole := v.(int); whole {
			f, ok = float64(n), true
		}
		switch {
		case !ok || math.IsNaN(f) || f > highest:
			return nil, fmt.Errorf("%s takes decibels up to %v", address, highest)
		case f < lowest:
			return math.Inf(-1), nil
		}
		return math.Round(f*10) / 10, nil // the fader moves in tenths
	}
	n, ok := v.(int)
	if !ok || n != 0 && n != 1 {
		return nil, fmt.Errorf("%s takes 0 or 1", address)
	}
	return n, nil
}
