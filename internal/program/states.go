package program

import (
	"fmt"
	"strconv"
	"strings"

	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
)

// State is one that a face can be in: at rest, with one of its lamps, pending,
// unknown, or with its device away.
type State struct {
	ID    string // rest, lamp-0 and on, pending-0 and on, unknown, away
	Title string
	Lamp  int // which lamp brings it; -1: none
}

// States lists the states that the face of a mapping can be in.
func (c *Mapping) States() []State {
	out := []State{{"rest", "at rest", -1}}
	for i, l := range c.Lamps {
		title := strings.ReplaceAll(l.Role, "-", " ")
		if title == "" {
			title = fmt.Sprintf("lamp %d", i+1)
		}
		out = append(out, State{"lamp-" + strconv.Itoa(i), title, i})
		if l.Role != "" {
			out = append(out, State{"pending-" + strconv.Itoa(i), title + " pending", i})
		}
	}
	if len(c.Lamps) > 0 {
		out = append(out, State{"unknown", "unknown", -1})
	}
	for _, r := range c.Responses {
		if r.Device != SelfID {
			return append(out, State{"away", "device away", -1})
		}
	}
	return out // Synaptor itself is never away
}

// LampsIn is what lamps show in a state; ok is false when there is no such state.
func (c *Mapping) LampsIn(state string) (l face.Lamps, ok bool) {
	l = face.Lamps{On: []string{}, Pending: []string{}}
	for _, s := range c.States() {
		if s.ID != state {
			continue
		}
		switch {
		case strings.HasPrefix(s.ID, "lamp-"):
			return face.Showing(c.Lamps[s.Lamp]), true
		case strings.HasPrefix(s.ID, "pending-"):
			l.Pending = []string{c.Lamps[s.Lamp].Role}
		}
		l.Unknown = s.ID == "unknown"
		return l, true
	}
	return l, false
}

// Marks lists what of a mapping does not show in its face: everything but a
// press.
func (c *Mapping) Marks() []string {
	out := []string{}
	if c.Source.Guard != nil {
		out = append(out, "guard")
	}
	for _, g := range input.Gestures {
		if g != input.Press && c.Mapped[g] {
			out = append(out, g)
		}
	}
	if c.Source.Stands() {
		out = append(out, "standing")
	}
	return out
}
