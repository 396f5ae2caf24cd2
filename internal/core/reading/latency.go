package reading

import (
	"slices"
	"time"
)

// LatencyWindow is how many of the last samples the statistics cover.
const LatencyWindow = 200

// Latency collects the time from dispatch to confirmation of one action, or of
// one device. The zero value is ready to use.
type Latency struct {
	ring  [LatencyWindow]time.Duration
	next  int
	count int
}

// Stats describe the last samples.
type Stats struct {
	Count  int           `json:"count"` // samples the figures rest on
	Median time.Duration `json:"median"`
	P95    time.Duration `json:"p95"`
	P99    time.Duration `json:"p99"`
	Last   time.Duration `json:"last"`
}

// Add takes in one sample.
func (l *Latency) Add(d time.Duration) {
	l.ring[l.next] = d
	l.next = (l.next + 1) % LatencyWindow
	l.count = min(l.count+1, LatencyWindow)
}

// Recent returns the newest samples, oldest first, at most n.
func (l *Latency) Recent(n int) []time.Duration {
	n = min(n, l.count)
	out := make([]time.Duration, n)
	for i := range out {
		out[i] = l.ring[(l.next-n+i+2*LatencyWindow)%LatencyWindow]
	}
	return out
}

// Stats computes the figures over the last samples (nearest rank).
func (l *Latency) Stats() Stats {
	if l.count == 0 {
		return Stats{}
	}
	s := slices.Sorted(slices.Values(l.ring[:l.count]))
	rank := func(p int) time.Duration { return s[(p*len(s)+99)/100-1] }
	last := l.ring[(l.next+LatencyWindow-1)%LatencyWindow]
	return Stats{Count: l.count, Median: rank(50), P95: rank(95), P99: rank(99), Last: last}
}

// SettleLimit is how long to wait for a confirmation before a command counts as
// unconfirmed: two seconds until there are twenty samples, then three times the
// 99th percentile, at least a quarter of a second and at most ten.
func (s Stats) SettleLimit() time.Duration {
	if s.Count < 20 {
		return 2 * time.Second
	}
	return min(max(3*s.P99, 250*time.Millisecond), maxLimit)
}

// maxLimit is the longest that a confirmation is waited for.
const maxLimit = 10 * time.Second

// AskLimit is how long a command may stay without any answer before the link is
// asked whether it is alive: three times the 99th percentile, at least 100 ms.
func (s Stats) AskLimit() time.Duration { return max(3*s.P99, 100*time.Millisecond) }
