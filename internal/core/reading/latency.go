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
	shift Shift
}

// latelySamples is how many samples Lately rests on.
const latelySamples = 25

// Stats describe the last samples.
type Stats struct {
	Count  int           `json:"count"` // samples the figures rest on
	Median time.Duration `json:"median"`
	// Lately is the median of the last few samples: what is planned with. A latency that has changed by little is soon
	// in it, at each device after as many samples.
	Lately time.Duration `json:"lately"`
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

// Follow takes in one sample of something that takes about the same time each time. Where the last few are
// all slower, or all quicker, than nearly all before them, it has changed: those before count no more.
func (l *Latency) Follow(d time.Duration) {
	shifted := l.shift.Take(l.Side(d))
	if l.Add(d); shifted && l.count >= 2*ChangedAfter && l.changed() {
		l.Forget(ChangedAfter)
	}
}

// Shift counts how many durations in a row were clearly longer than usual, or clearly shorter.
type Shift int

// Take takes in the Side of the next one. It reports whether there are enough in a row, and goes on
// counting.
func (s *Shift) Take(side int) bool {
	if side == 0 || side*int(*s) < 0 {
		*s = 0
	}
	*s += Shift(side)
	return *s >= ChangedAfter || *s <= -ChangedAfter
}

// clearly tells whether a difference from a duration is more than noise.
func clearly(by, from time.Duration) bool { return by.Abs() >= changedBy && by.Abs() >= from/4 }

// Side tells whether a duration is clearly longer than usual, 1, or shorter, -1; 0: it is neither, or
// nobody knows what is usual.
func (l *Latency) Side(d time.Duration) int {
	switch by := d - l.usual; {
	case l.usual == 0 || !clearly(by, l.usual):
		return 0
	case by > 0:
		return 1
	}
	return -1
}

// Forget forgets all samples but for the last n.
func (l *Latency) Forget(n int) {
	l.count, l.shift = min(l.count, n), 0
	l.usual = l.Stats().Median
}

// ChangedAfter is how many samples in a row show that a latency has changed.
const ChangedAfter = 5

// changedBy is by how much they have to differ, at least, and by a quarter.
const changedBy = 3 * time.Millisecond

// changed reports whether the last samples are others than those before.
func (l *Latency) changed() bool {
	all := l.Recent(l.count)
	before, last := slices.Sorted(slices.Values(all[:l.count-ChangedAfter])), slices.Sorted(slices.Values(all[l.count-ChangedAfter:]))
	was, is := before[len(before)/2], last[ChangedAfter/2]
	if !clearly(is-was, was) {
		return false
	}
	edge := len(before) / 20
	return last[0] > before[len(before)-1-edge] || last[ChangedAfter-1] < before[edge]
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
	lately := slices.Sorted(slices.Values(s[max(0, len(s)-latelySamples):]))
	slices.Sort(s)
	rank := func(p int) time.Duration { return s[(p*len(s)+99)/100-1] }
	last := l.ring[(l.next+LatencyWindow-1)%LatencyWindow]
	l.usual = rank(50)
	return Stats{Count: l.count, Median: rank(50), Lately: lately[(len(lately)-1)/2], P95: rank(95), P99: rank(99), Last: last}
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
//
//limit:count wait for a confirmation | in the journal, as unconfirmed
const maxLimit = 10 * time.Second

// AskLimit is how long a command may stay without any answer before the link is
// asked whether it is alive: three times the 99th percentile, at least 100 ms.
func (s Stats) AskLimit() time.Duration { return max(3*s.P99, 100*time.Millisecond) }
