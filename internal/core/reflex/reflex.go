// Package reflex is what makes a reflex fire: whether a reading has done what one waits for (Watch), how often it may (Gate), and when it is
// to be stopped (Breaker). It is told the time and has no clock of its own.
package reflex

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/reading"
)

// What starts a reflex.
const (
	OnReading = "reading" // a reading does something: see the edges
	OnLink    = "link"    // a device's link comes or goes
	OnDevice  = "device"  // a device's own event, such as a message
)

// Kinds lists what can start a reflex.
var Kinds = []string{OnReading, OnLink, OnDevice}

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

// What becomes of what comes too often.
const (
	Drop    = "drop"    // it is dropped, which is usual
	Queue   = "queue"   // it waits, as many as there is room for
	Replace = "replace" // it waits in place of what waits
)

// Beyonds lists what can become of what comes too often.
var Beyonds = []string{Drop, Queue, Replace}

// Gate lets events through no more often than a time, by a key such as a person. The zero value lets all through.
type Gate[T any] struct {
	Every  time.Duration
	Beyond string
	Length int // of the queue

	last    map[string]time.Time
	waiting []held[T] // the oldest first
}

type held[T any] struct {
	key  string
	what T
}

// Verdict is what becomes of an event.
type Verdict string

// The verdicts.
const (
	Fires    Verdict = "fires"
	Waits    Verdict = "waits"
	Dropped  Verdict = "dropped"
	Replaced Verdict = "replaced" // it waits, in place of one that waited
)

// most is how many keys are remembered: those that may fire again are forgotten first.
const most = 10_000

// Ask tells what becomes of an event of a key.
func (g *Gate[T]) Ask(key string, what T, at time.Time) Verdict {
	if g.Every <= 0 {
		return Fires
	}
	if g.free(key, at) && !slices.ContainsFunc(g.waiting, func(h held[T]) bool { return h.key == key }) {
		g.fired(key, at)
		return Fires
	}
	switch g.Beyond {
	case Queue:
		if len(g.waiting) >= g.Length {
			return Dropped
		}
		g.waiting = append(g.waiting, held[T]{key, what})
		return Waits
	case Replace:
		if i := slices.IndexFunc(g.waiting, func(h held[T]) bool { return h.key == key }); i >= 0 {
			g.waiting[i].what = what
			return Replaced
		}
		if len(g.waiting) >= max(1, g.Length) {
			return Dropped
		}
		g.waiting = append(g.waiting, held[T]{key, what})
		return Waits
	default:
		return Dropped
	}
}

func (g *Gate[T]) free(key string, at time.Time) bool {
	last, has := g.last[key]
	return !has || at.Sub(last) >= g.Every
}

func (g *Gate[T]) fired(key string, at time.Time) {
	if g.last == nil {
		g.last = map[string]time.Time{}
	}
	if len(g.last) >= most {
		for k := range g.last {
			if g.free(k, at) {
				delete(g.last, k)
			}
		}
	}
	g.last[key] = at
}

// Due takes out what has waited and may fire by now, the oldest first, each key once.
func (g *Gate[T]) Due(now time.Time) (out []T) {
	g.waiting = slices.DeleteFunc(g.waiting, func(h held[T]) bool {
		if !g.free(h.key, now) {
			return false
		}
		g.fired(h.key, now)
		out = append(out, h.what)
		return true
	})
	return out
}

// Next is when Due is to be asked; false: nothing waits.
func (g *Gate[T]) Next() (next time.Time, any bool) {
	for _, h := range g.waiting {
		if at := g.last[h.key].Add(g.Every); !any || at.Before(next) {
			next, any = at, true
		}
	}
	return next, any
}

// Waiting is how many wait.
func (g *Gate[T]) Waiting() int { return len(g.waiting) }

// The breaker stops what fires more than this often within a while.
const (
	BreakAfter  = 20
	BreakWithin = 2 * time.Second
	// MaxDepth is how deep in a chain of causes a reflex may still fire.
	//
	//limit:count reflexes that have set each other off | in the journal, and at the reflex
	MaxDepth = 8
)

// Breaker notices what fires too often.
type Breaker struct{ times []time.Time }

// Fired notes a firing, and reports whether it was one too many.
func (b *Breaker) Fired(at time.Time) (breaks bool) {
	b.times = slices.DeleteFunc(b.times, func(t time.Time) bool { return at.Sub(t) >= BreakWithin })
	b.times = append(b.times, at)
	return len(b.times) > BreakAfter
}

// Node is a reflex as far as it can set others off: what it reads, and what it can write.
type Node struct {
	ID            string
	Reads, Writes []reading.Key
}

// Loops lists the circles in which reflexes can set each other off, each once, from its first one in the list on; one that sets itself off is a circle
// too.
func Loops(nodes []Node) (out [][]string) {
	sets := map[int][]int{} // by the number of one, those it can set off
	for i, a := range nodes {
		for j, b := range nodes {
			if slices.ContainsFunc(a.Writes, func(k reading.Key) bool { return slices.Contains(b.Reads, k) }) {
				sets[i] = append(sets[i], j)
			}
		}
	}
	for start := range nodes {
		var path []int
		var walk func(int)
		walk = func(n int) {
			if len(out) >= maxLoops || len(path) >= MaxDepth {
				return
			}
			path = append(path, n)
			defer func() { path = path[:len(path)-1] }()
			for _, next := range sets[n] {
				switch {
				case next == start:
					var names []string
					for _, p := range path {
						names = append(names, nodes[p].ID)
					}
					out = append(out, names)
				case next > start && !slices.Contains(path, next): // those before have their circles already
					walk(next)
				}
			}
		}
		walk(start)
	}
	return out
}

// maxLoops is how many circles are named.
//
//limit:count circles of reflexes that are named | nowhere; the others are not named
const maxLoops = 50
