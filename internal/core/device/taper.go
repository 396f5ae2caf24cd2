package device

import (
	"fmt"
	"math"
	"sort"
)

// check says what is wrong with a taper, or "".
func (t TaperSpec) check() string {
	if len(t) < 2 {
		return "a taper needs at least two points"
	}
	for i := 1; i < len(t); i++ {
		if t[i][0] <= t[i-1][0] || t[i][1] <= t[i-1][1] {
			return fmt.Sprintf("point %d of the taper does not rise", i+1)
		}
	}
	return ""
}

// Number gives the device's number of a level in decibels, straight between
// the points. Minus infinity is the first point's number.
func (t TaperSpec) Number(db float64) float64 {
	last := len(t) - 1
	switch {
	case db <= t[0][0]:
		return t[0][1]
	case db >= t[last][0]:
		return t[last][1]
	}
	i := sort.Search(len(t), func(i int) bool { return t[i][0] >= db })
	share := (db - t[i-1][0]) / (t[i][0] - t[i-1][0])
	return t[i-1][1] + share*(t[i][1]-t[i-1][1])
}

// Decibels gives the level that a device's number stands for. The first point
// and all below it are minus infinity.
func (t TaperSpec) Decibels(n float64) float64 {
	last := len(t) - 1
	switch {
	case n <= t[0][1]:
		return math.Inf(-1)
	case n >= t[last][1]:
		return t[last][0]
	}
	i := sort.Search(len(t), func(i int) bool { return t[i][1] >= n })
	share := (n - t[i-1][1]) / (t[i][1] - t[i-1][1])
	return t[i-1][0] + share*(t[i][0]-t[i-1][0])
}
