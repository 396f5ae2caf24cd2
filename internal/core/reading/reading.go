// Package reading holds what devices report: values with a quality, what was
// sent but not yet confirmed, and how long devices take to confirm.
//
// A reading keeps the value that was last reported apart from the values that
// are expected because a command is on its way. Expectations are first in,
// first out: a report settles the oldest one that it matches.
package reading

import (
	"math"
	"slices"
	"time"
)

// Key names a reading: a device's id and a path within the device.
type Key struct {
	Device string
	Path   string
}

// String gives the key as it is written in a show's expressions.
func (k Key) String() string { return k.Device + ":" + k.Path }

// Value is what a reading holds: nil (nothing yet), bool, int, float64 or
// string. Levels are float64 in decibels; -inf is math.Inf(-1).
type Value = any

// Quality says how far a value can be trusted.
type Quality string

// The qualities.
const (
	Confirmed Quality = "confirmed" // the device said so
	Pending   Quality = "pending"   // sent, not yet confirmed
	Assumed   Quality = "assumed"   // the link cannot report; what was sent is believed
	Unknown   Quality = "unknown"   // never heard, or the link is down
)

// Equal compares two values; floats may differ by the tolerance.
func Equal(a, b Value, tolerance float64) bool {
	fa, oka := Number(a)
	fb, okb := Number(b)
	if oka && okb {
		if math.IsInf(fa, -1) || math.IsInf(fb, -1) {
			return fa == fb
		}
		return math.Abs(fa-fb) <= tolerance
	}
	return a == b
}

// Number gives a value as a number; ok is false where it is none.
func Number(v Value) (n float64, ok bool) {
	switch n := v.(type) {
	case int:
		return float64(n), true
	case float64:
		return n, true
	}
	return 0, false
}

// Reading is one value of one device as it stands.
type Reading struct {
	Value Value // last reported
	// Expected is the newest value on its way; only meaningful when Pending.
	Expected Value
	Quality  Quality
	Since    time.Time // when Value last changed
	// Source is the journal entry whose command brought the value about, or "".
	Source string
	// By is who did, where that is known: a table does not keep it, a replica does.
	By string
}

// Expectation is a value that a command is to bring about.
type Expectation struct {
	Key       Key
	Value     Value
	Tolerance float64
	Command   uint64        // the command's number
	Entry     string        // the journal entry that the command belongs to
	Sent      time.Time     // when the command was dispatched
	After     time.Duration // how long the device takes on purpose, Over included
	Over      time.Duration // the part of After in which the value is on its way
	Grace     time.Duration // how much longer than After it may take; 0: a tenth, at least 100 ms
	Limit     time.Time     // when to give up
	// Unsent says that the command waits to be written: no report is a word on it yet. See Left.
	Unsent bool
	// Apart says that what the device reports comes in no order with what it answers, as over connections of their own: what
	// it says of the command before may come after this one was sent.
	Apart bool
	// NoSample keeps the settlement out of the latency statistics, because the
	// value was so already and the device was only asked.
	NoSample bool

	began  bool // a report has shown that the value is on its way
	differ bool // a report had another value, and was no disagreement
}

// Outcome says how an expectation ended.
type Outcome int

// The outcomes.
const (
	Matched   Outcome = iota // the device reported the value
	Disagreed                // the device reported another value
	Expired                  // nothing came within the limit
	Overtaken                // a later expectation was confirmed first
	Dropped                  // the link was lost
	Began                    // it has not ended: the value is on its way
)

// Heard reports whether an outcome comes from a word of the device.
func (o Outcome) Heard() bool { return o == Matched || o == Disagreed || o == Overtaken || o == Began }

// Settled is an expectation that ended.
type Settled struct {
	Expectation
	Outcome Outcome
	Got     Value         // what was reported, for Matched and Disagreed
	Latency time.Duration // dispatch to report less After, for Matched; less what comes before Over, for Began
}

type cell struct {
	Reading
	reported time.Time // when it was last
	asked    time.Time // when it was asked for last
	heard    bool      // reported since the link came up
	trailing time.Time // until when the device may tell of a command that has ended
	waiting  []Expectation
}

// Table holds the readings of all devices. It is not safe for concurrent use.
type Table struct {
	devices map[string]*deviceCells
	// waiting holds the readings with expectations, so that a search for what
	// expires costs what is under way and not what exists.
	waiting map[Key]*cell
}

type deviceCells struct {
	order []string
	cells map[string]*cell
	asked time.Time // when all of it was asked for last
}

// NewTable returns an empty table.
func NewTable() *Table { return &Table{devices: map[string]*deviceCells{}, waiting: map[Key]*cell{}} }

// Reading returns a reading as it stands; one never heard of is unknown.
func (t *Table) Reading(k Key) Reading {
	if c := t.find(k); c != nil {
		return c.Reading
	}
	return Reading{Quality: Unknown}
}

// Ahead is a table as it will be once all that is on its way has been done: what the next command is
// worked out from, since devices take commands in their order.
type Ahead struct{ *Table }

