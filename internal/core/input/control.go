package input

import (
	"maps"
	"slices"
	"time"
)

// Event is a gesture that was made.
type Event struct {
	Gesture string
	// Amount is the number of steps of a turn, or the position of a slide.
	Amount float64
	// Ends says that a talk closes.
	Ends bool
}

// Control follows one control. Several links may hold it at once; it is down
// while any of them does. The zero value is a control nobody touches.
type Control struct {
	holders map[string]bool
	mapped  Mapped
	timing  Timing

	down    time.Time // when it went down
	held    bool      // hold has fired, or press has: nothing more comes of this touch
	fired   bool
	turned  bool      // it was turned while it was down
	waiting time.Time // when a press that waits for a second one fires; zero: none waits
	repeats time.Time // when it repeats next; zero: never
	latched bool      // a talk stays open
	closing bool      // this touch closes a latched talk
}

// Down takes in that a link pressed the control. mapped and timing are those of
// the mapping that answers now; they hold until the control rests again.
func (c *Control) Down(link string, now time.Time, mapped Mapped, timing Timing) []Event {
	was := len(c.holders) > 0
	if c.holders == nil {
		c.holders = map[string]bool{}
	}
	c.holders[link] = true
	if was {
		return nil
	}
	if !c.waiting.IsZero() && now.Before(c.waiting) {
		c.waiting = time.Time{}
		c.down, c.fired, c.turned, c.held = now, true, false, false
		return []Event{{Gesture: Double}}
	}
	c.mapped, c.timing = mapped, timing
	c.down, c.held, c.fired, c.turned, c.repeats, c.closing = now, false, false, false, time.Time{}, false
	if mapped[Repeat] {
		c.repeats = now.Add(timing.RepeatAfter)
	}
	var out []Event
	if mapped[Talk] {
		c.fired = true // a talk is the press of its control
		if c.latched {
			c.latched, c.closing = false, true
			return []Event{{Gesture: Talk, Ends: true}}
		}
		return []Event{{Gesture: Talk}}
	}
	switch {
	case mapped[Double]:
		c.waiting = now.Add(timing.Double)
	case !mapped[Hold] && !mapped[PushTurn] && !timing.Lift:
		c.fired = true
		out = append(out, Event{Gesture: Press})
	}
	return out
}

// Up takes in that a link let the control go.
func (c *Control) Up(link string, now time.Time) []Event { return c.up(link, now, false) }

// Cancel takes in that a link let the control go and nothing may come of it but its
// end: a press that waits for the release does not fire. What was fired gets its
// release, and a talk closes.
func (c *Control) Cancel(link string, now time.Time) []Event { return c.up(link, now, true) }

func (c *Control) up(link string, now time.Time, cancelled bool) []Event {
	if !c.holders[link] {
		return nil
	}
	delete(c.holders, link)
	if len(c.holders) > 0 {
		return nil
	}
	var out []Event
	if c.mapped[Talk] && !c.closing {
		if !cancelled && now.Sub(c.down) < c.timing.Tap {
			c.latched = true
		} else {
			out = append(out, Event{Gesture: Talk, Ends: true})
		}
	}
	switch {
	case cancelled:
		c.waiting = time.Time{}
	case !c.fired && !c.held && !c.turned && c.waiting.IsZero():
		out = append(out, Event{Gesture: Press})
		c.fired = true
	}
	c.repeats = time.Time{}
	return append(out, Event{Gesture: Release})
}

// Turned takes in steps of a dial.
func (c *Control) Turned(steps float64, mapped Mapped) []Event {
	gesture := Turn
	if len(c.holders) > 0 {
		c.turned = true
		if mapped[PushTurn] {
			gesture = PushTurn
		}
	}
	out := []Event{{Gesture: gesture, Amount: steps}}
	if side := Side(steps); mapped[side] {
		out = append(out, Event{Gesture: side, Amount: steps})
	}
	return out
}

// Side is the gesture of a turn that counts its direction only.
func Side(steps float64) string {
	if steps > 0 {
		return TurnRight
	}
	return TurnLeft
}

// Due gives the gestures that have come due.
func (c *Control) Due(now time.Time) []Event {
	var out []Event
	down := len(c.holders) > 0
	if down && c.mapped[Hold] && !c.held && !c.fired && !c.turned && now.Sub(c.down) >= c.timing.Hold {
		c.held, c.waiting = true, time.Time{}
		out = append(out, Event{Gesture: Hold})
	}
	if !c.waiting.IsZero() && !now.Before(c.waiting) && !(down && c.mapped[Hold]) {
		c.waiting, c.fired = time.Time{}, true
		out = append(out, Event{Gesture: Press})
	}
	if down && !c.repeats.IsZero() && !now.Before(c.repeats) {
		c.repeats = now.Add(c.timing.RepeatEvery)
		out = append(out, Event{Gesture: Repeat})
	}
	return out
}

// Next is when Due has to be asked; ok is false when nothing is due.
func (c *Control) Next() (at time.Time, ok bool) {
	sooner := func(t time.Time) {
		if !t.IsZero() && (!ok || t.Before(at)) {
			at, ok = t, true
		}
	}
	down := len(c.holders) > 0
	if down && c.mapped[Hold] && !c.held && !c.fired && !c.turned {
		sooner(c.down.Add(c.timing.Hold))
	}
	if !(down && c.mapped[Hold]) {
		sooner(c.waiting)
	}
	if down {
		sooner(c.repeats)
	}
	return at, ok
}

// Rests reports whether nothing more can come of what was done so far.
func (c *Control) Rests() bool { return len(c.holders) == 0 && c.waiting.IsZero() && !c.latched }

// Held reports whether a link holds the control down.
func (c *Control) Held(link string) bool { return c.holders[link] }

// Holders lists the links that hold the control down.
func (c *Control) Holders() []string { return slices.Sorted(maps.Keys(c.holders)) }

// IsDown reports whether the control is down.
func (c *Control) IsDown() bool { return len(c.holders) > 0 }
