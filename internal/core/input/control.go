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
	holders map[string]time.Time // until when each holds it; zero: until it lets go
	mapped  Mapped
	timing  Timing

	down    time.Time // when it went down
	held    bool      // hold has fired: nothing more comes of this touch but its release
	fired   bool      // press, double or talk has
	second  bool      // this touch is the second of a double
	turned  bool      // it was turned while it was down
	waiting time.Time // when a press that waits for a second one fires; zero: none waits
	owed    bool      // it was let go while its press waited: the release follows the press
	repeats time.Time // when it repeats next; zero: never
	verdict Verdict   // what the guard said to this touch; empty: it was not asked
	open    bool      // a talk is open
	latched bool      // and stays so without a hand
	// repeated says that it has repeated in this touch.
	repeated bool
}

// Down takes in that a link pressed the control. mapped and timing are those of
// the mapping that answers now; they hold until the control rests again.
func (c *Control) Down(link string, now time.Time, mapped Mapped, timing Timing) []Event {
	was := c.IsDown()
	if c.holders == nil {
		c.holders = map[string]time.Time{}
	}
	c.holders[link] = time.Time{}
	if was {
		return nil
	}
	if c.second = now.Before(c.waiting); !c.second {
		c.mapped, c.timing = mapped, timing
	}
	c.down, c.held, c.fired, c.repeated, c.turned, c.owed, c.verdict = now, false, false, false, false, false, ""
	c.waiting, c.repeats = time.Time{}, time.Time{}
	if c.mapped[Repeat] {
		c.repeats = now.Add(c.timing.RepeatAfter)
	}
	switch {
	case c.second:
		c.fired = true
		return []Event{{Gesture: Double}}
	case c.mapped[Talk]:
		c.fired = true // a talk is the press of its control
		if c.latched {
			c.verdict = Fire // what opened it was let through
			return c.ends()
		}
		return []Event{{Gesture: Talk}}
	case c.timing.Urgent && c.mapped[Press]:
		c.fired = true
		return []Event{{Gesture: Press}}
	case c.mapped[Double]:
		c.waiting = now.Add(c.timing.Double)
	case !c.mapped[Hold] && !c.mapped[PushTurn] && !c.timing.Lift:
		c.fired = true
		return []Event{{Gesture: Press}}
	}
	return nil
}

// ends closes a talk.
func (c *Control) ends() []Event {
	c.open, c.latched = false, false
	return []Event{{Gesture: Talk, Ends: true}}
}

// GoesOn reports whether a touch at this moment goes on with the mapping of the one before: somebody
// holds the control, what it opened is open, or a second press is awaited.
func (c *Control) GoesOn(now time.Time) bool { return c.IsDown() || c.latched || c.Awaits(now) }

// Awaits reports whether a second press is awaited.
func (c *Control) Awaits(now time.Time) bool { return !c.IsDown() && now.Before(c.waiting) }

// EndWait fires a press that waits for a second one, because none can come: something else
// answers the control now.
func (c *Control) EndWait() []Event {
	if c.waiting.IsZero() || c.IsDown() {
		return nil
	}
	return c.Due(c.waiting)
}

// Renew has a link hold the control until a time, and no longer.
func (c *Control) Renew(link string, until time.Time) {
	if _, holds := c.holders[link]; holds {
		c.holders[link] = until
	}
}

// Expired lists the links whose time to hold the control is over.
func (c *Control) Expired(now time.Time) (links []string) {
	for l, until := range c.holders {
		if !until.IsZero() && !now.Before(until) {
			links = append(links, l)
		}
	}
	return links
}

// Holds takes in a hold that is finished already, from a link that ends it later.
func (c *Control) Holds(link string, now time.Time, mapped Mapped, timing Timing) {
	if c.IsDown() {
		return
	}
	c.Down(link, now, mapped, timing)
	c.held, c.waiting, c.repeats = true, time.Time{}, time.Time{}
}

// Ask has the guard of the mapping judge a gesture of the touch; nil guards nothing now. What the
// first gesture of a touch was told holds for all of it: a release and a repeat never fire where
// their press did not.
func (c *Control) Ask(gesture string, g *Guard, now time.Time) Verdict {
	switch {
	case c.verdict == Fire:
		return Fire
	case c.verdict != "":
		return Kept
	case g == nil:
		c.verdict = Fire
	case c.IsDown():
		c.verdict = g.Press(gesture, c.down, now)
	default:
		c.verdict = g.Press(gesture, time.Time{}, now)
	}
	return c.verdict
}

// Asked reports whether the guard has judged the touch.
func (c *Control) Asked() bool { return c.verdict != "" }

