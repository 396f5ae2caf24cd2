package panel

import (
	"maps"
	"math"
	"slices"
	"strings"

	"synaptor/internal/core/device"
)

// Values is what a device is set to: int, float64, bool or string by address,
// in the order in which a new client is told.
type Values struct {
	order []string
	all   map[string]any
}

// NewValues returns an empty state.
func NewValues() *Values { return &Values{all: map[string]any{}} }

// Add appends a value. The model stays last: where it is told, a device has told everything.
func (v *Values) Add(address string, value any) {
	if _, has := v.all[address]; !has {
		if n := len(v.order); n > 0 && v.order[n-1] == "/model" {
			v.order = slices.Insert(v.order, n-1, address)
		} else {
			v.order = append(v.order, address)
		}
	}
	v.all[address] = value
}

// Get returns a value; ok is false where there is none.
func (v *Values) Get(address string) (value any, ok bool) {
	value, ok = v.all[address]
	return value, ok
}

// Int returns a whole number, 0 where there is none.
func (v *Values) Int(address string) int { n, _ := v.all[address].(int); return n }

// Float returns a number, 0 where there is none.
func (v *Values) Float(address string) float64 { f, _ := v.all[address].(float64); return f }

// Bool returns whether something is on.
func (v *Values) Bool(address string) bool { b, _ := v.all[address].(bool); return b }

// Text returns a text, "" where there is none.
func (v *Values) Text(address string) string { s, _ := v.all[address].(string); return s }

// Put stores a value and returns the message that reports it, also when it was
// so before: whoever set it learns that it is.
func (v *Values) Put(address string, value any) device.Message {
	v.all[address] = value
	return device.Message{Address: address, Args: []any{value}}
}

// All lists every value in order.
func (v *Values) All() []device.Message {
	out := make([]device.Message, len(v.order))
	for i, a := range v.order {
		out[i] = device.Message{Address: a, Args: []any{v.all[a]}}
	}
	return out
}

// Below lists the addresses that begin with a prefix, in order.
func (v *Values) Below(prefix string) []string {
	return slices.DeleteFunc(slices.Clone(v.order), func(a string) bool { return !strings.HasPrefix(a, prefix) })
}

// Shown gives the values as a front panel reads them; JSON has no word for
// minus infinity.
func (v *Values) Shown() map[string]any {
	out := maps.Clone(v.all)
	for a, value := range out {
		if f, ok := value.(float64); ok && math.IsInf(f, -1) {
			out[a] = "-inf"
		}
	}
	return out
}

// Tree puts values into one document, nested by the parts of their addresses.
func Tree(msgs []device.Message) map[string]any {
	root := map[string]any{}
	for _, m := range msgs {
		at := root
		parts := strings.Split(strings.TrimPrefix(m.Address, "/"), "/")
		for _, p := range parts[:len(parts)-1] {
			next, ok := at[p].(map[string]any)
			if !ok {
				next = map[string]any{}
				at[p] = next
			}
			at = next
		}
		at[parts[len(parts)-1]] = m.Args[0]
	}
	return root
}
