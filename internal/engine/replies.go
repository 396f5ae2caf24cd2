package engine

import (
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/journal"
)

// answered takes in a device's answer to a command. It ends one that has
// nothing else to wait for; where the sheet says that an answer confirms, what
// the command was to bring about is so.
func (e *Engine) answered(ev answered) {
	if rt := e.devices[ev.device]; rt != nil {
		rt.heard = ev.at
	}
	c := e.commands[ev.answer.Command]
	if c == nil || c.device != ev.device {
		return
	}
	if !ev.answer.OK {
		e.refusedBy(c, ev.answer.Text, "", ev.at)
		return
	}
	e.answeredBy(c, ev.answer.Text, ev.at)
}

// refusedBy ends a command that the device refused; guess is what the trace says of that.
func (e *Engine) refusedBy(c *command, text, guess string, at time.Time) {
	e.onTheWire(c) // it was, where the answer came before the link's word
	e.giveUp(c, journal.Refused, journal.StageConfirm, "The device refused: "+strings.TrimSuffix(text, ".")+"."+guess, at)
}

// answeredBy takes in that the device has answered a command.
func (e *Engine) answeredBy(c *command, said string, at time.Time) {
	e.onTheWire(c)
	text := "The device answered"
	if said != "" {
		text += ": " + said
	}
	step := journal.Event{Entry: c.entry, At: at, Stage: journal.StageConfirm, Text: text}
	c.answers = false
	if c.confirms || c.waiting == 0 {
		if e.noteLate(c, at.Sub(c.sent)); c.reason != "" {
			step.Text += ". " + c.reason
		}
	}
	if !c.confirms {
		e.trace(c, step.At, step.Stage, step.Text)
		if c.waiting == 0 {
			c.outcome = journal.Sent
			e.end(c, at)
		}
		return
	}
	if c.run != nil {
		e.stepLanded(c, at)
		e.trace(c, step.At, step.Stage, step.Text)
	} else {
		step.Confirms = true
		e.log(step)
	}
	if len(c.effects) == 0 || c.waiting == 0 {
		if rt := e.devices[c.device]; rt != nil {
			e.addSample(rt, c, at.Sub(c.sent))
		}
		e.end(c, at)
		return
	}
	for _, f := range c.effects {
		if f.Assumed {
			continue
		}
		changed, settled := e.table.Report(f.Key, f.Value, at)
		for _, s := range settled {
			e.settled(s, at)
		}
		if changed {
			e.changed(f.Key, c.entry, c.actor)
		}
	}
}

// maxOwed bounds the answers that a device owes.
//
//limit:count answers that a device owes | nowhere; the oldest is given up
const maxOwed = 1000

// guessed is what a trace says where nothing ties a refusal to a command.
const guessed = " (A guess: the device does not say which command it means.)"

// replied takes in a device's word on a command that it does not name by a number.
func (e *Engine) replied(ev replied) {
	rt := e.devices[ev.device]
	if rt == nil {
		return
	}
	rt.heard = ev.at
	c := e.repliedTo(rt, ev)
	switch {
	case c == nil: // it is over, or was none of Synaptor's
	case ev.reply.OK:
		e.answeredBy(c, ev.reply.Text, ev.at)
	case ev.reply.Tie == device.Guessed:
		e.refusedBy(c, ev.reply.Text, guessed, ev.at)
	default:
		e.refusedBy(c, ev.reply.Text, "", ev.at)
	}
}

// repliedTo finds the command that a reply is about, as its tie says: the one that it repeats,
// the oldest that has no answer yet, or as a guess the youngest that could be meant.
func (e *Engine) repliedTo(rt *deviceState, ev replied) *command {
	if ev.reply.Tie == device.InOrder {
		if len(rt.owed) == 0 {
			return nil
		}
		id := rt.owed[0]
		rt.owed = rt.owed[1:]
		return e.commands[id] // nil: it has ended meanwhile, and this was its answer
	}
	var youngest *command
	for _, c := range e.commandsOf(ev.device) {
		if !c.left && c.leaving.IsZero() {
			continue // it has not heard of this one
		}
		if ev.reply.Tie == device.Repeated && e.says(c, ev.reply) {
			return c
		}
		if !c.matched {
			youngest = c
		}
	}
	if ev.reply.Tie == device.Repeated {
		return nil
	}
	return youngest
}

// says reports whether a command's messages are what a reply repeats.
func (e *Engine) says(c *command, r device.Reply) bool {
	d := e.program.Devices[c.device]
	if d == nil || d.Type == nil {
		return false
	}
	for _, m := range e.cfg.Drivers.For(d.Type).Show(c.payload) {
		if r.Fits(m) {
			return true
		}
	}
	return false
}

// owes notes that the device is to answer a command in its turn.
func (rt *deviceState) owes(command uint64) {
	if rt.owed = append(rt.owed, command); len(rt.owed) > maxOwed {
		rt.owed = rt.owed[1:]
	}
}