// LetThrough takes in that a guard which had the touch wait lets it through.
func (c *Control) LetThrough() { c.verdict = Fire }

// Refused takes in that what the touch asked for was refused: nothing more comes of it.
func (c *Control) Refused() { c.verdict = Kept }

// Opened takes in that a talk was opened. Only what was opened is latched, and closed.
func (c *Control) Opened() { c.open = true }

// StaysOpen takes in that a talk could not be closed: it is latched, until it is.
func (c *Control) StaysOpen() { c.open, c.latched = true, true }

// Closed takes in that something else closed the talk.
func (c *Control) Closed() { c.open, c.latched = false, false }

// Latched reports whether a talk is open that no hand holds.
func (c *Control) Latched() bool { return c.latched }

// Up takes in that a link let the control go.
func (c *Control) Up(link string, now time.Time) []Event { return c.up(link, now, false) }

// Cancel takes in that a link let the control go and nothing may come of it but its
// end: a press that waits for the release does not fire. What was fired gets its
// release, and a talk closes.
func (c *Control) Cancel(link string, now time.Time) []Event { return c.up(link, now, true) }

func (c *Control) up(link string, now time.Time, cancelled bool) []Event {
	if !c.Held(link) {
		return nil
	}
	delete(c.holders, link)
	if c.IsDown() {
		return nil
	}
	var out []Event
	if c.open {
		if c.latched = !cancelled && now.Sub(c.down) < c.timing.Tap; !c.latched {
			out = c.ends()
		}
	}
	switch {
	case cancelled:
		c.waiting = time.Time{}
	case !c.waiting.IsZero():
		c.owed = true
		return out
	case !c.fired && !c.held && !c.turned:
		out = append(out, Event{Gesture: Press})
		c.fired = true
	}
	if c.repeats = (time.Time{}); c.fired || c.held || c.repeated {
		out = append(out, c.release()...)
	}
	return out
}

// release follows what the touch has done. Where the mapping responds to nothing else, it follows
// every touch.
func (c *Control) release() []Event {
	m := c.mapped
	did := m[Hold] && c.held || m[Repeat] && c.repeated || c.fired && (m[Press] && !c.second || m[Double] && c.second || m[Talk])
	if did || !(m[Press] || m[Hold] || m[Double] || m[Talk] || m[Repeat]) {
		return []Event{{Gesture: Release}}
	}
	return nil
}

// Turned takes in steps of a dial.
func (c *Control) Turned(steps float64, mapped Mapped) []Event {
	gesture := Turn
	if c.IsDown() {
		c.turned, c.waiting = true, time.Time{}
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
	down := c.IsDown()
	if c.mayHold() && now.Sub(c.down) >= c.timing.Hold {
		c.held, c.waiting = true, time.Time{}
		out = append(out, Event{Gesture: Hold})
	}
	if !c.waiting.IsZero() && !now.Before(c.waiting) && !(down && c.mapped[Hold]) {
		c.waiting, c.fired = time.Time{}, true
		out = append(out, Event{Gesture: Press})
		if c.owed {
			c.owed = false
			out = append(out, c.release()...)
		}
	}
	if down && !c.repeats.IsZero() && !now.Before(c.repeats) {
		c.repeats, c.repeated = now.Add(c.timing.RepeatEvery), true
		out = append(out, Event{Gesture: Repeat})
	}
	return out
}

// mayHold reports whether a hold may come of the touch.
func (c *Control) mayHold() bool {
	return c.IsDown() && c.mapped[Hold] && !c.held && (!c.fired || c.timing.Urgent) && !c.turned
}

// Next is when Due has to be asked; ok is false when nothing is due.
func (c *Control) Next() (at time.Time, ok bool) {
	sooner := func(t time.Time) {
		if !t.IsZero() && (!ok || t.Before(at)) {
			at, ok = t, true
		}
	}
	down := c.IsDown()
	if c.mayHold() {
		sooner(c.down.Add(c.timing.Hold))
	}
	if !(down && c.mapped[Hold]) {
		sooner(c.waiting)
	}
	if down {
		sooner(c.repeats)
	}
	for _, until := range c.holders {
		sooner(until)
	}
	return at, ok
}

// Rests reports whether nothing more can come of what was done so far.
func (c *Control) Rests() bool { return !c.IsDown() && c.waiting.IsZero() && !c.open }

// Held reports whether a link holds the control down.
func (c *Control) Held(link string) bool {
	_, holds := c.holders[link]
	return holds
}

// Holders lists the links that hold the control down.
func (c *Control) Holders() []string { return slices.Sorted(maps.Keys(c.holders)) }

// IsDown reports whether the control is down.
func (c *Control) IsDown() bool { return len(c.holders) > 0 }
