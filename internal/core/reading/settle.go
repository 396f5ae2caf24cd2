package reading

import (
	"math"
	"slices"
	"time"
)

// answerWindow is how long an answer may take. What a device says within it may be an answer.
const answerWindow = 2 * time.Second

// leastGrace is the least that something which takes its time may take longer.
const leastGrace = 100 * time.Millisecond

// Report takes in what a device said. It tells whether the reading changed as
// seen from outside, and what it settled.
func (t *Table) Report(k Key, v Value, now time.Time) (changed bool, settled []Settled) {
	c := t.ensure(k)
	before := c.Reading
	source := ""
	question := t.question(k, c)
	if hit := c.hit(v); hit >= 0 && !c.answersOnly(v, hit, question, now) {
		for _, e := range c.waiting[:hit] {
			settled = append(settled, Settled{Expectation: e, Outcome: Overtaken})
		}
		e := c.waiting[hit]
		settled = append(settled, Settled{Expectation: e, Outcome: Matched, Got: v, Latency: max(0, now.Sub(e.Sent)-e.After)})
		source = e.Entry
		c.waiting = c.waiting[hit+1:]
		if e.Apart {
			c.trails(now.Add(answerWindow))
		}
	} else if len(c.waiting) > 0 {
		settled = append(c.overtaken(), c.other(v, question, now)...)
	}
	if before.Quality == Unknown || c.Value != v {
		c.Value, c.Since, c.Source = v, now, source
	}
	c.heard, c.reported = true, now
	c.refresh(Confirmed)
	t.track(k, c)
	return before != c.Reading, settled
}

// hit finds the oldest expectation that a value meets, or the one that has taken it over; -1 where there
// is none.
func (c *cell) hit(v Value) int {
	at := -1
	for i := range c.waiting {
		e := c.waiting[i]
		if !e.Unsent && Equal(e.Value, v, e.Tolerance) && (at < 0 || c.waiting[at].takenOver(e)) {
			at = i
		}
	}
	return at
}

// answersOnly tells whether a value that meets an expectation is rather an answer to an older question: it
// says nothing new, and what is to come before has not come.
func (c *cell) answersOnly(v Value, hit int, question, now time.Time) bool {
	if !Equal(c.Value, v, 0) || !question.Before(c.waiting[hit].Sent) || now.Sub(question) >= answerWindow {
		return false
	}
	for i, e := range c.waiting[:hit] {
		if !Equal(e.Value, v, e.Tolerance) && !slices.ContainsFunc(c.waiting[i+1:hit+1], e.takenOver) {
			return true
		}
	}
	return false
}

// takenOver tells whether a later expectation ends this one: a device that takes its time begins anew with
// the next command, and says once that it is there.
func (e *Expectation) takenOver(by Expectation) bool {
	return e.Over > 0 && !by.Unsent && by.Sent.Before(e.latest())
}

// overtaken ends the oldest expectations as far as others have taken them over.
func (c *cell) overtaken() (settled []Settled) {
	for {
		e := &c.waiting[0]
		if !slices.ContainsFunc(c.waiting[1:], e.takenOver) {
			return settled
		}
		settled = append(settled, Settled{Expectation: *e, Outcome: Overtaken})
		c.waiting = c.waiting[1:]
		c.trails(e.latest())
	}
}

// trails notes that until then the device may still tell of a command that has ended.
func (c *cell) trails(until time.Time) {
	if until.After(c.trailing) {
		c.trailing = until
	}
}

