package engine

import (
	"cmp"
	"maps"
	"strings"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/program"
)

// RollCall has touches counted, and nothing come of them: every controller is touched once, to see that each control arrives. What must always work does:
// a key whose press is urgent, such as Halt and Safe, and the release of what was pressed before.
type RollCall struct {
	Request
	On bool
}

// RollCallChanged tells that touches are counted from now on, or not any more.
type RollCallChanged struct {
	On bool
	At time.Time
	By string
}

// TouchCounted tells that a control was touched in the roll call.
type TouchCounted struct{ Controller, Control string }

// counting is the roll call that is on.
type counting struct {
	on   bool
	held map[string]bool // by control and link: it was pressed in the roll call, so that its release is counted too
}

func (a RollCall) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	if e.counting.on != a.On {
		e.counting.on = a.On
		e.stream.push(RollCallChanged{a.On, time.Now(), a.Actor})
	}
	title, text := "Begin the roll call", "Touches are counted, and nothing is sent"
	if !a.On {
		title, text = "End the roll call", "Touches do what they do again"
	}
	e.openOwn(a.Request, title, originOf("Preflight", "roll call", a.Request))
	e.confirmOwn(a.Request, text)
}

// inRollCall is why a press is refused while the roll call is on.
const inRollCall = "The roll call is on: touches are counted, and nothing is sent until it ends."

// counted takes in what is done to a control while the roll call is on, and reports whether that is all that comes of it. What is tried in Patch is meant.
func (e *Engine) counted(in Input, c *program.Controller) bool {
	if !e.counting.on && len(e.counting.held) == 0 || in.Via == "patch" {
		return false
	}
	key := controlKey(in) + " " + in.Link
	if in.Edge == input.Up || in.Edge == input.Cancel {
		held := e.counting.held[key]
		delete(e.counting.held, key)
		return held
	}
	if !e.counting.on {
		return false
	}
	e.stream.push(TouchCounted{in.Controller, in.Control})
	if e.answering(in, c).Urgent() {
		return false
	}
	if h := e.controls[controlKey(in)]; h != nil && h.IsDown() && in.Edge == input.Down {
		return false // somebody held it before the roll call began
	}
	if in.Edge == input.Down {
		if e.counting.held == nil {
			e.counting.held = map[string]bool{}
		}
		e.counting.held[key] = true
	}
	if in.Announced {
		e.logInput(in, c, cmp.Or(in.Gesture, string(in.Edge)))
		e.refuse(in, nil, time.Now(), inRollCall)
	}
	return true
}

// uncount forgets what a lost link was holding in the roll call.
func (e *Engine) uncount(link string) {
	maps.DeleteFunc(e.counting.held, func(key string, _ bool) bool { return strings.HasSuffix(key, " "+link) })
}
