package reading

import (
	"math/rand/v2"
	"testing"
	"time"
)

func TestAChangeOfTheLatencyIsNoticedWithinFiveSamples(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	sample := func(ms int) time.Duration {
		return time.Duration(ms)*time.Millisecond + time.Duration(r.IntN(max(1, ms/10)*1000))*time.Microsecond
	}
	for _, c := range [][2]int{{5, 180}, {180, 5}, {40, 80}, {80, 40}, {1, 300}} {
		var l Latency
		for range 150 {
			l.Follow(sample(c[0]))
			_ = l.Stats()
		}
		for range ChangedAfter {
			l.Follow(sample(c[1]))
		}
		if m := l.Stats().Median.Milliseconds(); m < int64(c[1]) || m > int64(c[1]+c[1]/10) {
			t.Errorf("from %d to %d ms: five samples later the median is %d ms", c[0], c[1], m)
		}
	}
}

// TestALittleChangeIsSoonPlannedWith: it is too little to be called a change, at a device that is slow anyway.
func TestALittleChangeIsSoonPlannedWith(t *testing.T) {
	var l Latency
	for range 150 {
		l.Follow(180 * time.Millisecond)
	}
	for i := range 13 {
		if s := l.Stats(); i < 12 && s.Lately != 180*time.Millisecond {
			t.Errorf("after %d samples: %+v", i, s)
		}
		l.Follow(190 * time.Millisecond)
	}
	if s := l.Stats(); s.Lately != 190*time.Millisecond || s.Median != 180*time.Millisecond || s.Count != 163 {
		t.Errorf("after 13 samples: %+v", s)
	}
}

func TestANoisyLatencyIsNoOther(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	var l Latency
	for range 100_000 {
		d := 20*time.Millisecond + time.Duration(r.ExpFloat64()*float64(5*time.Millisecond))
		if r.IntN(30) == 0 {
			d += 100 * time.Millisecond
		}
		before := l.count
		if r.IntN(5) == 0 {
			_ = l.Stats()
		}
		if l.Follow(d); l.count < before {
			t.Fatalf("after %d samples it counts as changed", before)
		}
	}
}

func BenchmarkLatencyFollow(b *testing.B) {
	var l Latency
	for i := range b.N {
		l.Follow(time.Duration(i%100) * time.Millisecond)
	}
}
