// Package input decides what a touch means: which gesture an edge is, which
// mapping answers it, what a guard lets through, how far a dial turned.
//
// Nothing here has a clock: whoever calls passes the time, and asks when to come
// back.
package input

import "time"

// Edge is what a hand does to a control.
type Edge string

// The edges. Turn, Slide and Swipe carry an amount.
const (
	Down Edge = "down"
	Up   Edge = "up"
	// Cancel is an up that nothing may come of: a finger that slid off before it was
	// lifted, or a link that was lost.
	Cancel Edge = "cancel"
	Turns  Edge = "turn"  // signed steps of a dial
	Moves  Edge = "slide" // a position from 0 to 1
	Wipes  Edge = "swipe" // -1 to the left, 1 to the right
	// Types is a whole press with a text that was typed at it.
	Types Edge = "type"
)

// Gestures that a response can be mapped to.
const (
	Press      = "press"
	Release    = "release"
	Hold       = "hold"
	Double     = "double"
	Repeat     = "repeat"
	Talk       = "talk"
	Turn       = "turn"
	TurnLeft   = "turn-left"
	TurnRight  = "turn-right"
	PushTurn   = "push-turn"
	Slide      = "slide"
	SwipeLeft  = "swipe-left"
	SwipeRight = "swipe-right"
)

// Gestures lists every gesture, in the order in which they are shown.
var Gestures = []string{Press, Hold, Double, Release, Repeat, Talk, Turn, TurnLeft, TurnRight, PushTurn, Slide, SwipeLeft, SwipeRight}

// Timing is how long the recogniser waits.
type Timing struct {
	Hold        time.Duration // how long a control is down until it is held
	Double      time.Duration // within which a second press makes a double
	RepeatAfter time.Duration // until a held control repeats
	RepeatEvery time.Duration
	Tap         time.Duration // the longest tap that latches a talk
	Lift        bool          // a press fires when the control is let go, not at once
	Urgent      bool          // a press fires at once whatever else is mapped: a hold comes besides, a double never does
}

// Usual is the timing unless a mapping sets its own.
var Usual = Timing{Hold: 500 * time.Millisecond, Double: 250 * time.Millisecond, RepeatAfter: 400 * time.Millisecond, RepeatEvery: 120 * time.Millisecond,
	Tap: 300 * time.Millisecond}

// Mapped says which gestures of a control have a response.
type Mapped map[string]bool

// AddedDelay is how long a press waits on purpose: nothing, until the release,
// or a window. untilRelease is true when it fires when the control is let go.
func (m Mapped) AddedDelay(gesture string, t Timing) (wait time.Duration, untilRelease bool) {
	switch gesture {
	case Press:
		if t.Urgent {
			return 0, false
		}
		if m[Double] {
			return t.Double, m[Hold] || t.Lift
		}
		return 0, m[Hold] || t.Lift
	case Hold:
		return t.Hold, false
	case Repeat:
		return t.RepeatAfter, false
	}
	return 0, false
}
