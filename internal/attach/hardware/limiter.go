package hardware

import "time"

// Bounds of the inputs of one piece of hardware or one bridge: more than hands can make, and less than what would stand in the way of others.
const (
	//limit:count inputs of hardware in a second | in an error to its bridge, and in Rig
	InputsPerSecond = 1000
	inputsAtOnce    = 500
)

// Limiter lets through so many inputs a second, and some more at once. It is the reader's own.
type Limiter struct {
	left float64
	last time.Time
	told time.Time
}

// Allows tells whether an input may pass.
func (l *Limiter) Allows(at time.Time) bool {
	if l.last.IsZero() {
		l.left = inputsAtOnce
	} else {
		l.left = min(inputsAtOnce, l.left+at.Sub(l.last).Seconds()*InputsPerSecond)
	}
	l.last = at
	if l.left < 1 {
		return false
	}
	l.left--
	return true
}

// Tells tells whether who sends them is to be told again.
func (l *Limiter) Tells(at time.Time) bool {
	if at.Sub(l.told) < time.Second {
		return false
	}
	l.told = at
	return true
}
