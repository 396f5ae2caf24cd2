package engine

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/face"
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

// lampsIn is what lamps show in a state; ok is false when there is no such state.
func (c *Mapping) lampsIn(state string) (l face.Lamps, ok bool) {
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

// FaceIn works out a face in one of its states, as if nothing stood in its way.
// ok is false when it has no such state.
func (v *View) FaceIn(c *Mapping, state string) (f Face, ok bool) { return v.m.faceIn(c, state) }

func (m *mirror) faceIn(c *Mapping, state string) (f Face, ok bool) {
	lamps, ok := c.lampsIn(state)
	if !ok {
		return f, false
	}
	f = m.faceWith(c, world{m.table}, lamps)
	f.Away, f.Refusal, f.Guard = state == "away", "", ""
	f.Lamps = lamps
	f.Words = f.words()
	return f, true
}

// forced is a state that somebody tries out on a face.
type forced struct {
	state string
	until time.Time
}

// Force has a face show one of its states until a time, whatever its device says:
// on every drawing and panel, marked as tried out. An empty state ends it. ok is
// false when there is no such state.
func (v *View) Force(c *Mapping, state string, until time.Time) (ok bool) {
	if _, ok := c.lampsIn(state); !ok && state != "" {
		return false
	}
	delete(v.m.tried, c.Source.ID)
	if state != "" {
		v.m.tried[c.Source.ID] = forced{state, until}
	}
	v.m.show(c, nil)
	return true
}
