package bridges

import "time"

// Bounds of the inputs of one bridge: more than hands can make, and less than what would stand in the way of others.
const (
	//limit:count inputs of a bridge in a second | in an error to the bridge
	inputsPerSecond = 1000
	inputsAtOnce    = 500
)

// limiter lets through so many inputs a second, and some more at once. It is the reader's own.
type limiter struct {
	left float64
	last time.Time
	told time.Time
}

func (l *limiter) allows(at time.Time) bool {
	if l.last.IsZero() {
		l.left = inputsAtOnce
	} else {
		l.left = min(inputsAtOnce, l.left+at.Sub(l.last).Seconds()*inputsPerSecond)
	}
	l.last = at
	if l.left < 1 {
		return false
	}
	l.left--
	return true
}

// tells tells whether the bridge is to be told again.
func (l *limiter) tells(at time.Time) bool {
	if at.Sub(l.told) < time.Second {
		return false
	}
	l.told = at
	return true
}
