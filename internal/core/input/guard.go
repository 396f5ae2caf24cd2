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
	Kind   string
	For    time.Duration // how long to hold, or how long it stays armed
	armed  time.Time     // until when; zero: it is not
	filled time.Time     // when a hold is complete; zero: nobody holds
}

// Verdict is what a guard says to a press.
type Verdict string

// The verdicts.
const (
	Fire   Verdict = "fire"
	Armed  Verdict = "armed"  // once more, or hold on
	Waits  Verdict = "waits"  // the hold fills
	Closed Verdict = "closed" // the time is over
)

// Press takes in a press.
func (g *Guard) Press(now time.Time) Verdict {
	switch g.Kind {
	case GuardHold:
		g.filled = now.Add(g.For)
		return Waits
	case GuardTwice, GuardCover:
		if !g.armed.IsZero() && now.Before(g.armed) {
			g.armed = time.Time{}
			return Fire
		}
		g.armed = now.Add(g.For)
		return Armed
	}
	return Fire
}

// LetGo takes in that the control was let go: a hold that is not full is over.
// It reports whether one was.
func (g *Guard) LetGo() bool {
	was := !g.filled.IsZero()
	g.filled = time.Time{}
	return was
}

// Due gives Fire when a hold is full and Closed when an armed guard closes.
func (g *Guard) Due(now time.Time) (Verdict, bool) {
	if !g.filled.IsZero() && !now.Before(g.filled) {
		g.filled = time.Time{}
		return Fire, true
	}
	if !g.armed.IsZero() && !now.Before(g.armed) {
		g.armed = time.Time{}
		return Closed, true
	}
	return "", false
}

// Next is when Due has something; ok is false when nothing is due.
func (g *Guard) Next() (at time.Time, ok bool) {
	if !g.filled.IsZero() {
		return g.filled, true
	}
	return g.armed, !g.armed.IsZero()
}