// Reading returns a reading whose value is what was last asked for, where that is on its way.
func (a Ahead) Reading(k Key) Reading {
	c := a.find(k)
	if c == nil {
		return Reading{Quality: Unknown}
	}
	r := c.Reading
	if n := len(c.waiting); n > 0 {
		r.Value = c.waiting[n-1].Value
	}
	return r
}

// Paths returns the paths of a device in the order in which they were first
// heard.
func (t *Table) Paths(device string) []string {
	if d := t.devices[device]; d != nil {
		return d.order
	}
	return nil
}

// Has reports whether a reading was heard of before; Count is how many of a device were.
func (t *Table) Has(k Key) bool { return t.find(k) != nil }

// Count is how many readings of a device were heard of: see Has.
func (t *Table) Count(device string) int {
	if d := t.devices[device]; d != nil {
		return len(d.cells)
	}
	return 0
}

// Expect notes that a command is to bring a value about. The reading must have
// been heard before, or it stays unknown.
func (t *Table) Expect(e Expectation) {
	c := t.ensure(e.Key)
	c.waiting = append(c.waiting, e)
	c.refresh(c.Quality)
	t.track(e.Key, c)
}

// Assume sets a value that no device will ever report.
func (t *Table) Assume(k Key, v Value, now time.Time, entry string) (changed bool) {
	c := t.ensure(k)
	before := c.Reading
	if before.Quality == Unknown || c.Value != v {
		c.Value, c.Since, c.Source = v, now, entry
	}
	c.heard = true
	c.refresh(Assumed)
	return before != c.Reading
}

// Seed sets the value of a reading that was never heard, as what it was last
// known to be; it stays unknown. It reports whether it did.
func (t *Table) Seed(k Key, v Value) bool {
	c := t.ensure(k)
	if c.Value != nil {
		return false
	}
	c.Value = v
	return true
}

// Withdraw ends the expectations of a command that never left.
func (t *Table) Withdraw(command uint64) (keys []Key) {
	for k, c := range t.waiting {
		n := len(c.waiting)
		c.waiting = slices.DeleteFunc(c.waiting, func(e Expectation) bool { return e.Command == command })
		if len(c.waiting) != n {
			c.refresh(settledQuality(c))
			t.track(k, c)
			keys = append(keys, k)
		}
	}
	return keys
}

// Lost marks every reading of a device unknown and drops its expectations. It
// returns the keys that changed and what was dropped.
func (t *Table) Lost(device string) (keys []Key, dropped []Settled) {
	d := t.devices[device]
	if d == nil {
		return nil, nil
	}
	for _, path := range d.order {
		c := d.cells[path]
		for _, e := range c.waiting {
			dropped = append(dropped, Settled{Expectation: e, Outcome: Dropped})
		}
		c.waiting, c.heard = nil, false
		delete(t.waiting, Key{device, path})
		if c.Quality != Unknown {
			c.Quality, c.Expected = Unknown, nil
			keys = append(keys, Key{device, path})
		}
	}
	return keys, dropped
}

// Forget removes all readings of a device.
func (t *Table) Forget(device string) {
	t.Lost(device)
	delete(t.devices, device)
}

// Drop takes one reading away, with what was expected of it.
func (t *Table) Drop(k Key) {
	delete(t.waiting, k)
	if d := t.devices[k.Device]; d != nil && d.cells[k.Path] != nil {
		delete(d.cells, k.Path)
		// The order is handed out, so it is made anew.
		d.order = slices.DeleteFunc(slices.Clone(d.order), func(p string) bool { return p == k.Path })
	}
}

// NextLimit returns the time at which Expire has something to do next: the oldest expectation of a
// reading expires first, whatever the limits of those after it.
func (t *Table) NextLimit() (at time.Time, any bool) {
	for _, c := range t.waiting {
		if e := c.waiting[0]; !any || e.Limit.Before(at) {
			at, any = e.Limit, true
		}
	}
	return at, any
}

// track keeps the list of readings with expectations.
func (t *Table) track(k Key, c *cell) {
	if len(c.waiting) > 0 {
		t.waiting[k] = c
	} else {
		delete(t.waiting, k)
	}
}

// settledQuality is the quality of a reading once nothing is on its way: what
// was never reported stays unknown.
func settledQuality(c *cell) Quality {
	if !c.heard {
		return Unknown
	}
	return Confirmed
}

// refresh sets quality and expected value from what is on its way; quiet is
// the quality when nothing is.
func (c *cell) refresh(quiet Quality) {
	c.Quality, c.Expected = quiet, nil
	if len(c.waiting) > 0 && c.heard {
		c.Quality, c.Expected = Pending, c.waiting[len(c.waiting)-1].Value
	}
}

func (t *Table) find(k Key) *cell {
	if d := t.devices[k.Device]; d != nil {
		return d.cells[k.Path]
	}
	return nil
}

func (t *Table) ensure(k Key) *cell {
	d := t.devices[k.Device]
	if d == nil {
		d = &deviceCells{cells: map[string]*cell{}}
		t.devices[k.Device] = d
	}
	c := d.cells[k.Path]
	if c == nil {
		c = &cell{Reading: Reading{Quality: Unknown}}
		d.cells[k.Path] = c
		d.order = append(d.order, k.Path)
	}
	return c
}
