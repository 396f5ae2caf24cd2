package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// input takes in an edge, an amount or a gesture.
func (e *Engine) input(in Input) {
	c := e.program.Controllers[in.Controller]
	if c == nil || c.Layout == nil {
		if in.Announced {
			e.refuse(in, nil, time.Now(), "The controller was removed a moment ago.")
		}
		return
	}
	if in.Gesture != "" {
		e.networkGesture(in, c)
		return
	}
	key := controlKey(in)
	h := e.controls[key]
	if h == nil {
		h = &held{}
		e.controls[key] = h
	}
	var events []input.Event
	switch in.Edge {
	case input.Down:
		if !h.IsDown() {
			h.mapping, h.in, h.zone = e.answering(in, c), in, c.Controls[in.Control].Zone
		}
		events = h.Down(in.Link, in.At, h.mapping.Gestures(), h.mapping.Timing(c.Controls[in.Control].Kind))
	case input.Up:
		events = h.Up(in.Link, in.At)
	case input.Cancel:
		events = h.Cancel(in.Link, in.At)
	case input.Turns:
		if !h.IsDown() {
			h.mapping, h.in = e.answering(in, c), in
		}
		events = h.Turned(in.Amount, h.mapping.Gestures())
	case input.Moves:
		h.mapping, h.in = e.answering(in, c), in
		events = []input.Event{{Gesture: input.Slide, Amount: in.Amount}}
	case input.Wipes:
		h.mapping, h.in = e.answering(in, c), in
		events = []input.Event{{Gesture: map[bool]string{true: input.SwipeRight, false: input.SwipeLeft}[in.Amount > 0]}}
	}
	e.gesturesOf(in, c, h, events)
	if (in.Edge == input.Up || in.Edge == input.Cancel) && !h.IsDown() {
		e.controlReleased(in, h, key)
	}
	e.rearmControl(key, h)
}

