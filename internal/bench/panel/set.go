package panel

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"synaptor/internal/core/device"
)

// Limits are what a value that can be set may be.
type Limits struct {
	Min, Max float64 // of numbers; both 0: no limits
	Options  []string
	Longest  int // of texts; 0: 80 bytes
}

// Accept gives a value of the same type as another one, within limits. The
// error is the sentence that the client is told.
func Accept(what string, like, v any, l Limits) (any, error) {
	switch like.(type) {
	case string:
		longest := l.Longest
		if longest == 0 {
			longest = 80
		}
		text, ok := v.(string)
		switch {
		case !ok || len(text) > longest:
			return nil, fmt.Errorf("%s takes a text of at most %d bytes", what, longest)
		case len(l.Options) > 0 && !slices.Contains(l.Options, text):
			return nil, fmt.Errorf("%s takes one of %s", what, strings.Join(l.Options, ", "))
		}
		return text, nil
	case bool:
		switch b := v.(type) {
		case bool:
			return b, nil
		case int:
			return b != 0, nil
		case float64:
			return b != 0, nil
		}
		return nil, fmt.Errorf("%s takes true or false", what)
	}
	f, ok := v.(float64)
	if n, whole := v.(int); whole {
		f, ok = float64(n), true
	}
	if !ok || math.IsNaN(f) || math.IsInf(f, 0) {
		return nil, fmt.Errorf("%s takes a number", what)
	}
	if (l.Min != 0 || l.Max != 0) && (f < l.Min || f > l.Max) {
		return nil, fmt.Errorf("%s takes %v to %v", what, l.Min, l.Max)
	}
	if _, whole := like.(int); whole {
		if f != math.Trunc(f) {
			return nil, fmt.Errorf("%s takes a whole number", what)
		}
		return int(f), nil
	}
	return f, nil
}

// Arg gives an argument of a message, nil where there is none.
func Arg(m device.Message, i int) any {
	if i < len(m.Args) {
		return m.Args[i]
	}
	return nil
}
