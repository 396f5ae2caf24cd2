package input

import "time"

// Kinds of guard.
const (
	GuardHold  = "hold"  // fires when it was held long enough
	GuardTwice = "twice" // fires on the second press
	GuardCover = "cover" // the first press lifts the cover, the next one fires
)

// Guard protects a risky control. The zero value lets everything through.
type Guard struct {
	Kind    string
	For     time.Duration // how long to hold, or how long it stays armed
	by      string        // the gesture that armed it, and alone can fire
	armed   time.Time     // until when; zero: it is not
	filled  time.Time     // when a hold is complete; zero: nobody holds
	turning time.Time     // until when turns belong to the one that armed it
	through time.Time     // until when turns belong to one that was let through
}

// Verdict is what a guard says to a touch.
type Verdict string

// The verdicts.
const (
	Fire   Verdict = "fire"
	Armed  Verdict = "armed"  // once more, or hold on
	Waits  Verdict = "waits"  // the hold fills
	Closed Verdict = "closed" // the time is over
	Unheld Verdict = "unheld" // it has to be held, and cannot be
	Kept   Verdict = "kept"   // the touch was not let through before
)

// Press takes in a gesture. down is when the control of it went down; zero: nothing holds it down.
func (g *Guard) Press(gesture string, down, now time.Time) Verdict {
	switch g.Kind {
	case GuardHold:
		if down.IsZero() {
			return Unheld
		}
		g.filled = down.Add(g.For)
		return Waits
	case GuardTwice, GuardCover:
		if g.by == gesture && now.Before(g.armed) {
			g.armed, g.by = time.Time{}, ""
			return Fire
		}
		g.armed, g.by = now.Add(g.For), gesture
		return Armed
	}
	return Fire
}

// Turn takes in steps of a turn or a slide. A turn that armed the guard does not fire it, however
// long it goes on; one that was let through goes on.
func (g *Guard) Turn(gesture string, now time.Time) Verdict {
	switch {
	case g.GoesOn(now):
		g.through = now.Add(touchPause)
		return Fire
	case g.by == gesture && now.Before(g.turning):
		g.turning = now.Add(touchPause)
		return Kept
	}
	v := g.Press(gesture, time.Time{}, now)
	if v == Fire {
		g.through = now.Add(touchPause)
	} else {
		g.turning = now.Add(touchPause)
	}
	return v
}

// GoesOn reports whether a turn at this moment belongs to one that was let through.
func (g *Guard) GoesOn(now time.Time) bool { return now.Before(g.through) }

// LetGo takes in that the control was let go: a hold that is not full is over.
// It reports whether one was.
func (g *Guard) LetGo() bool {
	was := !g.filled.IsZero()
	g.filled = time.Time{}
	return was
}

// Due gives Fire when a hold is full and Closed when an armed guard closes, or a turn that was let
// through has ended.
func (g *Guard) Due(now time.Time) (Verdict, bool) {
	at, ok := g.Next()
	if !ok || now.Before(at) {
		return "", false
	}
	v := Closed
	if !g.filled.IsZero() {
		v = Fire
	}
	*g = Guard{Kind: g.Kind, For: g.For}
	return v, true
}

// Next is when Due has something; ok is false when nothing is due.
func (g *Guard) Next() (at time.Time, ok bool) {
	for _, t := range []time.Time{g.filled, g.armed, g.through} {
		if !t.IsZero() {
			return t, true
		}
	}
	return time.Time{}, false
}