// networkGesture takes in a finished gesture from the network: after the recogniser,
// before the guard. A press implies its release.
func (e *Engine) networkGesture(in Input, c *program.Controller) {
	m := e.answering(in, c)
	e.gesture(in, c, m, input.Event{Gesture: sideOf(in, m), Amount: in.Amount})
	if in.Gesture == input.Press {
		key := controlKey(in)
		e.releasePages(key)
		e.stream.push(ControlReleased{key, time.Now()})
	}
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

// answering finds the mapping that answers for an input: on the page it names,
// else on those that are shown.
func (e *Engine) answering(in Input, c *program.Controller) *program.Mapping {
	if in.Page != "" {
		return e.program.On(e.program.Show.Page(in.Page), in.Control)
	}
	zone := c.Controls[in.Control].Zone
	return e.program.Answering(e.profileOf(c), c.Layout.Type, zone, in.Control, e.pagesOf(c, zone).Shown())
}

// gesturesOf takes in the gestures of a touch. Each has a journal entry of its own;
// the first has the input's.
func (e *Engine) gesturesOf(in Input, c *program.Controller, h *held, events []input.Event) {
	for i, ev := range events {
		if ev.Gesture == input.Release && (h.mapping == nil || h.mapping.Responses[input.Release] == nil) {
			continue
		}
		if i > 0 {
			in.Entry = journal.NextID()
		}
		e.gesture(in, c, h.mapping, ev)
	}
}

// rearmControl has the engine come back when something of a control is due, and forgets
// a control that nobody touches.
func (e *Engine) rearmControl(key string, h *held) {
	if at, due := h.Next(); due {
		e.arm(at)
	} else if h.Rests() {
		delete(e.controls, key)
	}
}

// controlReleased ends what lasts as long as a control is down: a guard that fills, a page
// that is held.
func (e *Engine) controlReleased(in Input, h *held, key string) {
	if h.mapping != nil {
		if g := e.guards[h.mapping.Source.ID]; g != nil && g.LetGo() {
			g.waits = false
			e.log(journal.Event{Entry: g.in.Entry, At: in.At, Stage: journal.StageGuard, Text: "Let go before its time", Outcome: journal.Guarded,
				Reason: "It was let go before its time. Hold it longer to fire."})
			e.stream.push(GuardChanged{h.mapping.Source.ID, "", time.Time{}, time.Time{}})
		}
	}
	e.releasePages(key)
	e.stream.push(ControlReleased{key, time.Now()})
}

// gesture starts the response to a gesture: what is checked, what leaves, and
// what the journal is told, in this order.
func (e *Engine) gesture(in Input, c *program.Controller, m *program.Mapping, ev input.Event) {
	decided := time.Now()
	if m == nil {
		e.logInput(in, c, ev.Gesture)
		e.refuse(in, nil, decided, "Nothing is mapped to this control on this page.")
		return
	}
	r := m.Responses[ev.Gesture]
	if r == nil {
		// A dial that turns both ways may have a response for one side only.
		if ev.Gesture != input.Turn || in.Announced {
			e.logInput(in, c, ev.Gesture)
			e.refuse(in, m, decided, "This key does nothing when it gets a "+ev.Gesture+".")
		}
		return
	}
	if r.Dial != nil && r.Problem == "" {
		in.Gesture = ev.Gesture
		e.turnDial(in, c, m, r, ev)
		return
	}
	if program.Continuous(ev.Gesture) && e.program.RunsMacro(r) != nil {
		if e.turnedTooFast(in) {
			if in.Announced {
				e.logInput(in, c, ev.Gesture)
				e.refuse(in, m, decided, fmt.Sprintf("A turn starts a macro once in %d ms.", runsPerTurn.Milliseconds()))
			}
			return
		}
	} else if program.Continuous(ev.Gesture) && r.Problem == "" {
		e.logInput(in, c, ev.Gesture)
		e.refuse(in, m, decided, "This action has nothing that could be turned.")
		return
	}
	if ev.Gesture == input.Talk && r.Opens != nil {
		if r = r.Opens; ev.Ends {
			r = m.Responses[input.Talk].Closes
		}
	} else if ev.Ends {
		return
	}
	if !ev.Ends && !e.guarded(in, c, m, r, ev.Gesture, decided) {
		return
	}
	e.carryOut(in, c, m, r, ev.Gesture, decided)
}

// carryOut sends the command of a response, or says why not.
func (e *Engine) carryOut(in Input, c *program.Controller, m *program.Mapping, r *program.Response, gesture string, decided time.Time) {
	e.doing.entry, e.doing.mapping = in.Entry, m
	if why := e.barredBecause(m); why != "" {
		e.logInput(in, c, gesture)
		e.refuse(in, m, decided, why)
		return
	}
	if reason := e.refusal(in, m.Source.ID, r); reason != "" {
		e.logInput(in, c, gesture)
		e.logDecision(in, c, m, r, decided)
		e.refuse(in, m, decided, reason)
		return
	}
	if r.Device == program.SelfID {
		e.logInput(in, c, gesture)
		e.logDecision(in, c, m, r, decided)
		e.ownAction(in, c, m, r)
		return
	}
	by := cause{mapping: m.Source.ID, joined: in.again}
	if program.Continuous(gesture) {
		by.call = e.dialCall(r)
	} else {
		by = e.restorableCause(in, m.Source.ID, r)
	}
	cmd, err := e.dispatch(in, by, r)
	e.logInput(in, c, gesture)
	e.logDecision(in, c, m, r, decided)
	if err != nil {
		e.refuse(in, m, decided, fmt.Sprintf("This cannot be sent to %s: %v.", r.Name, err))
		return
	}
	e.logDispatch(cmd, r)
}

// dueTouches does what touches have left due: holds, doubles, repeats, guards
// and dials.
func (e *Engine) dueTouches(now time.Time) {
	for key, h := range e.controls {
		e.doing = doing{control: key}
		events := h.Due(now)
		if len(events) > 0 {
			in := h.in
			in.Entry, in.At, in.Edge = journal.NextID(), now, ""
			if c := e.program.Controllers[in.Controller]; c != nil {
				e.gesturesOf(in, c, h, events)
			}
		}
		e.rearmControl(key, h)
	}
	for id, g := range e.guards {
		verdict, due := g.Due(now)
		if !due {
			if at, more := g.Next(); more {
				e.arm(at)
			}
			continue
		}
		delete(e.guards, id)
		e.stream.push(GuardChanged{id, "", time.Time{}, time.Time{}})
		if verdict == input.Fire {
			e.log(journal.Event{Entry: g.in.Entry, At: now, Stage: journal.StageGuard, Text: "It was held long enough"})
			e.carryOut(g.in, g.from, g.mapping, g.resp, g.gesture, now)
		}
	}
	e.dueDials(now)
}

// releaseAll lets go of every control that a lost link holds.
func (e *Engine) releaseAll(link string) {
	for _, h := range e.controls {
		if h.Held(link) {
			e.input(cancelled(h.in, link))
		}
	}
}

// cancelled is the input that ends a touch because its link, or its controller, is gone.
func cancelled(down Input, link string) Input {
	return Input{Entry: journal.NextID(), At: time.Now(), Controller: down.Controller, Control: down.Control, Edge: input.Cancel, Link: link,
		Via: "lost link", Actor: "Synaptor"}
}
