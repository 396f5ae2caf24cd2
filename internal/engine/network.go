package engine

import (
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// heldFor is how long the network holds a control without saying so again.
const heldFor = 10 * time.Second

// networkGesture takes in a finished gesture from the network: after the recogniser,
// before the guard. A press implies its release; a hold and a talk need their end.
func (e *Engine) networkGesture(in Input, c *program.Controller) {
	var lasts func(Input, *program.Controller, *held)
	switch m := e.answering(in, c); {
	case in.Gesture == input.Release:
		lasts = e.networkRelease
	case in.Gesture == input.Talk:
		lasts = e.networkTalk
	case in.Gesture == input.Hold && m != nil && m.Responses[input.Hold] != nil && m.Responses[input.Release] != nil:
		lasts = e.networkHold
	default:
		e.networkOnce(in, c, m)
		return
	}
	h := e.control(in)
	lasts(in, c, h)
	e.rearmControl(controlKey(in), h)
}

// networkOnce takes in a gesture that is a touch of its own.
func (e *Engine) networkOnce(in Input, c *program.Controller, m *program.Mapping) {
	once, gesture := &held{mapping: m, in: in}, sideOf(in, m)
	lets := gesture == input.Press && m != nil && m.Responses[input.Release] != nil
	if lets && m.Responses[input.Press] == nil {
		lets, gesture = false, input.Release // nothing else comes of it
	}
	e.gesture(in, c, once, input.Event{Gesture: gesture, Amount: in.Amount})
	if in.Gesture != input.Press {
		return
	}
	if lets {
		in.Entry, in.At, in.Announced = journal.NextID(), time.Now(), false
		e.gesture(in, c, once, input.Event{Gesture: input.Release})
	}
	key := controlKey(in)
	e.releasePages(key)
	e.stream.push(ControlReleased{key, time.Now()})
}

// networkHold begins what its release ends.
func (e *Engine) networkHold(in Input, c *program.Controller, h *held) {
	if e.beginTouch(in, c, h); h.GoesOn(in.At) {
		e.logInput(in, c, in.Gesture)
		e.refuse(in, nil, time.Now(), somebodyHolds)
		return
	}
	h.Holds(in.Link, in.At, h.mapping.Gestures(), h.mapping.Timing(c.Controls[in.Control].Kind))
	h.Renew(in.Link, in.At.Add(heldFor))
	e.gesture(in, c, h, input.Event{Gesture: input.Hold})
}

const somebodyHolds = "Somebody holds this control, or what it has opened is open. Wait until that has ended."

// networkRelease ends what the same sender holds.
func (e *Engine) networkRelease(in Input, c *program.Controller, h *held) {
	if !h.Held(in.Link) {
		e.logInput(in, c, in.Gesture)
		e.refuse(in, nil, time.Now(), "You hold nothing here that could be let go. Send hold or down first.")
		return
	}
	in.Gesture, in.Edge = "", input.Up
	if !e.touched(in, c, h) {
		e.untold(in, c)
	}
}

// networkTalk is a tap: the first opens, the next one ends it.
func (e *Engine) networkTalk(in Input, c *program.Controller, h *held) {
	if h.IsDown() {
		e.logInput(in, c, in.Gesture)
		e.refuse(in, nil, time.Now(), somebodyHolds)
		return
	}
	if m := e.answering(in, c); !h.Latched() && m != nil && m.Responses[input.Talk] == nil {
		e.logInput(in, c, in.Gesture)
		e.refuse(in, m, time.Now(), "This key does nothing when it gets a talk.")
		return
	}
	in.Gesture, in.Edge = "", input.Down
	e.touched(in, c, h)
	in.Entry, in.Edge, in.Announced = journal.NextID(), input.Up, false
	e.touched(in, c, h)
}

// sideOf is the gesture of an input from the network: a turn that means nothing by itself is one
// to its side, where that means something.
func sideOf(in Input, m *program.Mapping) string {
	if in.Gesture != input.Turn || m == nil || m.Responses[input.Turn] != nil || in.Amount == 0 {
		return in.Gesture
	}
	if side := input.Side(in.Amount); m.Responses[side] != nil {
		return side
	}
	return in.Gesture
}
