package face

import (
	"math"
	"strconv"
)

// Contrast is the WCAG 2.2 contrast ratio, 1 to 21, of two colours written
// #rrggbb; 0 when one of them is not.
func Contrast(a, b string) float64 {
	la, ok1 := luminance(a)
	lb, ok2 := luminance(b)
	if !ok1 || !ok2 {
		return 0
	}
	return (max(la, lb) + 0.05) / (min(la, lb) + 0.05)
}

func luminance(colour string) (float64, bool) {
	if len(colour) != 7 || colour[0] != '#' {
		return 0, false
	}
	n, err := strconv.ParseUint(colour[1:], 16, 32)
	if err != nil {
		return 0, false
	}
	channel := func(v uint64) float64 {
		c := float64(v&0xff) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	return 0.2126*channel(n>>16) + 0.7152*channel(n>>8) + 0.0722*channel(n), true
}
