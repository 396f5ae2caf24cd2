package device

import (
	"math"
	"strings"
	"testing"
	"unicode/utf8"
)

func TestWhatADeviceSaysHasLimits(t *testing.T) {
	lo := -1.0
	for _, c := range []struct {
		typ   string
		value any
		taken bool
	}{
		{"float", math.NaN(), false}, {"float", math.Inf(1), false}, {"float", math.Inf(-1), false}, {"float", "NaN", false}, {"float", "Inf", false}, {"float", 1.5, true},
		{"int", 1e300, false}, {"int", -1e19, false}, {"int", "99999999999999999999", false}, {"int", math.NaN(), false}, {"int", 12.0, true}, {"int", math.MaxInt32, true},
		{"db", math.Inf(-1), true}, {"db", math.Inf(1), false}, {"db", math.NaN(), false}, {"bool", math.NaN(), false}, {"bool", 1, true},
	} {
		r := &Reading{ReadingSpec: ReadingSpec{Path: "p", Type: c.typ}}
		if v, err := r.normal(c.value); (err == nil) != c.taken {
			t.Errorf("a %s took %v as %v, %v", c.typ, c.value, v, err)
		}
		if _, err := r.fromWire(c.value); err == nil && !c.taken {
			t.Errorf("a %s took %v from the wire", c.typ, c.value)
		}
	}
	text := &Reading{ReadingSpec: ReadingSpec{Path: "p", Type: "text"}}
	v, err := text.normal(strings.Repeat("é", 100_000))
	if s, ok := v.(string); err != nil || !ok || len(s) > MaxText+3 || !utf8.ValidString(s) {
		t.Errorf("a text of 200 kB is kept as %d bytes, %v", len(s), err)
	}
	for bytes, want := range map[string]string{"caf\xe9": "caf\ufffd", "\xff\xfe": "\ufffd", "fine é": "fine é"} {
		if v, err := text.fromWire(bytes); err != nil || v != want {
			t.Errorf("%q is kept as %q, %v", bytes, v, err)
		}
	}
	for _, v := range []string{"NaN", "Inf", "-Inf", "1e999", "1e300"} {
		if p := (ParamSpec{ID: "n", Title: "n", Type: "int"}); p.Takes(v) {
			t.Errorf("a parameter took %s as a whole number", v)
		}
		if p := (ParamSpec{ID: "n", Title: "n", Type: "db", Min: &lo}); p.Takes(v) && v != "1e300" {
			t.Errorf("a parameter took %s as a level", v)
		}
	}
}

// A fade that passes zero left a level at "-0 dB", and nothing corrected it, since
// minus zero equals zero.
func TestALevelIsNeverMinusNothing(t *testing.T) {
	r := &Reading{ReadingSpec: ReadingSpec{Path: "p", Type: "db"}}
	for _, v := range []any{math.Copysign(0, -1), "-0", "-0.0"} {
		got, err := r.normal(v)
		if f, ok := got.(float64); err != nil || !ok || math.Signbit(f) {
			t.Errorf("%v is kept as %v, %v", v, got, err)
		}
		if sent, err := r.toWire(v); err == nil {
			if f, ok := sent.(float64); !ok || math.Signbit(f) {
				t.Errorf("%v is sent as %v", v, sent)
			}
		}
	}
}
