package engine

import (
	"time"

	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// dueWork does what is due: expectations expire, silent devices are asked.
func (e *Engine) dueWork(now time.Time) {
	e.armed = time.Time{}
	keys, expired := e.table.Expire(now, e.slow)
	for _, s := range expired {
		e.settled(s, now)
	}
	for _, k := range keys {
		e.changed(k, "", "")
	}
	e.dueStats(now)
	e.dueTouches(now)
	e.dueRuns(now)
	e.dueReflexes(now)
	for _, c := range e.commands {
		if c.waiting <= 0 && c.left {
			// Nothing but an answer is waited for, or that it is written at all.
			if !now.Before(c.until) && c.answers && e.slow(c.device, c.sent) {
				c.until = now.Add(slowStep)
			}
			if !now.Before(c.until) && !c.answers {
				c.outcome = journal.Sent
				e.end(c, now)
				continue
			}
			if !now.Before(c.until) {
				c.outcome, c.reason = journal.Unconfirmed, "The command was sent, but the device did not answer it."
				e.trace(c, now, journal.StageConfirm, c.reason)
				e.end(c, now)
				continue
			}
			e.arm(c.until)
		}
		if !c.askAt.IsZero() && now.Before(c.askAt) {
			e.arm(c.askAt)
		}
		if c.askAt.IsZero() || now.Before(c.askAt) {
			continue
		}
		c.askAt = time.Time{}
		if rt := e.devices[c.device]; rt != nil && rt.link != nil && rt.heard.Before(c.sent) {
			rt.link.Probe()
		}
	}
	e.dueRepeats(now)
	if at, any := e.table.NextLimit(); any {
		e.arm(at)
	}
}

// slowStep is how often the answer of a slow device is looked for again.
const slowStep = 100 * time.Millisecond

// slow tells whether a device has said nothing since a time, though it is asked whether it is there: it
// answers, or its link is lost.
func (e *Engine) slow(device string, since time.Time) bool {
	d, rt := e.program.Devices[device], e.devices[device]
	return d != nil && d.Type != nil && d.Type.Sheet.Link.Identify != nil && rt != nil && rt.state.Phase == link.Up && rt.heard.Before(since)
}

// arm has the timer wake the engine at a time, or earlier where something else
// is due before.
func (e *Engine) arm(at time.Time) {
	if e.armed.IsZero() || at.Before(e.armed) {
		e.armed = at
		e.timer.Reset(time.Until(at))
	}
}
