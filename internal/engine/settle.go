package engine

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
)

// changed tells the mirror how a reading stands, and which journal entry
// and who brought that about ("" when none did).
func (e *Engine) changed(k reading.Key, entry, by string) {
	e.stream.push(ReadingChanged{k, e.table.Reading(k), entry, by})
	e.recheck = e.recheck || e.waiters
	e.reoffer = e.reoffer || e.offering[k]
}

// reported takes in what a device said.
func (e *Engine) reported(rt *deviceState, ev reported) {
	rt.heard = ev.at
	rt.heardFrom(ev.at)
	for _, r := range ev.reports {
		k := reading.Key{Device: ev.device, Path: r.Path}
		if !e.hasRoom(rt, k) {
			continue
		}
		before := e.table.Reading(k)
		changed, settled := e.table.Report(k, r.Value, ev.at)
		if changed && len(settled) == 0 {
			e.recordHandOnDevice(k, before, r.Value)
			e.unsafe([]reading.Key{k})
		}
		e.handOnFades(rt, k, r.Value, ev.at, settled)
		entry, by, chain := "", "", []string(nil)
		for _, s := range settled {
			if s.Outcome == reading.Matched {
				entry = s.Entry
				by, chain = e.causedBy(s.Command)
			}
			e.settled(s, ev.at)
		}
		if changed {
			e.changed(k, entry, by)
			e.sees(k, before, led{chain, entry})
			e.overruled(rt, k)
		}
	}
}

// causedBy is who caused a command that is under way, and by way of which reflexes.
func (e *Engine) causedBy(command uint64) (actor string, chain []string) {
	if c := e.commands[command]; c != nil {
		return c.actor, c.chain
	}
	return "", nil
}

// listed takes in full lists: what they have no more is gone, what they have is there.
func (e *Engine) listed(rt *deviceState, ev listed) {
	d := e.program.Devices[ev.device]
	if d == nil || d.Type == nil {
		return
	}
	var reports []device.Report
	for _, l := range ev.lists {
		for _, r := range d.Type.Missing(l, e.table.Paths(ev.device)) {
			// What was never gone and is there needs no saying.
			if was := e.table.Reading(reading.Key{Device: ev.device, Path: r.Path}).Value; r.Value != was && (r.Value == true || was != nil) {
				reports = append(reports, r)
			}
		}
	}
	e.reported(rt, reported{gen: ev.gen, device: ev.device, at: ev.at, reports: reports})
}

