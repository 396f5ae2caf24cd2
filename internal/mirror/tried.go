package mirror

import (
	"time"

	"synaptor/internal/program"
)

// FaceIn works out a face in one of its states, as if nothing stood in its way.
// ok is false when it has no such state.
func (v *View) FaceIn(c *program.Mapping, state string) (f Face, ok bool) {
	return v.mirror.faceIn(c, state)
}

func (m *Mirror) faceIn(c *program.Mapping, state string) (f Face, ok bool) {
	lamps, ok := c.LampsIn(state)
	if !ok {
		return f, false
	}
	f = m.faceWith(c, m.table, lamps)
	f.Away, f.Refusal, f.Guard = state == "away", "", ""
	f.Lamps = lamps
	f.Words = f.words()
	return f, true
}

// triedState is a state that somebody tries out on a face.
type triedState struct {
	state string
	until time.Time
}

// Force has a face show one of its states until a time, whatever its device says:
// on every drawing and panel, marked as tried out. An empty state ends it. ok is
// false when there is no such state.
func (v *View) Force(c *program.Mapping, state string, until time.Time) (ok bool) {
	if _, ok := c.LampsIn(state); !ok && state != "" {
		return false
	}
	delete(v.mirror.tried, c.Source.ID)
	if state != "" {
		v.mirror.tried[c.Source.ID] = triedState{state, until}
	}
	v.mirror.refreshFace(c, nil)
	return true
}
