package device

import (
	"reflect"
	"slices"
	"testing"
	"time"

	"synaptor/internal/core/reading"
)

func num(f float64) *float64 { return &f }

// small is a switcher with one mix effect.
func small() *Sheet {
	return &Sheet{
		Format: SheetFormat, Type: "t", Title: "Small switcher", Role: "switcher",
		Link: LinkSpec{Driver: "osc", Transport: "tcp-slip", Port: 1, Alive: "500ms", Identify: &Identify{Reading: "model", Like: "switch"},
			Start: []MessageSpec{{Address: "/follow"}}, Ask: &MessageSpec{Address: "/ask", Args: []any{"{address}"}}},
		Index: map[string]Index{"mix": {Title: "mix effect", Range: "1..2"},
			"input": {Title: "input", From: "input/{input}/name", Gone: "input/{input}/gone"}},
		Readings: []ReadingSpec{
			{Path: "model", Title: "Model", Type: "text"},
			{Path: "mix/{mix}/program", Title: "Program of {mix}", Type: "choice", Of: "input", Wire: "int"},
			{Path: "mix/{mix}/preview", Title: "Preview of {mix}", Type: "choice", Of: "input", Wire: "int"},
			{Path: "mix/{mix}/frames", Title: "Frames of {mix}", Type: "int", Min: num(1), Max: num(250)},
			{Path: "level", Title: "Level", Type: "db", From: Sources{{Address: "/main/fader"}}},
			{Path: "on", Title: "On", Type: "bool"},
			{Path: "input/{input}/name", Title: "Name of {input}", Type: "text"},
			{Path: "input/{input}/gone", Title: "{input} is gone", Type: "bool"},
		},
		Actions: []ActionSpec{
			{ID: "program", Title: "Put {input} on program", Help: "h", Suits: []string{"press"},
				Params:  []ParamSpec{{ID: "input", Title: "input", Of: "input"}, {ID: "mix", Title: "mix effect", Of: "mix", Default: "1"}},
				Needs:   []NeedSpec{{When: "reading('input/'+input+'/gone') != true", Say: "No input {input}."}},
				Effects: []EffectSpec{{Set: "mix/{mix}/program", To: "input"}},
				Face:    FaceSpec{Label: "{input}", Glyph: "camera", Where: "PGM"},
				Lamps:   []LampSpec{{When: "reading('mix/'+mix+'/program') == input", Role: "on-air"}}},
			{ID: "auto", Title: "Auto", Help: "h", Suits: []string{"press"}, Send: []MessageSpec{{Address: "/mix/1/auto"}},
				Effects: []EffectSpec{{Set: "mix/1/program", To: "reading('mix/1/preview')", After: "{reading('mix/1/frames')}f"}},
				Face:    FaceSpec{Label: "Auto", Glyph: "auto"}},
			{ID: "toggle", Title: "Toggle", Help: "h", Suits: []string{"press"}, Instead: []string{"program"},
				Effects: []EffectSpec{{Set: "on", To: "not reading('on')"}}, Face: FaceSpec{Label: "T", Glyph: "lamp"}},
			{ID: "frames", Title: "Frames", Help: "h", Suits: []string{"press"},
				Params:  []ParamSpec{{ID: "n", Title: "length", Type: "int", Min: num(1), Max: num(250)}},
				Effects: []EffectSpec{{Set: "mix/1/frames", To: "int(n)"}}, Face: FaceSpec{Label: "{n}", Glyph: "auto"}},
		},
		Kits: []KitSpec{{ID: "row", Title: "Row", Over: "input", Only: "int(input) < 80", Each: "mix", Action: "program", Shape: "row"}},
	}
}

func compiled(t *testing.T) *Type {
	t.Helper()
	typ, err := Compile(small())
	if err != nil {
		t.Fatal(err)
	}
	return typ
}

// known is what the tests' device has said.
type known struct{ *reading.Table }

func heard(values ...any) known {
	k := known{reading.NewTable()}
	for i := 0; i < len(values); i += 2 {
		k.Report(reading.Key{Device: "d", Path: values[i].(string)}, values[i+1], time.Unix(0, 0))
	}
	return k
}

