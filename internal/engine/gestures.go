package engine

import (
	"cmp"
	"fmt"
	"time"

	"synaptor/internal/core/expr"
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
	if e.counted(in, c) {
		return
	}
	if in.Gesture != "" {
		e.networkGesture(in, c)
		return
	}
	h := e.control(in)
	if !e.touched(in, c, h) && in.Announced {
		e.untold(in, c)
	}
	e.rearmControl(controlKey(in), h)
}

// control is what lives of the control of an input.
func (e *Engine) control(in Input) *held {
	key := controlKey(in)
	h := e.controls[key]
	if h == nil {
		h = &held{}
		e.controls[key] = h
	}
	return h
}

// touched takes in an edge or an amount, and reports whether anything came of it.
func (e *Engine) touched(in Input, c *program.Controller, h *held) (any bool) {
	var events []input.Event
	switch in.Edge {
	case input.Down:
		e.beginTouch(in, c, h)
		events = h.Down(in.Link, in.At, h.mapping.Gestures(), h.mapping.Timing(c.Controls[in.Control].Kind))
		if in.Lease {
			h.Renew(in.Link, in.At.Add(heldFor))
		}
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
	any = e.gesturesOf(in, c, h, events)
	if (in.Edge == input.Up || in.Edge == input.Cancel) && !h.IsDown() {
		e.controlReleased(in, h)
	}
	return any
}

// beginTouch finds what answers a touch. What is held or open keeps the mapping that it began with; a
// press that waits for a second one fires where something else answers now.
func (e *Engine) beginTouch(in Input, c *program.Controller, h *held) {
	if h.Latched() && e.isSo(h.talk) {
		e.forgetTalk(h) // somebody else has closed it
		h.Closed()
	}
	m := e.answering(in, c)
	if h.Awaits(in.At) && idOf(m) != idOf(h.mapping) {
		earlier := h.in
		earlier.Entry = journal.NextID()
		e.gesturesOf(earlier, c, h, h.EndWait())
	}
	if !h.GoesOn(in.At) {
		h.mapping = m
	}
	if !h.IsDown() {
		h.in, h.zone = in, c.Controls[in.Control].Zone
	}
}

func idOf(m *program.Mapping) string {
	if m == nil {
		return ""
	}
	return m.Source.ID
}

// untold ends the entry of an edge that somebody knows the entry of, and that nothing came of by
// itself.
func (e *Engine) untold(in Input, c *program.Controller) {
	e.logInput(in, c, string(in.Edge))
	text := "The control was let go"
	if in.Edge == input.Down {
		text = "The control is held"
	}
	e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: text, Outcome: journal.Sent})
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
// the first has the input's. It reports whether there was any.
func (e *Engine) gesturesOf(in Input, c *program.Controller, h *held, events []input.Event) (any bool) {
	for _, ev := range events {
		if ev.Gesture == input.Release && (h.mapping == nil || h.mapping.Responses[input.Release] == nil) {
			continue
		}
		if any {
			in.Entry, in.Announced = journal.NextID(), false
		}
		any = e.gesture(in, c, h, ev) || any
	}
	return any
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
func (e *Engine) controlReleased(in Input, h *held) {
	if h.mapping != nil {
		if g := e.guards[h.mapping.Source.ID]; g != nil && g.held == h && g.LetGo() {
			g.waits = false
			e.log(journal.Event{Entry: g.in.Entry, At: in.At, Stage: journal.StageGuard, Text: "Let go before its time", Outcome: journal.Guarded,
				Reason: "It was let go before its time. Hold it longer to fire."})
			e.stream.push(GuardChanged{h.mapping.Source.ID, "", time.Time{}, time.Time{}})
		}
	}
	key := controlKey(in)
	e.releasePages(key)
	e.stream.push(ControlReleased{key, time.Now()})
}

// gesture starts the response to a gesture: what is checked, what leaves, and
// what the journal is told, in this order. It reports whether the journal was told anything.
func (e *Engine) gesture(in Input, c *program.Controller, h *held, ev input.Event) bool {
	decided, m := time.Now(), h.mapping
	e.gestured(in, c, ev)
	if in.Fields != nil {
		in.event = in.Fields
		was := e.during
		defer func() { e.during = was }()
		e.during = in.occasion
	}
	if ev.Ends {
		e.closeTalk(in, c, h, decided)
		return true
	}
	if m == nil {
		e.logInput(in, c, ev.Gesture)
		e.refuse(in, nil, decided, "Nothing is mapped to this control on this page.")
		return true
	}
	r := m.Responses[ev.Gesture]
	if r == nil {
		// A dial that turns both ways may have a response for one side only.
		if ev.Gesture == input.Turn && !in.Announced {
			return false
		}
		e.logInput(in, c, ev.Gesture)
		e.refuse(in, m, decided, "This key does nothing when it gets a "+ev.Gesture+".")
		return true
	}
	if r.Dial != nil && r.Problem == "" {
		in.Gesture = ev.Gesture
		e.turnDial(in, c, h, r, ev)
		return true
	}
	if program.Continuous(ev.Gesture) && e.program.RunsMacro(r) != nil {
		if e.turnedTooFast(in) {
			if in.Announced {
				e.logInput(in, c, ev.Gesture)
				e.refuse(in, m, decided, fmt.Sprintf("A turn starts a macro once in %d ms.", runsPerTurn.Milliseconds()))
			}
			return in.Announced
		}
	} else if program.Continuous(ev.Gesture) && r.Problem == "" {
		e.logInput(in, c, ev.Gesture)
		e.refuse(in, m, decided, "This action has nothing that could be turned.")
		return true
	}
	if ev.Gesture == input.Talk && r.Opens != nil {
		r = r.Opens
	}
	switch e.guarded(in, c, h, r, ev.Gesture, decided) {
	case input.Kept:
		return false
	case input.Fire:
		e.fire(in, c, h, r, ev.Gesture, decided)
	}
	return true
}

// fire carries out a response that nothing keeps back, and remembers for the rest of the touch how
// that went.
func (e *Engine) fire(in Input, c *program.Controller, h *held, r *program.Response, gesture string, decided time.Time) {
	switch sent := e.carryOut(in, c, h.mapping, r, gesture, decided); {
	case !sent:
		h.Refused()
	case gesture == input.Talk:
		e.talkOpened(in, h)
	}
}

// untyped says why a response waits for a text; empty: it wants none, or has it.
func (e *Engine) untyped(in Input, r *program.Response) string {
	asks := e.program.Asks(r)
	if _, typed := in.event[expr.TypedField]; asks == "" || typed {
		return ""
	}
	return fmt.Sprintf("This key asks for a text (%s). Type it on a panel or on the Desk.", asks)
}

// carryOut sends the command of a response, or says why not.
func (e *Engine) carryOut(in Input, c *program.Controller, m *program.Mapping, r *program.Response, gesture string, decided time.Time) (sent bool) {
	e.doing.entry, e.doing.mapping = in.Entry, m
	if why := e.barredBecause(m); why != "" {
		e.logInput(in, c, gesture)
		e.refuse(in, m, decided, why)
		return false
	}
	if reason := cmp.Or(e.untyped(in, r), e.refusal(in, m.Source.ID, r)); reason != "" {
		e.logInput(in, c, gesture)
		e.logDecision(in, c, m, r, decided)
		e.refuse(in, m, decided, reason)
		e.notSent(r.Device)
		return false
	}
	if r.Device == program.SelfID {
		e.logInput(in, c, gesture)
		e.logDecision(in, c, m, r, decided)
		e.ownAction(in, c, m, r)
		return true
	}
	by := cause{mapping: m.Source.ID, joined: in.again}
	if program.Continuous(gesture) {
		by.call = e.dialCall(r)
	} else {
		by = e.restorableCause(in, m.Source.ID, r)
	}
	if (in.closes || gesture == input.Release) && r.Bound.Absolute() {
		by.closes = &closing{in: in, resp: r, title: e.title(r)}
	}
	cmd, err := e.dispatch(in, by, r)
	e.logInput(in, c, gesture)
	e.logDecision(in, c, m, r, decided)
	if err != nil {
		e.refuse(in, m, decided, fmt.Sprintf("This cannot be sent to %s: %v.", r.Name, err))
		return false
	}
	e.logDispatch(cmd, r)
	return true
}

// dueTouches does what touches have left due: holds, doubles, repeats, guards
// and dials.
func (e *Engine) dueTouches(now time.Time) {
	for key, h := range e.controls {
		e.doing = doing{control: key}
		for _, link := range h.Expired(now) {
			e.input(cancelled(h.in, link, "not renewed"))
		}
		if events := h.Due(now); len(events) > 0 {
			in := h.in
			in.Entry, in.At, in.Edge, in.Announced = journal.NextID(), now, "", false
			if c := e.program.Controllers[in.Controller]; c != nil {
				e.gesturesOf(in, c, h, events)
			}
		}
		e.rearmControl(key, h)
	}
	e.dueGuards(now)
	e.dueDials(now)
}

// releaseAll lets go of every control that a lost link holds.
func (e *Engine) releaseAll(link string) {
	for _, h := range e.controls {
		if h.Held(link) {
			e.input(cancelled(h.in, link, "lost link"))
		}
	}
}

// cancelled is the input that ends a touch because its link, or its controller, is gone.
func cancelled(down Input, link, why string) Input {
	return Input{Entry: journal.NextID(), At: time.Now(), Controller: down.Controller, Control: down.Control, Edge: input.Cancel, Link: link,
		Via: why, Actor: "Synaptor"}
}
