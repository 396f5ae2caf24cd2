package reflex

import (
	"slices"
	"time"
)

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

	// last has when each key has fired, old those before there were too many.
	last, old map[string]time.Time
	waiting   []held[T] // the oldest first
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

// maxKeys is how many keys are remembered, and as many again that have fired before those.
//
//limit:count people, or other values, that the rate of a reflex remembers | nowhere; the oldest may fire again
const maxKeys = 10_000

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
	last, has := g.lastOf(key)
	return !has || at.Sub(last) >= g.Every
}

func (g *Gate[T]) lastOf(key string) (at time.Time, has bool) {
	if at, has = g.last[key]; !has {
		at, has = g.old[key]
	}
	return at, has
}

func (g *Gate[T]) fired(key string, at time.Time) {
	if g.last == nil || len(g.last) >= maxKeys {
		g.last, g.old = map[string]time.Time{}, g.last
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
		last, _ := g.lastOf(h.key)
		if at := last.Add(g.Every); !any || at.Before(next) {
			next, any = at, true
		}
	}
	return next, any
}

// Waiting is how many wait.
func (g *Gate[T]) Waiting() int { return len(g.waiting) }
