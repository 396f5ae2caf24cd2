package macro

import (
	"testing"
	"time"
)

// TestANumberOffTheTrailOfAFadeIsAHand: from -20 to 0 in two seconds.
func TestANumberOffTheTrailOfAFadeIsAHand(t *testing.T) {
	began := time.Unix(0, 0)
	for _, c := range []struct {
		at      int // milliseconds from its beginning
		says    any
		latency int
		off     bool
	}{
		{0, -20.0, 0, false}, {100, -20.0, 0, false}, {100, -19.5, 0, false}, {100, -18.0, 0, true}, {100, -60.0, 0, true},
		{1000, -10.0, 0, false}, {1000, -14.0, 0, false}, {1000, -16.0, 0, true}, {1000, -16.0, 300, false}, {1000, -5.0, 300, true},
		{1000, -20.0, 0, true}, {1000, -10, 0, false}, {1000, "loud", 0, false}, {1000, nil, 0, false},
	} {
		trail := NewTrail(-20, 0.2)
		for ms := 0; ms <= c.at; ms += 40 {
			trail.Sent(began.Add(time.Duration(ms)*time.Millisecond), -20+float64(ms)/100)
		}
		if off := trail.Off(c.says, began.Add(time.Duration(c.at)*time.Millisecond), time.Duration(c.latency)*time.Millisecond); off != c.off {
			t.Errorf("after %d ms, with %d ms of latency, %v is off: %v", c.at, c.latency, c.says, off)
		}
	}
	unsent := NewTrail(-20, 0.2)
	if unsent.Off(-60.0, began, 0) {
		t.Error("before the first step there is no trail to be off")
	}
}
