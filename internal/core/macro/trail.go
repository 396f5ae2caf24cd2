package macro

import (
	"time"

	"synaptor/internal/core/reading"
)

// Trail is where a fade has been: what its device may still report, since it answers late. A number off it
// is none that the device was sent: a hand has taken it.
type Trail struct {
	slack  float64 // how far a report may be off
	from   float64
	passed bool // it began too long ago for its beginning to be reported
	sent   []sentValue
}

// sentValue is where a fade was at a time.
type sentValue struct {
	at    time.Time
	value float64
}

// lookBack is how long after it was sent a device may report where a fade was, besides its latency.
const lookBack = 500 * time.Millisecond

// NewTrail is the trail of a fade that begins at a number.
func NewTrail(from, slack float64) Trail { return Trail{slack: slack, from: from} }

// Sent notes that the device was sent a number.
func (t *Trail) Sent(at time.Time, value float64) { t.sent = append(t.sent, sentValue{at, value}) }

// Off reports whether a number that the device says is neither one that it was sent of late, nor between two
// of those. latency is how long the device takes to say so.
func (t *Trail) Off(v reading.Value, now time.Time, latency time.Duration) bool {
	old := 0
	for old < len(t.sent)-1 && now.Sub(t.sent[old+1].at) > lookBack+2*latency {
		old++
	}
	t.sent, t.passed = t.sent[min(old, len(t.sent)):], t.passed || old > 0
	n, ok := reading.Number(v)
	if !ok || len(t.sent) == 0 {
		return false
	}
	least, most := t.sent[0].value, t.sent[0].value
	if !t.passed {
		least, most = min(least, t.from), max(most, t.from)
	}
	for _, s := range t.sent {
		least, most = min(least, s.value), max(most, s.value)
	}
	return n < least-t.slack || n > most+t.slack
}
