package device

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// WireType is the type of the reading on the wire: int, float, text or bool.
func (r *Reading) WireType() string {
	switch {
	case r.Wire != "":
		return r.Wire
	case r.Type == "bool" && r.json:
		return "bool"
	case r.Type == "bool" || r.Type == "int":
		return "int"
	case r.Type == "float" || r.Type == "db":
		return "float"
	}
	return "text"
}

// fromWire turns what a message carries into the reading's value.
func (r *Reading) fromWire(arg any) (reading.Value, error) {
	if r.taper != nil {
		n, ok := asNumber(arg)
		if s, isText := arg.(string); isText {
			f, err := strconv.ParseFloat(s, 64)
			n, ok = f, err == nil
		}
		if !ok || !finite(n) {
			return nil, fmt.Errorf("%v is not a number", arg)
		}
		return r.taper.Decibels(n), nil
	}
	if r.WireType() == "text" {
		if s, ok := arg.(string); ok {
			return r.normal(s)
		}
		if n, ok := asNumber(arg); ok && r.json {
			return r.normal(n)
		}
		return nil, fmt.Errorf("%v is not a text", arg)
	}
	if n, ok := asNumber(arg); ok && !math.IsNaN(n) {
		return r.normal(n)
	}
	if s, ok := arg.(string); ok && r.Type != "text" && r.Type != "choice" {
		return r.normal(s)
	}
	return nil, fmt.Errorf("%v is not a number", arg)
}

func asNumber(v any) (float64, bool) {
	switch n := v.(type) {
	case int:
		return float64(n), true
	case float64:
		if n == 0 {
			return 0, true // and never minus nothing, which some devices say
		}
		return n, true
	case bool:
		return float64(boolInt(n)), true
	}
	return 0, false
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// words for yes and no that devices use.
var boolWords = map[string]float64{"true": 1, "on": 1, "yes": 1, "false": 0, "off": 0, "no": 0}

// What a device may say of one reading.
const (
	// MaxText is the longest text in bytes; the rest is cut off.
	//limit:bytes a text that a device reports | the rest is cut off, with an ellipsis
	MaxText = 1024
	// maxWhole is the largest whole number, in either direction: the last one that a
	// float64 tells from its neighbours.
	//limit:count whole number that a device reports or is sent | in the wire view; at the field
	maxWhole = 1 << 53
)

// cutText keeps a text to MaxText bytes, whole characters of them. What is no
// character (UTF-8, RFC 3629) is shown as one that says so.
func cutText(s string) string {
	if len(s) > MaxText {
		return strings.ToValidUTF8(s[:MaxText], "") + "…"
	}
	return strings.ToValidUTF8(s, unreadable)
}

// unreadable stands for bytes that are no character (U+FFFD).
const unreadable = "\ufffd"

// finite tells whether a number is one that can be calculated with.
func finite(n float64) bool { return !math.IsNaN(n) && !math.IsInf(n, 0) }

// Value turns a value as it is written outside, such as in an archive, into the one that
// a reading holds. It fails where the reading is not there or cannot have it.
func (t *Type) Value(path string, v any) (reading.Value, error) {
	def := t.Reading(path)
	if def == nil {
		return nil, fmt.Errorf("there is no reading %q", path)
	}
	return def.normal(v)
}

// normal gives a value the type that the reading has inside.
func (r *Reading) normal(v any) (reading.Value, error) {
	switch r.Type {
	case "text", "choice":
		text := cutText(expr.Text(v))
		if len(r.Options) > 0 && !slices.Contains(r.Options, text) {
			return nil, fmt.Errorf("%q is none of %s", text, strings.Join(r.Options, ", "))
		}
		return text, nil
	}
	n, ok := asNumber(v)
	if s, isText := v.(string); isText {
		var err error
		n, err = strconv.ParseFloat(s, 64)
		n, ok = n+0, err == nil && !math.IsNaN(n)
		if word, isWord := boolWords[strings.ToLower(s)]; r.Type == "bool" && isWord {
			n, ok = word, true
		}
	}
	if !ok || math.IsNaN(n) {
		return nil, fmt.Errorf("%v is not a number", v)
	}
	switch {
	case r.Type == "db" && math.IsInf(n, -1):
		return n, nil // silence is below every minimum
	case math.IsInf(n, 0):
		return nil, fmt.Errorf("%v is not a value", v)
	case r.Min != nil && n < *r.Min, r.Max != nil && n > *r.Max:
		return nil, fmt.Errorf("%v is out of range", v)
	case r.Type == "bool":
		return n != 0, nil
	case r.Type == "int" && math.Abs(n) > maxWhole:
		return nil, fmt.Errorf("%v is too large for a whole number", v)
	case r.Type == "int":
		return int(n), nil
	case r.taper != nil && n <= r.taper[0][0]:
		return math.Inf(-1), nil // where a fader ends the device knows silence only
	}
	return n, nil
}

// toWire turns the reading's value into what the message that sets it carries.
func (r *Reading) toWire(v reading.Value) (any, error) {
	if r.taper != nil {
		if n, ok := asNumber(v); ok {
			return r.taper.Number(n), nil
		}
		return nil, fmt.Errorf("%v is not a level", v)
	}
	switch r.WireType() {
	case "text":
		return expr.Text(v), nil
	case "bool":
		if n, ok := asNumber(v); ok {
			return n != 0, nil
		}
	case "int":
		if s, ok := v.(string); ok {
			n, err := strconv.Atoi(s)
			if err != nil {
				return nil, fmt.Errorf("%q is not a whole number", s)
			}
			return n, nil
		}
		if n, ok := asNumber(v); ok && math.Abs(n) <= maxWhole {
			return int(n), nil
		}
	case "float":
		n, ok := asNumber(v)
		if silent := math.IsInf(n, -1); ok && (finite(n) || silent && r.Type == "db" && !r.json) {
			return n, nil // OSC has a number for silence; JSON has none
		}
	}
	return nil, fmt.Errorf("%v cannot be sent for %s", expr.Text(v), r.Path)
}

// Outside gives a value as the API shows it: the device's own number where the
// wire carries a whole number, and the text -inf for minus infinity.
func (r *Reading) Outside(v reading.Value) any {
	if f, ok := v.(float64); ok && math.IsInf(f, -1) {
		return "-inf"
	}
	if s, ok := v.(string); ok && r != nil && r.WireType() == "int" {
		if n, err := strconv.Atoi(s); err == nil {
			return n
		}
	}
	return v
}