// settled takes in how an expectation of a command ended; the command ends with
// its last one.
func (e *Engine) settled(s reading.Settled, at time.Time) {
	if rt := e.devices[s.Key.Device]; s.Outcome == reading.Disagreed && rt != nil {
		e.overruled(rt, s.Key)
	}
	c := e.commands[s.Command]
	if c == nil {
		return
	}
	if s.Outcome.Heard() {
		e.onTheWire(c)
	}
	if s.Outcome == reading.Began {
		e.begun(c, s, at)
		return
	}
	c.waiting--
	switch s.Outcome {
	case reading.Matched:
		e.matched(c, s, at)
	case reading.Overtaken:
		c.overtaken = true
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
	// A device can answer before the write has returned here; the trace keeps their order.
	if at.Before(c.wire) {
		at = c.wire
	}
	ev := journal.Event{Entry: c.entry, At: at, Stage: journal.StageConfirm, Text: text}
	if !c.matched {
		e.noteLate(c, s.Latency)
		c.matched, ev.Confirms = true, c.run == nil && !c.joined
		if c.run != nil {
			e.stepLanded(c, c.sent.Add(s.Latency))
		}
		if rt := e.devices[c.device]; rt != nil && !s.NoSample && !c.begun {
			e.addSample(rt, c, s.Latency)
		}
	}
	if c.title != "" {
		ev.Text = c.title + ": " + ev.Text
	}
	if c.reason != "" {
		ev.Text += ". " + c.reason
	}
	if !c.quiet {
		e.log(ev)
	}
}

// noteLate says so where a device has done something later than it usually does, and later than a
// command may wait: it hung, or a network kept the command back.
func (e *Engine) noteLate(c *command, took time.Duration) {
	d, rt := e.program.Devices[c.device], e.devices[c.device]
	if d == nil || d.Type == nil || rt == nil || took <= d.Type.Deadline+rt.statsOf(c.action).P99 {
		return
	}
	c.reason = fmt.Sprintf("It came late, %d ms after it was sent.", took.Milliseconds())
}

// begun takes in that what takes its time is on its way: that, and not when it is there, tells how
// fast the device answers.
func (e *Engine) begun(c *command, s reading.Settled, at time.Time) {
	if c.begun || c.matched {
		return
	}
	c.begun = true
	e.trace(c, at, journal.StageConfirm, s.Key.Path+" is on its way")
	if c.run != nil {
		e.stepLanded(c, at)
	}
	if rt := e.devices[c.device]; rt != nil && !s.NoSample {
		e.addSample(rt, c, s.Latency)
	}
}

// whyOvertaken is why a command that nothing confirmed is no failure.
const whyOvertaken = "A later command changed the same before the device had confirmed it."

func (e *Engine) end(c *command, at time.Time) {
	if c.overtaken && !c.matched && c.outcome == journal.Confirmed {
		c.outcome, c.reason = journal.Overtaken, whyOvertaken
	}
	delete(e.commands, c.id)
	if e.repeats(c, at) {
		return
	}
	if c.safe != nil && c.outcome != journal.Confirmed && c.outcome != journal.Overtaken && c.outcome != journal.Sent {
		e.notSafe(c.entry, c.safe, c.reason)
	}
	if c.run != nil {
		e.stepEnded(c, at)
		return
	}
	if c.aside {
		return
	}
	if c.back != nil {
		e.returned(c.back, c.outcome, c.reason, c.title, at)
		return
	}
	e.log(journal.Event{Entry: c.entry, At: at, Outcome: c.outcome, Reason: c.reason})
}

// leaving notes that a queued command is about to be written.
func (e *Engine) leaving(ev leaving) {
	if c := e.commands[ev.command]; c != nil {
		c.leaving = ev.at
		e.table.Left(c.id)
	}
}

// onTheWire notes that a command was written, where the device's word on it came before the link's.
func (e *Engine) onTheWire(c *command) {
	if !c.left && !c.leaving.IsZero() {
		e.written(written{c.id, c.leaving})
	}
}

// written notes that a command is on the wire.
func (e *Engine) written(ev written) {
	c := e.commands[ev.command]
	if c == nil || c.left {
		return
	}
	c.left = true
	if rt := e.devices[c.device]; rt != nil && c.inOrder {
		rt.owes(c.id)
	}
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
	was := e.table.Reading(f.Key)
	if e.table.Assume(f.Key, f.Value, c.sent, c.entry) {
		e.changed(f.Key, c.entry, c.actor)
		e.sees(f.Key, was, led{c.chain, c.entry})
	}
}

// dropped ends a command that never left.
func (e *Engine) dropped(ev dropped) {
	if c := e.commands[ev.command]; c != nil {
		e.giveUp(c, journal.Dropped, journal.StageWire, "Not sent: "+ev.reason+".", ev.at)
	}
}

// giveUp ends a command that brings nothing about: nothing is expected of it
// any more, and its key says why.
func (e *Engine) giveUp(c *command, outcome journal.Outcome, stage, reason string, at time.Time) {
	for _, k := range e.table.Withdraw(c.id) {
		e.changed(k, "", "")
	}
	c.outcome, c.reason = outcome, reason
	e.trace(c, at, stage, reason)
	e.stream.push(Refusal{c.mapping, "", reason, at})
	e.end(c, at)
}

// maxReadings is how many readings of one device are kept.
//
//limit:count readings of a device | as the device's problem
const maxReadings = 5000

// tooMany is the problem of a device that reports more.
var tooMany = fmt.Sprintf("It reports more than %d readings. The others are left out.", maxReadings)

// hasRoom tells whether a reading may be taken in; a device that reports too many has
// that as its problem. What there is one of is taken in all the same: it is not lists that a device is worked by.
func (e *Engine) hasRoom(rt *deviceState, k reading.Key) bool {
	if e.table.Has(k) || e.table.Count(k.Device) < maxReadings {
		return true
	}
	if d := e.program.Devices[k.Device]; d != nil && d.Type != nil {
		if def := d.Type.Reading(k.Path); def != nil && !strings.Contains(def.Path, "{") {
			return true
		}
	}
	if !rt.overfull {
		rt.overfull = true
		rt.state.Problem = tooMany
		e.stream.push(LinkState{rt.state, rt.heard})
	}
	return false
}
