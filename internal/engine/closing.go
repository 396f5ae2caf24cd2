package engine

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// closing is what closes something that a hand has opened: a talk, or what a press began and its
// release ends. It is sent again until the device agrees, a later command changes the same, or the link
// is lost; once where nobody can say.
type closing struct {
	in    Input
	resp  *program.Response
	title string
	again int // how often it was sent again
}

// repeat is a closing that waits to be sent again.
type repeat struct {
	*closing
	cause   cause
	device  string
	affects []reading.Key
	at      time.Time
	outcome journal.Outcome // how its last try has ended
	reason  string
}

// repeats has a command that closes something sent again, unless it has done so. It reports whether
// the command's entry goes on.
func (e *Engine) repeats(c *command, at time.Time) bool {
	by := c.closes
	rt := e.devices[c.device]
	if by == nil || rt == nil || away(rt.state.Phase) {
		return false
	}
	switch c.outcome {
	case journal.Confirmed, journal.Overtaken:
		return false
	case journal.Sent:
		if by.again > 0 || len(c.effects) == 0 {
			return false // nobody can say; it was said twice
		}
	}
	for _, o := range e.commands {
		if o.id > c.id && shares(o.affects, c.affects) {
			c.outcome, c.reason = journal.Overtaken, whyOvertaken
			return false
		}
	}
	due := c.sent.Add(rt.statsOf(c.action).SettleLimit())
	if least := at.Add(leastRepeat); due.Before(least) {
		due = least
	}
	e.closings = append(e.closings, &repeat{by, c.cause, c.device, c.affects, due, c.outcome, c.reason})
	e.arm(due)
	return true
}

// leastRepeat is how long a device gets between a closing that failed and the next one.
const leastRepeat = 100 * time.Millisecond

func shares(a, b []reading.Key) bool {
	return slices.ContainsFunc(a, func(k reading.Key) bool { return slices.Contains(b, k) })
}

// overtakeRepeats ends the closings of what a later command changes.
func (e *Engine) overtakeRepeats(c *command) {
	e.endRepeats(func(r *repeat) bool { return r.closing != c.closes && shares(r.affects, c.affects) }, journal.Overtaken, whyOvertaken)
}

// endRepeats ends the closings that a test picks; an empty outcome is that of the last try.
func (e *Engine) endRepeats(picks func(*repeat) bool, outcome journal.Outcome, why string) {
	if len(e.closings) == 0 {
		return
	}
	e.closings = slices.DeleteFunc(e.closings, func(r *repeat) bool {
		if !picks(r) {
			return false
		}
		ev := journal.Event{Entry: r.in.Entry, At: time.Now(), Outcome: outcome, Reason: why}
		if outcome == "" {
			ev.Outcome, ev.Reason = r.outcome, r.reason
		}
		e.log(ev)
		return true
	})
}

// dueRepeats sends the closings again whose time has come.
func (e *Engine) dueRepeats(now time.Time) {
	for _, r := range slices.Clone(e.closings) {
		if now.Before(r.at) {
			e.arm(r.at)
			continue
		}
		e.closings = slices.DeleteFunc(e.closings, func(o *repeat) bool { return o == r })
		r.again++
		in := r.in
		in.At = now
		reason := e.unreachable(in, r.cause.mapping, r.resp)
		if reason == "" {
			text := fmt.Sprintf("%s: the device has not agreed; it is sent again", r.title)
			e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDispatch, Text: text, Outcome: journal.UnderWay})
			cmd, err := e.dispatch(in, r.cause, r.resp)
			if err == nil {
				e.logDispatch(cmd, r.resp)
				continue
			}
			reason = err.Error() + "."
		}
		e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: reason, Outcome: r.outcome, Reason: reason})
	}
}
