package reflex

import (
	"fmt"
	"time"

	"synaptor/internal/core/reading"
)

// What a reading does.
const (
	Changes = "changes" // it is another value than before
	Becomes = "becomes" // it is a value, and was not
	Leaves  = "leaves"  // it was a value, and is not
	Rises   = "rises"   // it crosses a level upwards
	Falls   = "falls"   // it crosses a level downwards
)

// Edges lists what a reading can do.
var Edges = []string{Changes, Becomes, Leaves, Rises, Falls}

// Watch waits for a reading to do something, and for that to have been so for a while. The zero value waits for any change.
type Watch struct {
	Edge  string
	Value string  // of becomes and leaves, as the reading's text
	Level float64 // of rises and falls
	// Back is how far a reading has to go back beyond the level before it can cross it again: hysteresis, in its unit.
	Back float64
	// For is how long it has to have been so.
	For time.Duration
	// Text gives a value as text, as a show writes it; nil: fmt.Sprint.
	Text func(reading.Value) string

	beyond bool // of rises and falls: it is beyond the level, and has not gone back yet
	known  bool // whether that is known
	due    time.Time
}

// See tells of a value that a reading had, and has now; it reports whether that fires. Values that nobody knew before fire nothing.
func (w *Watch) See(was, now reading.Value, at time.Time) (fires bool) {
	switch w.Edge {
	case Rises, Falls:
		fires = w.crosses(was, now)
		if !w.beyond {
			w.due = time.Time{}
		}
	case Becomes:
		is := w.text(now) == w.Value
		fires = is && w.text(was) != w.Value && was != nil
		if !is {
			w.due = time.Time{}
		}
	case Leaves:
		is := w.text(now) == w.Value
		fires = !is && was != nil && w.text(was) == w.Value
		if is {
			w.due = time.Time{}
		}
	default:
		fires = was != nil && w.text(was) != w.text(now)
	}
	if !fires || w.For == 0 {
		return fires
	}
	w.due = at.Add(w.For) // a change has to be left alone for so long
	return false
}

func (w *Watch) text(v reading.Value) string {
	switch {
	case v == nil:
		return ""
	case w.Text != nil:
		return w.Text(v)
	}
	return fmt.Sprint(v)
}

// crosses tells whether a level is crossed in the direction that counts.
func (w *Watch) crosses(was, now reading.Value) bool {
	n, isNumber := reading.Number(now)
	if !isNumber {
		return false
	}
	side := func(n float64) (beyond, back bool) {
		if w.Edge == Falls {
			return n <= w.Level, n > w.Level+w.Back
		}
		return n >= w.Level, n < w.Level-w.Back
	}
	if !w.known {
		w.known = true
		before, had := reading.Number(was)
		w.beyond, _ = side(before)
		if !had {
			w.beyond, _ = side(n)
			return false
		}
	}
	beyond, back := side(n)
	switch {
	case !w.beyond && beyond:
		w.beyond = true
		return true
	case w.beyond && back:
		w.beyond = false
	}
	return false
}

// Forget has the watch begin anew: the device was away, and what it says next is nothing that happens.
func (w *Watch) Forget() { w.known, w.beyond, w.due = false, false, time.Time{} }

// Due reports whether what it waits for has been so for long enough by now; it fires once.
func (w *Watch) Due(now time.Time) bool {
	if w.due.IsZero() || now.Before(w.due) {
		return false
	}
	w.due = time.Time{}
	return true
}

// Next is when Due is to be asked; false: not at all.
func (w *Watch) Next() (time.Time, bool) { return w.due, !w.due.IsZero() }

// farthest is by how much time code may move on at once and still pass what lies between; more is a jump to another place.
const farthest = 2 * time.Second

// Passes tells whether time code that was one thing and is another has passed a point, all as 10:00:00:00 (SMPTE ST 12-1), running forwards.
func Passes(was, now, point string) bool {
	step := clockOf(now) - clockOf(was)
	return was < point && point <= now && 0 <= step && step <= farthest
}

// clockOf is time code without its frames, as a time; a day where it is none, so that nothing is passed.
func clockOf(code string) time.Duration {
	var h, m, s, f int
	if n, _ := fmt.Sscanf(code, "%d:%d:%d:%d", &h, &m, &s, &f); n != 4 {
		return 24 * time.Hour
	}
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(s)*time.Second
}
