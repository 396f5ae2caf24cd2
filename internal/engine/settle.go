package engine

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// changed tells the mirror how a reading stands, and which journal entry
// brought that about ("" when none did).
func (e *Engine) changed(k reading.Key, entry string) {
	e.stream.push(ReadingChanged{k, e.table.Reading(k), entry})
	e.recheck = e.recheck || e.waiters
}

// reported takes in what a device said.
func (e *Engine) reported(rt *deviceState, ev reported) {
	rt.heard = ev.at
	rt.heardFrom(ev.at)
	for _, r := range ev.reports {
		k := reading.Key{Device: ev.device, Path: r.Path}
		before := e.table.Reading(k)
		changed, settled := e.table.Report(k, r.Value, ev.at)
		if changed && len(settled) == 0 {
			e.recordHandOnDevice(k, before, r.Value)
		}
		entry := ""
		for _, s := range settled {
			if s.Outcome == reading.Matched {
				entry = s.Entry
			}
			e.settled(s, ev.at)
		}
		if changed {
			e.changed(k, entry)
		}
	}
}

// settled takes in how an expectation of a command ended; the command ends with
// its last one.
func (e *Engine) settled(s reading.Settled, at time.Time) {
	c := e.commands[s.Command]
	if c == nil {
		return
	}
	c.waiting--
	switch s.Outcome {
	case reading.Matched:
		e.matched(c, s, at)
	case reading.Overtaken:
		e.trace(c, at, journal.StageConfirm, s.Key.Path+" was overtaken by a later command")
	case reading.Disagreed:
		c.outcome = journal.Disagreed
		c.reason = fmt.Sprintf("The device reports %s for %s instead of %s.", e.valueText(s.Key, s.Got), s.Key.Path, e.valueText(s.Key, s.Value))
		e.trace(c, at, journal.StageConfirm, c.reason)
	case reading.Expired:
		c.outcome = journal.Unconfirmed
		c.reason = fmt.Sprintf("The command was sent, but the device did not confirm it within %d ms.", s.Limit.Sub(s.Sent).Milliseconds())
		e.trace(c, at, journal.StageConfirm, c.reason)
	case reading.Dropped:
		c.outcome = journal.Unconfirmed
		c.reason = "The link was lost before the device confirmed it."
		e.trace(c, at, journal.StageConfirm, c.reason)
	}
	if c.waiting <= 0 {
		e.end(c, at)
	}
}

// matched takes in a report that an effect came true.
func (e *Engine) matched(c *command, s reading.Settled, at time.Time) {
	text := fmt.Sprintf("%s is %s", s.Key.Path, e.valueText(s.Key, s.Got))
	ev := journal.Event{Entry: c.entry, At: at, Stage: journal.StageConfirm, Text: text}
	if !c.matched {
		c.matched, ev.Confirms = true, c.run == nil
		if c.run != nil {
			e.stepLanded(c, c.sent.Add(s.Latency))
		}
		if rt := e.devices[c.device]; rt != nil && !s.NoSample {
			e.addSample(rt, c, s.Latency)
		}
	}
	if c.title != "" {
		ev.Text = c.title + ": " + ev.Text
	}
	if !c.quiet {
		e.log(ev)
	}
}

// statsEvery is how often the statistics of an action are worked out at most.
const statsEvery = 50 * time.Millisecond

func (rt *deviceState) sample(action string, d time.Duration) *latency {
	l := rt.actions[action]
	if l == nil {
		l = &latency{}
		rt.actions[action] = l
	}
	l.Add(d)
	rt.all.Add(d)
	return l
}

// valueText is a value as a person knows it: the name of an input, not its number.
func (e *Engine) valueText(k reading.Key, v reading.Value) string {
	if d := e.program.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.Word(k, v, e.table)
	}
	return expr.Text(v)
}

// trace adds to the trace of what a command belongs to; in that of a run it is named.
func (e *Engine) trace(c *command, at time.Time, stage, text string) {
	if c.quiet {
		return
	}
	if c.title != "" {
		text = c.title + ": " + text
	}
	e.log(journal.Event{Entry: c.entry, At: at, Stage: stage, Text: text})
}

func (e *Engine) end(c *command, at time.Time) {
	delete(e.commands, c.id)
	if c.run != nil {
		e.stepEnded(c, at)
		return
	}
	e.log(journal.Event{Entry: c.entry, At: at, Outcome: c.outcome, Reason: c.reason})
}

// written notes that a command is on the wire.
func (e *Engine) written(ev written) {
	c := e.commands[ev.command]
	if c == nil {
		return
	}
	c.left = true
	e.trace(c, ev.at, journal.StageWire, "Written to the device")
	if c.waiting == 0 && !c.answers && !c.refuses {
		c.outcome = journal.Sent
		e.end(c, ev.at)
		return
	}
	e.arm(c.until)
}

// assume believes what was sent to a device that cannot report it.
func (e *Engine) assume(c *command, f device.Effect) {
	if e.table.Assume(f.Key, f.Value, c.sent, c.entry) {
		e.changed(f.Key, c.entry)
	}
}

