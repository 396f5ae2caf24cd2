package reflex

import (
	"fmt"
	"slices"
	"time"
)

// Case is what lives of one reflex: what waits for its event, how often it may fire, and when it has to be stopped. The live show and what it would have done
// are both judged by it. The zero value, with a Watch and a Gate, has nothing behind it.
type Case[T any] struct {
	Watch   Watch
	Gate    Gate[T]
	Breaker Breaker
	// Broken is why it was switched off by itself; empty: it was not.
	Broken string
}

// Judge finds out what becomes of an event: key is what the rate counts by, and why it did not fire is said in a sentence.
func (c *Case[T]) Judge(key string, what T, at time.Time) (v Verdict, why string) {
	switch v = c.Gate.Ask(key, what, at); v {
	case Fires:
		return v, ""
	case Dropped:
		return v, "It fires at most once in " + Lasting(c.Gate.Every) + "."
	}
	return v, "It waits for its time."
}

// Fire notes a firing whose causes are the reflexes of chain, by id. why says where it may not: its chain is too deep, or it is broken by this one.
func (c *Case[T]) Fire(id string, chain []string, named func([]string) string, at time.Time) (why string) {
	if slices.Contains(chain, id) {
		c.Broken = "It has set itself off."
		if len(chain) > 1 {
			c.Broken = "It has set itself off, by way of " + named(chain) + "."
		}
		return c.Broken
	}
	if len(chain) >= MaxDepth {
		return fmt.Sprintf("%d reflexes have set each other off: that is as far as it goes.", len(chain))
	}
	if c.Breaker.Fired(at) {
		c.Broken = fmt.Sprintf("It has fired more than %d times in %s.", BreakAfter, Lasting(BreakWithin))
		return c.Broken
	}
	return ""
}

// Next is when the case is to be asked again; false: not before its next event.
func (c *Case[T]) Next() (next time.Time, any bool) {
	next, any = c.Watch.Next()
	if at, waits := c.Gate.Next(); waits && (!any || at.Before(next)) {
		return at, true
	}
	return next, any
}

// Lasting is a time in words.
func Lasting(d time.Duration) string {
	switch {
	case d >= time.Hour && d%time.Hour == 0:
		return fmt.Sprintf("%d h", d/time.Hour)
	case d >= time.Minute && d%time.Minute == 0:
		return fmt.Sprintf("%d min", d/time.Minute)
	}
	return fmt.Sprintf("%g s", d.Seconds())
}