// other takes in a value that nothing waits for. It contradicts the oldest expectation, unless it
// answers an older question, comes before the device has had its time or may be about a command before, or is
// on the way.
func (c *cell) other(v Value, question, now time.Time) (settled []Settled) {
	e := &c.waiting[0]
	if e.Unsent {
		return nil // the device has not heard of it
	}
	if question.Before(e.Sent) && now.Sub(question) < answerWindow && (c.reported.Before(question) || Equal(c.Value, v, 0)) {
		e.differ = true
		return nil
	}
	starts := e.Sent.Add(e.After - e.Over)
	nearer := nearer(c.Value, v, e.Value)
	if nearer && e.Over > 0 && !e.began && !now.Before(starts) {
		e.began = true
		settled = append(settled, Settled{Expectation: *e, Outcome: Began, Got: v, Latency: now.Sub(starts)})
	}
	if nearer || now.Before(e.latest()) || now.Before(c.trailing) {
		e.differ = true
		return settled
	}
	settled = append(settled, Settled{Expectation: *e, Outcome: Disagreed, Got: v})
	c.waiting = c.waiting[1:]
	return settled
}

// grace is how much longer than its time the device may take.
func (e *Expectation) grace() time.Duration {
	switch {
	case e.After == 0:
		return 0
	case e.Grace > 0:
		return e.Grace
	}
	return max(e.After/10, leastGrace)
}

// latest is when the device is to be there at the latest.
func (e *Expectation) latest() time.Time { return e.Sent.Add(e.After + e.grace()) }

// nearer reports whether a number has moved towards where it is to be.
func nearer(from, to, aim Value) bool {
	f, okf := Number(from)
	n, okn := Number(to)
	a, oka := Number(aim)
	return okf && okn && oka && math.Abs(a-n) < math.Abs(a-f)
}

// Asked notes that a device was asked for a reading; an empty path: for all of them. What it
// answers is no word on a command that is sent after that.
func (t *Table) Asked(k Key, at time.Time) {
	if k.Path != "" {
		t.ensure(k).asked = at
	} else if d := t.devices[k.Device]; d != nil {
		d.asked = at
	}
}

// question is when a reading was asked for last.
func (t *Table) question(k Key, c *cell) time.Time {
	if all := t.devices[k.Device].asked; all.After(c.asked) {
		return all
	}
	return c.asked
}

// Left notes that a command was written: from now on reports are a word on it.
func (t *Table) Left(command uint64) {
	for _, c := range t.waiting {
		for i := range c.waiting {
			if c.waiting[i].Command == command {
				c.waiting[i].Unsent = false
			}
		}
	}
}

// Expire ends the expectations whose limit has passed. Where a report had another value, and none
// had the right one after it, the device disagrees. One is waited for longer, up to maxLimit, while its
// device is slow: while that has said nothing at all since the command was sent.
func (t *Table) Expire(now time.Time, slow func(device string, sent time.Time) bool) (keys []Key, expired []Settled) {
	for k, c := range t.waiting {
		n := 0
		for n < len(c.waiting) && !now.Before(c.waiting[n].Limit) {
			e := &c.waiting[n]
			if longer := e.Limit.Add(slowStep); longer.Before(e.Sent.Add(e.After+maxLimit)) && slow(k.Device, e.Sent) {
				e.Limit = longer
				break
			}
			s := Settled{Expectation: *e, Outcome: Expired}
			switch {
			case slices.ContainsFunc(c.waiting[n+1:], e.takenOver):
				s.Outcome = Overtaken
			case !e.Unsent && c.reported.After(e.Sent) && Equal(c.Value, e.Value, e.Tolerance):
				s.Outcome, s.Got, s.NoSample = Matched, c.Value, true // it was taken for a word on something else
			case s.differ:
				s.Outcome, s.Got = Disagreed, c.Value
			}
			if s.Outcome == Expired && !e.Unsent {
				c.trails(now.Add(answerWindow)) // the device may come to it yet
			}
			expired = append(expired, s)
			n++
		}
		if n > 0 {
			c.waiting = c.waiting[n:]
			c.refresh(settledQuality(c))
			t.track(k, c)
			keys = append(keys, k)
		}
	}
	return keys, expired
}

// slowStep is how often a device that is slow is looked at again.
const slowStep = 100 * time.Millisecond
