package input

import (
	"math"
	"time"
)

// Dial says how turning changes a number.
type Dial struct {
	Step         float64 // for one detent
	Min, Max     float64
	Wrap         bool    // go on at the other end, instead of stopping
	Acceleration float64 // 0: none; 1: ten detents a second count twice, twenty three times
	Fine         float64 // what a push-turn multiplies the step by; 0: a tenth
}

// Turn gives the value after some detents from a value. speed is in detents a
// second. Down from silence is silence.
func (d Dial) Turn(value, detents, speed float64, fine bool) float64 {
	step := d.Step
	if fine {
		step *= orElse(d.Fine, 0.1)
	} else if d.Acceleration > 0 {
		step *= 1 + d.Acceleration*math.Abs(speed)/10
	}
	if math.IsInf(value, -1) {
		if detents*step <= 0 {
			return value
		}
		value = d.Min // up from silence
	}
	v := value + detents*step
	if span := d.Max - d.Min; d.Wrap && span > 0 {
		return d.Min + math.Mod(math.Mod(v-d.Min, span)+span, span)
	}
	// Steps add up in tenths and thousandths; the sum must not drift.
	return math.Round(min(max(v, d.Min), d.Max)*1e6) / 1e6
}

// Turns is how many full turns the whole range needs, with so many detents a
// turn.
func (d Dial) Turns(detents int) float64 {
	if d.Step == 0 || detents == 0 {
		return math.Inf(1)
	}
	return (d.Max - d.Min) / math.Abs(d.Step) / float64(detents)
}

// StepChoice gives the place in a list of n after some steps from a place in it; -1 is before the
// first. With wrap it goes on at the other end, else it stops there.
func StepChoice(n, from, by int, wrap bool) int {
	if to := from + by; !wrap {
		return min(max(to, 0), n-1)
	} else if from < 0 && by < 0 {
		return ((n+by)%n + n) % n
	} else {
		return (to%n + n) % n
	}
}

// touchPause is how long a control rests until a turn or a slide is another one.
const touchPause = 500 * time.Millisecond

// GoesOn reports whether a turn or a slide belongs to the touch that the last one was part of.
func GoesOn(last, now time.Time) bool { return now.Sub(last) < touchPause }

// Slider says how a position from 0 to 1 sets a number.
type Slider struct {
	Min, Max float64
	Jump     bool // take the value at once, instead of waiting until they meet
	Inverted bool
	DeadZone float64 // a share at either end that counts as the end
	last     float64
	hasLast  bool
	has      bool // it has met the device's value
}

// Value is the number at a position.
func (s Slider) Value(position float64) float64 {
	p := min(max(position, 0), 1)
	if s.Inverted {
		p = 1 - p
	}
	if z := s.DeadZone; z > 0 && z < 0.5 {
		p = min(max((p-z)/(1-2*z), 0), 1)
	}
	return s.Min + p*(s.Max-s.Min)
}

// Move takes in a position while the device has a value, or is to have one. It gives the number to
// set; ok is false while the slider has not met that value yet, or not again since something else
// moved it. Silence counts as the lowest value.
func (s *Slider) Move(position, device float64) (value float64, ok bool) {
	value, device = s.Value(position), max(device, s.Min)
	near := (s.Max - s.Min) / 50
	if s.has && math.Abs(s.last-device) > near {
		s.has = false
	}
	met := math.Abs(value-device) <= near || s.hasLast && (s.last-device)*(value-device) <= 0
	s.has = s.has || s.Jump || met
	s.last, s.hasLast = value, true
	return value, s.has
}

// Merge bundles changes that come faster than they may be sent: the first is
// sent at once, the last one always.
type Merge struct {
	Every time.Duration
	last  time.Time
	due   bool
}

// Now tells whether to send a change now; else Next says when.
func (m *Merge) Now(now time.Time) bool {
	if m.last.IsZero() || now.Sub(m.last) >= m.Every {
		m.last, m.due = now, false
		return true
	}
	m.due = true
	return false
}

// Next is when a change that waits has to be sent; ok is false when none waits.
func (m *Merge) Next() (at time.Time, ok bool) { return m.last.Add(m.Every), m.due }

func orElse(v, other float64) float64 {
	if v == 0 {
		return other
	}
	return v
}
