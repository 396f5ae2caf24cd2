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
	usual time.Duration // the median, as it was worked out last
	other int           // how many of the last samples were clearly above it, or where negative below
}

// Stats describe the last samples.
type Stats struct {
	Count  int           `json:"count"` // samples the figures rest on
	Median time.Duration `json:"median"`
	P95    time.Duration `json:"p95"`
	P99    time.Duration `json:"p99"`
	Last   time.Duration `json:"last"`
}

// Add takes in one sample. Where the last changedAfter are all slower, or all quicker, than nearly all before
// them, and clearly so, the device or its network has changed: those before count no more.
func (l *Latency) Add(d time.Duration) {
	l.ring[l.next] = d
	l.next = (l.next + 1) % LatencyWindow
	l.count = min(l.count+1, LatencyWindow)
	side := 0
	if by := d - l.usual; l.usual > 0 && clearly(by, l.usual) {
		side = 1
		if by < 0 {
			side = -1
		}
	}
	if side == 0 || side*l.other < 0 {
		l.other = 0
	}
	if l.other += side; (l.other >= changedAfter || l.other <= -changedAfter) && l.count >= 2*changedAfter && l.changed() {
		l.count, l.other = changedAfter, 0
		l.usual = l.Stats().Median
	}
}

// clearly tells whether a difference from a duration is more than noise.
func clearly(by, from time.Duration) bool { return by.Abs() >= changedBy && by.Abs() >= from/4 }

// What shows that a latency has changed.
const (
	changedAfter = 5                    // samples in a row
	changedBy    = 3 * time.Millisecond // at least, and a quarter
)

// changed reports whether the last samples are others than those before.
func (l *Latency) changed() bool {
	all := l.Recent(l.count)
	before, last := slices.Sorted(slices.Values(all[:l.count-changedAfter])), slices.Sorted(slices.Values(all[l.count-changedAfter:]))
	was, is := before[len(before)/2], last[changedAfter/2]
	if !clearly(is-was, was) {
		return false
	}
	edge := len(before) / 20
	return last[0] > before[len(before)-1-edge] || last[changedAfter-1] < before[edge]
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
	s := l.Recent(l.count)
	slices.Sort(s)
	rank := func(p int) time.Duration { return s[(p*len(s)+99)/100-1] }
	last := l.ring[(l.next+LatencyWindow-1)%LatencyWindow]
	l.usual = rank(50)
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
