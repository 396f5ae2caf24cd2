package engine

import (
	"cmp"
	"slices"
	"time"

	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// linkChanged follows the state of a link; a lost one takes its readings along.
func (e *Engine) linkChanged(rt *deviceState, st link.State) {
	was := rt.state.Phase
	if rt.overfull = rt.overfull && !away(st.Phase); rt.overfull {
		st.Problem = cmp.Or(st.Problem, tooMany)
	}
	rt.state = st
	if !st.Heard.IsZero() {
		rt.heard = st.Heard
	}
	if away(st.Phase) && !away(was) {
		e.lose(st.Device, "the link was lost")
		e.forgets(st.Device)
		e.wentAway(rt)
	}
	if st.Phase == link.Up && was != link.Up {
		e.cameBack(rt, st.Device)
	}
	e.linked(rt, st.Device, was, st.Phase)
	e.stream.push(LinkState{st, rt.heard})
	if (was == link.Up) != (st.Phase == link.Up) {
		e.publishSelf()
	}
}

// away tells whether a link in a phase reaches nothing.
func away(p link.Phase) bool { return p == link.Down || p == link.Locked || p == link.Parked }

// commandsOf lists the commands of a device that are under way, oldest first.
func (e *Engine) commandsOf(device string) []*command {
	var out []*command
	for _, c := range e.commands {
		if c.device == device {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b *command) int { return cmp.Compare(a.id, b.id) })
	return out
}

// lose makes every reading of a device unknown and ends its commands.
func (e *Engine) lose(device, why string) {
	if rt := e.devices[device]; rt != nil {
		rt.owed = nil
	}
	e.endRepeats(func(r *repeat) bool { return r.device == device }, "", "")
	keys, droppedNow := e.table.Lost(device)
	now := time.Now()
	for _, s := range droppedNow {
		e.settled(s, now)
	}
	for _, k := range keys {
		e.changed(k, "", "")
	}
	// What ends may send something else; that is not lost with it.
	for _, c := range e.commandsOf(device) {
		c.outcome, c.reason = journal.Unconfirmed, "Not confirmed: "+why+"."
		e.end(c, now)
	}
}
