package input

import (
	"fmt"
	"slices"

	"synaptor/internal/core/show"
)

// Check says what is wrong with the guard and the timing of a mapping.
func Check(m *show.Mapping) (errs []*show.FieldError) {
	add := func(field, text string) { errs = append(errs, &show.FieldError{Field: field, Text: text}) }
	if g := m.Guard; g != nil {
		switch {
		case !slices.Contains([]string{GuardHold, GuardTwice, GuardCover}, g.Kind):
			add("guard", fmt.Sprintf("There is no guard %q.", g.Kind))
		case g.Ms < 200 || g.Ms > 20_000:
			add("guard", "A guard takes 200 to 20000 ms.")
		case g.Kind == GuardHold && m.Response(Hold) != nil:
			add("guard", "A guard that is held and the gesture hold cannot share a control. Choose another guard, or take the hold away.")
		case g.Kind == GuardHold && slices.ContainsFunc(m.Responses, func(r show.Response) bool { return !canBeHeld(r.Gesture) }):
			add("guard", "A turn, a slide or a swipe cannot be held until it fires. Choose another guard.")
		}
	}
	if !slices.Contains([]string{"", "touch", "lift"}, m.Fires) {
		add("fires", "A press fires on touch or on lift.")
	}
	if m.Fires == "lift" && m.Guard != nil && m.Guard.Kind == GuardHold {
		add("fires", "A guard that is held cannot wait for the lift. Choose another guard.")
	}
	if m.HoldMs != 0 && (m.HoldMs < 100 || m.HoldMs > 10_000) {
		add("holdMs", "A hold takes 100 to 10000 ms.")
	}
	if m.DoubleMs != 0 && (m.DoubleMs < 100 || m.DoubleMs > 2000) {
		add("doubleMs", "A double takes 100 to 2000 ms.")
	}
	return errs
}

// Lifts tells whether a press of a mapping fires on lift: as it is told, else for a
// risky action on a touch key, where sliding off then cancels it. What lasts while
// the key is down cannot wait for the lift.
func Lifts(m *show.Mapping, kind string, risky bool) bool {
	if m.Response(Talk) != nil || m.Response(Repeat) != nil || m.Guard != nil && m.Guard.Kind == GuardHold {
		return false
	}
	return m.Fires == "lift" || m.Fires == "" && kind == "touch" && risky
}

// canBeHeld tells whether a control is down while a gesture of it is made.
func canBeHeld(gesture string) bool {
	switch gesture {
	case Turn, TurnLeft, TurnRight, PushTurn, Slide, SwipeLeft, SwipeRight:
		return false
	}
	return true
}