// answered takes in a device's answer to a command. It ends one that has
// nothing else to wait for; where the sheet says that an answer confirms, what
// the command was to bring about is so.
func (e *Engine) answered(ev answered) {
	c := e.commands[ev.answer.Command]
	if c == nil || c.device != ev.device {
		return
	}
	if !ev.answer.OK {
		e.giveUp(c, journal.Refused, journal.StageConfirm, "The device refused: "+strings.TrimSuffix(ev.answer.Text, ".")+".", ev.at)
		return
	}
	text := "The device answered"
	if ev.answer.Text != "" {
		text += ": " + ev.answer.Text
	}
	step := journal.Event{Entry: c.entry, At: ev.at, Stage: journal.StageConfirm, Text: text}
	c.answers = false
	if !c.confirms {
		e.trace(c, step.At, step.Stage, step.Text)
		if c.waiting == 0 {
			c.outcome = journal.Sent
			e.end(c, ev.at)
		}
		return
	}
	if c.run != nil {
		e.stepLanded(c, ev.at)
		e.trace(c, step.At, step.Stage, step.Text)
	} else {
		step.Confirms = true
		e.log(step)
	}
	if len(c.effects) == 0 || c.waiting == 0 {
		if rt := e.devices[c.device]; rt != nil {
			e.addSample(rt, c, ev.at.Sub(c.sent))
		}
		e.end(c, ev.at)
		return
	}
	for _, f := range c.effects {
		if f.Assumed {
			continue
		}
		changed, settled := e.table.Report(f.Key, f.Value, ev.at)
		for _, s := range settled {
			e.settled(s, ev.at)
		}
		if changed {
			e.changed(f.Key, c.entry)
		}
	}
}

// shownSamples is how many samples of a device are drawn.
const shownSamples = 30

// addSample takes in how long a command took to be confirmed.
func (e *Engine) addSample(rt *deviceState, c *command, d time.Duration) {
	l, now := rt.sample(c.action, d), time.Now()
	if wait := statsEvery - now.Sub(l.at); wait > 0 {
		l.stale = true
		e.arm(now.Add(wait))
		return
	}
	e.publishStats(c.device, c.action, rt, l, now)
}

// publishStats works out the statistics of an action anew.
func (e *Engine) publishStats(device, action string, rt *deviceState, l *latency, now time.Time) {
	l.at, l.stale, l.stats, rt.stats = now, false, l.Stats(), rt.all.Stats()
	e.stream.push(LatencyChanged{device, action, rt.stats, l.stats, rt.all.Recent(shownSamples)})
}

// dueStats works out the statistics that wait.
func (e *Engine) dueStats(now time.Time) {
	for id, rt := range e.devices {
		for action, l := range rt.actions {
			if !l.stale {
				continue
			}
			if wait := statsEvery - now.Sub(l.at); wait > 0 {
				e.arm(now.Add(wait))
				continue
			}
			e.publishStats(id, action, rt, l, now)
		}
	}
}

// dropped ends a command that never left.
func (e *Engine) dropped(ev dropped) {
	if c := e.commands[ev.command]; c != nil {
		e.giveUp(c, journal.Dropped, journal.StageWire, "Not sent: "+ev.reason+".", ev.at)
	}
}

// refused takes in a device's refusal. It names no command, so the oldest one
// under way is taken to be meant: links keep their order.
func (e *Engine) refused(ev refused) {
	var oldest *command
	for _, c := range e.commands {
		if c.device == ev.device && (oldest == nil || c.id < oldest.id) {
			oldest = c
		}
	}
	if oldest != nil {
		e.giveUp(oldest, journal.Refused, journal.StageConfirm, "The device refused: "+ev.text+".", ev.at)
	}
}

// giveUp ends a command that brings nothing about: nothing is expected of it
// any more, and its key says why.
func (e *Engine) giveUp(c *command, outcome journal.Outcome, stage, reason string, at time.Time) {
	for _, k := range e.table.Withdraw(c.id) {
		e.changed(k, "")
	}
	c.outcome, c.reason = outcome, reason
	e.trace(c, at, stage, reason)
	e.stream.push(Refusal{c.mapping, "", reason, at})
	e.end(c, at)
}

// linkChanged follows the state of a link; a lost one takes its readings along.
func (e *Engine) linkChanged(rt *deviceState, st link.State) {
	was := rt.state.Phase
	rt.state = st
	if !st.Heard.IsZero() {
		rt.heard = st.Heard
	}
	if away(st.Phase) && !away(was) {
		e.lose(st.Device, "the link was lost")
	}
	e.stream.push(LinkState{st, rt.heard})
	if (was == link.Up) != (st.Phase == link.Up) {
		e.publishSelf()
	}
}

// away tells whether a link in a phase reaches nothing.
func away(p link.Phase) bool { return p == link.Down || p == link.Locked || p == link.Parked }

// lose makes every reading of a device unknown and ends its commands.
func (e *Engine) lose(device, why string) {
	keys, droppedNow := e.table.Lost(device)
	now := time.Now()
	for _, s := range droppedNow {
		e.settled(s, now)
	}
	for _, k := range keys {
		e.changed(k, "")
	}
	for id, c := range e.commands {
		if c.device == device {
			c.outcome, c.reason = journal.Unconfirmed, "Not confirmed: "+why+"."
			e.end(c, now)
			delete(e.commands, id)
		}
	}
}

// dueWork does what is due: expectations expire, silent devices are asked.
func (e *Engine) dueWork(now time.Time) {
	e.armed = time.Time{}
	keys, expired := e.table.Expire(now)
	for _, s := range expired {
		e.settled(s, now)
	}
	for _, k := range keys {
		e.changed(k, "")
	}
	e.dueStats(now)
	e.dueTouches(now)
	e.dueRuns(now)
	for _, c := range e.commands {
		if c.waiting <= 0 && c.left {
			// Nothing but an answer is waited for, or that it is written at all.
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
	if at, any := e.table.NextLimit(); any {
		e.arm(at)
	}
}

// arm has the timer wake the engine at a time, or earlier where something else
// is due before.
func (e *Engine) arm(at time.Time) {
	if e.armed.IsZero() || at.Before(e.armed) {
		e.armed = at
		e.timer.Reset(time.Until(at))
	}
}