func TestAMessageServesBothWays(t *testing.T) {
	typ := compiled(t)
	b, err := typ.Bind("d", "program", map[string]string{"input": "3"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	msgs, err := b.Messages(heard())
	if err != nil || len(msgs) != 1 || !reflect.DeepEqual(msgs[0], Message{Address: "/mix/1/program", Args: []any{3}}) {
		t.Fatalf("sends %v (%v)", msgs, err)
	}
	r, err := typ.Match(msgs[0])
	if err != nil || !r.Known || len(r.Reports) != 1 || r.Reports[0] != (Report{Path: "mix/1/program", Value: "3"}) {
		t.Errorf("the same message reports %+v, %v", r, err)
	}
	if effects := b.Effects(heard()); len(effects) != 1 || effects[0].Value != "3" {
		t.Errorf("and is to bring about %+v", effects)
	}
	if !b.Constant() {
		t.Error("a message without readings can be encoded in advance")
	}
}

func TestReportsAreRead(t *testing.T) {
	typ := compiled(t)
	for name, c := range map[string]struct {
		msg   Message
		path  string
		value any
		known bool
		bad   bool
	}{
		"a choice by number":          {Message{Address: "/mix/2/preview", Args: []any{81}}, "mix/2/preview", "81", true, false},
		"an address of its own":       {Message{Address: "/main/fader", Args: []any{-12.5}}, "level", -12.5, true, false},
		"a bool as a number":          {Message{Address: "/on", Args: []any{1}}, "on", true, true, false},
		"a whole number as a float":   {Message{Address: "/mix/1/frames", Args: []any{25.0}}, "mix/1/frames", 25, true, false},
		"an unknown address":          {Message{Address: "/nothing", Args: []any{1}}, "", nil, false, false},
		"a text for a number":         {Message{Address: "/mix/1/program", Args: []any{"x"}}, "", nil, true, true},
		"a number for a text":         {Message{Address: "/model", Args: []any{1}}, "", nil, true, true},
		"out of range":                {Message{Address: "/mix/1/frames", Args: []any{251}}, "", nil, true, true},
		"no value":                    {Message{Address: "/model", Args: nil}, "", nil, true, true},
		"an address with a hole":      {Message{Address: "/mix//program", Args: []any{1}}, "", nil, false, false},
		"an address that goes deeper": {Message{Address: "/mix/1/program/x", Args: []any{1}}, "", nil, false, false},
	} {
		m, err := typ.Match(c.msg)
		var r Report
		if len(m.Reports) > 0 {
			r = m.Reports[0]
		}
		if m.Known != c.known || (err != nil) != c.bad || r.Path != c.path || r.Value != c.value {
			t.Errorf("%s: %+v, %v", name, m, err)
		}
	}
}

func TestEffectsAreComputedFromTheStateBefore(t *testing.T) {
	typ := compiled(t)
	w := heard("mix/1/preview", "4", "mix/1/frames", 50, "on", true)
	auto, err := typ.Bind("d", "auto", nil, 25)
	if err != nil {
		t.Fatal(err)
	}
	e := auto.Effects(w)
	if len(e) != 1 || e[0].Value != "4" || e[0].After != 2*time.Second {
		t.Errorf("auto brings about %+v, want 4 after 50 frames at 25", e)
	}
	toggle, err := typ.Bind("d", "toggle", nil, 25)
	if err != nil {
		t.Fatal(err)
	}
	if m, err := toggle.Messages(w); err != nil || m[0].Args[0] != 0 || toggle.Constant() {
		t.Errorf("a toggle of on sends %v (%v)", m, err)
	}
	if _, err := toggle.Messages(heard()); err == nil {
		t.Error("a toggle of something unknown cannot be sent")
	}
}

func TestParametersAreChecked(t *testing.T) {
	typ := compiled(t)
	for name, c := range map[string]struct {
		action string
		params map[string]string
		param  string
	}{
		"missing":           {"program", nil, "input"},
		"no such parameter": {"program", map[string]string{"input": "1", "colour": "red"}, "colour"},
		"not a value":       {"program", map[string]string{"input": "a/b"}, "input"},
		"not a number":      {"frames", map[string]string{"n": "x"}, "n"},
		"not whole":         {"frames", map[string]string{"n": "1.5"}, "n"},
		"out of range":      {"frames", map[string]string{"n": "251"}, "n"},
	} {
		_, err := typ.Bind("d", c.action, c.params, 25)
		var bad *ParamError
		if p, ok := err.(*ParamError); ok {
			bad = p
		}
		if bad == nil || bad.Param != c.param {
			t.Errorf("%s: %v, want a word about %s", name, err, c.param)
		}
	}
}

func TestNamesFollowTheDevice(t *testing.T) {
	typ := compiled(t)
	w := heard("input/2/name", "Telescope feed", "input/3/name", "All-sky cam", "input/3/gone", true, "input/90/name", "Black")
	b, err := typ.Bind("d", "program", map[string]string{"input": "2"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	if got := b.Title.Text(w); got != "Put Telescope feed on program" {
		t.Errorf("title %q", got)
	}
	if got := b.Label.Text(w); got != "Telescope feed" {
		t.Errorf("label %q", got)
	}
	if got := typ.Word(reading.Key{Device: "d", Path: "mix/1/program"}, "2", w); got != "Telescope feed" {
		t.Errorf("word %q", got)
	}
	gone, _ := typ.Bind("d", "program", map[string]string{"input": "3"}, 25)
	if got := gone.Refusal(w); got != "No input 3." {
		t.Errorf("an input that is gone: %q", got)
	}
	if !gone.Gone(w) {
		t.Error("that the input is gone is not said")
	}
	choices := typ.Choices("input", "d", nil, w)
	if len(choices) != 3 || choices[0].Name != "Telescope feed" || !choices[1].Gone {
		t.Errorf("choices %+v", choices)
	}
	items := typ.KitKeys(typ.Kit("row"), "2", "d", w)
	if len(items) != 1 || items[0].Params["input"] != "2" || items[0].Params["mix"] != "2" {
		t.Errorf("the kit leaves out what is gone and what is made inside: %v", items)
	}
}

func TestTheOutsideSeesTheDevicesOwnNumbers(t *testing.T) {
	typ := compiled(t)
	if got := typ.Reading("mix/1/program").Outside("3"); got != 3 {
		t.Errorf("a choice by number is %#v", got)
	}
	if got := typ.Reading("model").Outside("3"); got != "3" {
		t.Errorf("a text is %#v", got)
	}
	if m, ok := typ.Ask("level"); !ok || m.Args[0] != "/main/fader" {
		t.Errorf("asks %v", m)
	}
	if got := typ.TitleOf("d", "mix/2/program", heard()); got != "Program of 2" {
		t.Errorf("title %q", got)
	}
	if !slices.EqualFunc(typ.Start(), []Message{{Address: "/follow"}}, func(a, b Message) bool { return a.Address == b.Address }) {
		t.Error("the link does not start with /follow")
	}
}
