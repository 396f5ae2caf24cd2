package sheet

import (
	"math"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

func TestWhatCanBePutBackHasAnActionThatSetsJustThat(t *testing.T) {
	l, err := Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		typ, path string
		value     reading.Value
		action    string // empty: nothing sets it
	}{
		{"switcher.osc", "mix/1/program", "3", "put-on-program"},
		{"switcher.osc", "mix/2/preview", "4", "put-on-preview"},
		{"switcher.osc", "keyer/2/on", true, "keyer-on"},
		{"switcher.osc", "keyer/2/on", false, "keyer-off"},
		{"switcher.osc", "out/1/source", "81", "route"},
		{"switcher.osc", "mix/1/transition/frames", 25, "transition-frames"},
		{"switcher.osc", "input/1/name", "x", ""},
		{"switcher.osc", "nothing", true, ""},
		{"mixer.osc", "channel/5/level", -12.5, "level"},
		{"mixer.osc", "channel/1/mute", false, "open"},
		{"streaming.jsonrpc", "input/1/level", math.Inf(-1), "level"},
		{"streaming.jsonrpc", "stream/on", false, "stream-stop"},
		{"streaming.jsonrpc", "lookback/file", "x", ""},
		{"intercom.http", "line/2/talk", true, "talk-on"},
		{"player.lines", "speed", 50, "speed"},
		{"titles.jsonrpc", "field/1/text", "{reading('shown')} is text }{", "write"},
	} {
		typ := l.Device(c.typ)
		action, params, ok := typ.Setter("d", c.path, c.value, expr.Nothing{})
		if action != c.action || ok != (c.action != "") {
			t.Errorf("%s %s to %v: %q %v", c.typ, c.path, c.value, action, ok)
			continue
		}
		if !ok {
			continue
		}
		b, err := typ.Bind("d", action, params, 25)
		if err != nil {
			t.Errorf("%s %s: %v", c.typ, c.path, err)
			continue
		}
		if e := b.Effects(expr.Nothing{}); len(e) != 1 || e[0].Key.Path != c.path || !reading.Equal(e[0].Value, c.value, 0) {
			t.Errorf("%s %s to %v brings about %+v", c.typ, c.path, c.value, e)
		}
		if _, _, any := typ.Setter("d", c.path, nil, expr.Nothing{}); !any {
			t.Errorf("%s %s: it is not known that it can be set", c.typ, c.path)
		}
	}
}

func TestAFadeGoesEvenlyAlongTheFaderAndEndsWhereItShall(t *testing.T) {
	l, err := Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	at := func(v reading.Value) reading.Reading { return reading.Reading{Value: v, Quality: reading.Confirmed} }
	tapered := l.Device("streaming.jsonrpc").Ramp("input/1/level", at(math.Inf(-1)), "0", "")
	if !math.IsInf(tapered.At(0), -1) || math.Abs(tapered.At(1)) > 0.001 {
		t.Errorf("from %v to %v", tapered.At(0), tapered.At(1))
	}
	last := math.Inf(-1)
	for i := range 20 {
		if v := tapered.At(float64(i+1) / 20); v < last {
			t.Errorf("it falls from %v to %v", last, v)
		} else {
			last = v
		}
	}
	plain := l.Device("mixer.osc").Ramp("channel/1/level", at(-20.0), "0", "")
	if plain.At(0.5) != -10 {
		t.Errorf("half way it is %v", plain.At(0.5))
	}
	for curve, below := range map[string]bool{device.SlowStart: true, device.SlowEnd: false} {
		if v := l.Device("mixer.osc").Ramp("channel/1/level", at(-20.0), "0", curve).At(0.5); (v < -10) != below {
			t.Errorf("%s is at %v half way", curve, v)
		}
	}
	if l.Device("mixer.osc").Ramp("channel/1/level", reading.Reading{Quality: reading.Unknown}, "0", "") != nil {
		t.Error("what nobody knows cannot be faded from")
	}
	if l.Device("mixer.osc").Ramp("channel/1/mute", at(true), "0", "") != nil {
		t.Error("what is no number cannot be faded")
	}
}
