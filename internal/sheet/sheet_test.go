package sheet

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/reading"
)

func TestBuiltInSheetsLoad(t *testing.T) {
	l, err := Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	if l.Device("switcher.osc") == nil || l.Controller("grid-6x4") == nil {
		t.Error("the switcher and the 6 by 4 grid belong to the built-in sheets")
	}
}

const minimal = `{
  "sheet": "synaptor.device/1",
  "type": "own.lamp",
  "title": "A lamp",
  "role": "lights",
  "link": {
    "driver": "osc", "transport": "tcp-slip", "port": 9000, "ask": { "address": "/ask", "args": ["{address}"] },
    "identify": { "reading": "model" },
    "alive": "500ms"
  },
  "readings": [
    { "path": "model", "title": "Model", "type": "text" },
    { "path": "on", "title": "On", "type": "bool" }
  ],
  "actions": [
    { "id": "on", "title": "Lamp on", "help": "Switches the lamp on.", "suits": ["press"],
      "effects": [{ "set": "on", "to": "true" }],
      "face": { "label": "Lamp", "glyph": "lamp" } }
  ]
}`

func TestABrokenSheetIsNamedByFileLineAndReasonAndTheRestLoads(t *testing.T) {
	for name, c := range map[string]struct {
		old, new string
		line     int
		reason   string
	}{
		"not JSON":               {`"role": "lights",`, `"role": "lights"`, 6, "not JSON"},
		"a missing field":        {`"alive": "500ms"`, `"deadline": "1s"`, 6, "alive"},
		"an unknown field":       {`"alive": "500ms"`, "\"alive\": \"500ms\",\n\"colour\": \"red\"", 10, "colour"},
		"a wrong role":           {`"lights"`, `"lighthouse"`, 5, "role"},
		"an unknown reading":     {`"set": "on"`, `"set": "off"`, 17, "no reading"},
		"a bad expression":       {`"to": "true"`, `"to": "true +"`, 17, "unexpected"},
		"a reading without type": {`"type": "bool"`, `"title": "x"`, 13, "type"},
		"a taken type":           {`own.lamp`, `switcher.osc`, 3, "taken"},
	} {
		body := strings.Replace(minimal, c.old, c.new, 1)
		l, err := Load(fstest.MapFS{
			"bad.json":  {Data: []byte(body)},
			"good.json": {Data: []byte(strings.Replace(minimal, "own.lamp", "own.other", 1))},
			"notes.txt": {Data: []byte("not a sheet")},
		})
		if err != nil {
			t.Fatal(err)
		}
		if len(l.Problems) != 1 {
			t.Errorf("%s: problems are %v", name, l.Problems)
			continue
		}
		p := l.Problems[0]
		if p.File != "bad.json" || p.Line != c.line || !strings.Contains(p.Said(), c.reason) {
			t.Errorf("%s: got %v, want line %d and %q", name, p, c.line, c.reason)
		}
		if l.Device("own.other") == nil {
			t.Errorf("%s: the good sheet did not load", name)
		}
	}
}

// FuzzDeviceSheet feeds arbitrary bytes to the loader; a sheet that passes must
// survive being asked for all it offers.
func FuzzDeviceSheet(f *testing.F) {
	body, err := builtin.ReadFile("devices/switcher.osc.json")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(body)
	f.Add([]byte(minimal))
	f.Add([]byte("{"))
	f.Add([]byte(`[1,2,{"a":"b"}]`))
	f.Fuzz(func(t *testing.T, body []byte) {
		typ, p := ParseDevice("f.json", body)
		if p != nil {
			for _, one := range p {
				if one.Line < 1 || one.Reason == "" {
					t.Errorf("a problem without line or reason: %+v", one)
				}
			}
			return
		}
		exercise(typ)
	})
}

func exercise(typ *device.Type) {
	table := reading.NewTable()
	for name := range typ.Sheet.Index {
		typ.Choices(name, "d", nil, table)
	}
	for i := range typ.Sheet.Kits {
		typ.KitKeys(&typ.Sheet.Kits[i], "1", "d", table)
	}
	for _, a := range typ.Sheet.Actions {
		if b, err := typ.Bind("d", a.ID, map[string]string{}, 25); err == nil {
			_, _ = b.Messages(expr.Nothing{})
			b.Effects(expr.Nothing{})
			b.Refusal(expr.Nothing{})
		}
	}
	typ.Start()
	_, _ = typ.Match(device.Message{Address: "/model", Args: []any{"x"}})
}

func TestASheetWhoseTransportDoesNotBelongToItsDriverIsRefusedAtItsLine(t *testing.T) {
	body := strings.Replace(strings.Replace(sheetOfLines, "TRANSPORT", "udp", 1), "RANGE", "1..2", 1)
	if _, p := ParseDevice("smoke.json", []byte(body)); len(p) != 1 || p[0].Line != 7 || !strings.Contains(p[0].Reason, "lines does not run over") {
		t.Errorf("%v", p)
	}
}

func TestASheetWithARangeThatIsTooLargeIsRefusedAtItsLine(t *testing.T) {
	body := strings.Replace(strings.Replace(sheetOfLines, "TRANSPORT", "tcp", 1), "RANGE", "9223372036854775807..9223372036854775807", 1)
	if _, p := ParseDevice("smoke.json", []byte(body)); len(p) != 1 || p[0].Line != 10 || !strings.Contains(p[0].Reason, "too large") {
		t.Errorf("%v", p)
	}
}

const sheetOfLines = `{
  "sheet": "synaptor.device/1",
  "type": "smoke.lines",
  "title": "Fog machine",
  "role": "lights",
  "link": { "driver": "lines",
    "transport": "TRANSPORT",
    "port": 7990 },
  "index": {
    "nozzle": { "title": "nozzle", "range": "RANGE" }
  },
  "readings": [ { "path": "nozzle/{nozzle}/on", "title": "Nozzle {nozzle}", "type": "bool", "from": { "line": "NOZZLE {nozzle} {value}" } } ],
  "actions": []
}
`

// TestAllMistakesAreToldAtOnce, those of the schema and those of what it means, each with the line and the field
// that it is in.
func TestAllMistakesAreToldAtOnce(t *testing.T) {
	body := strings.NewReplacer(`"lights"`, `"lighthouse"`, `"alive": "500ms"`, "\"alive\": \"500ms\",\n    \"colour\": \"red\"", `"title": "On", "type": "bool"`, `"title": "On", "type": "int", "min": 5, "max": 3`,
		`"glyph": "lamp"`, `"glyph": "lantern"`, `"set": "on"`, `"set": "off"`, `"title": "A lamp",`, ``).Replace(minimal)
	_, found := ParseDevice("lamp.json", []byte(body))
	var got []string
	for _, p := range found {
		got = append(got, fmt.Sprintf("%d %s", p.Line, p.Field))
	}
	want := []string{"1 /title", "5 /role", "10 /link/colour", "14 /readings/1/min", "18 /actions/0/effects/0/set", "19 /actions/0/face/glyph"}
	if !slices.Equal(got, want) {
		t.Errorf("got  %q\nwant %q\n%v", got, want, found)
	}
}

func TestAllMistakesOfAControllerSheetAreToldAtOnce(t *testing.T) {
	_, found := ParseController("desk.json", []byte(`{
  "sheet": "synaptor.controller/1", "type": "own.desk", "title": "Desk",
  "groups": [
    { "id": "k", "kind": "key", "zone": "keys", "columns": 2, "rows": 2, "x": 0, "y": 0, "gestures": ["turn"] },
    { "id": "d", "kind": "dial", "zone": "dials", "columns": 2, "rows": 1, "x": 1, "y": 1 },
    { "id": "s", "kind": "lever", "zone": "dials", "columns": 2, "rows": 1, "x": 7, "y": 1 }
  ]
}`))
	var got []string
	for _, p := range found {
		got = append(got, fmt.Sprintf("%d %s", p.Line, p.Field))
	}
	if want := []string{"4 /groups/0/gestures/0", "5 /groups/1", "6 /groups/2/kind"}; !slices.Equal(got, want) {
		t.Errorf("got %q, want %q: %v", got, want, found)
	}
}

// FuzzControllerSheet feeds arbitrary bytes to the loader; a layout that passes must be able to be drawn and moved on.
func FuzzControllerSheet(f *testing.F) {
	for _, name := range []string{"grid-6x4", "console-3x3", "pedals-4"} {
		body, err := builtin.ReadFile("controllers/" + name + ".json")
		if err != nil {
			f.Fatal(err)
		}
		f.Add(body)
	}
	f.Add([]byte(`{"sheet":"synaptor.controller/1","type":"t","title":"T","groups":[{"id":"k","kind":"key","zone":"z","columns":26,"rows":26,"x":0,"y":0}]}`))
	f.Fuzz(func(t *testing.T, body []byte) {
		s, p := ParseController("f.json", body)
		for _, one := range p {
			if one.Line < 1 || one.Reason == "" {
				t.Errorf("a problem without line or reason: %+v", one)
			}
		}
		if p != nil {
			return
		}
		controls := s.Controls()
		width, height := device.Extent(controls)
		if len(controls) < 1 || len(controls) > 500 || width <= 0 || height <= 0 {
			t.Fatalf("%d controls of %v by %v", len(controls), width, height)
		}
		none := func(string) bool { return false }
		for i, c := range controls {
			if found, ok := s.Control(c.ID); !ok || found.ID != c.ID {
				t.Errorf("%s is not found", c.ID)
			}
			if i > 20 {
				continue // there are many, and what follows looks at all of them
			}
			layout.NextFree(controls, c.ID, none)
			if _, err := layout.Row(controls, c.ID, len(controls), none, true); err != nil && err.Error() == "" {
				t.Error("a row is refused without a word")
			}
			steps, left := layout.Shift(controls, []string{controls[0].ID, c.ID}, c.ID, controls, controls[len(controls)-1].ID, true)
			if len(steps)+len(left) > 2 {
				t.Errorf("two controls became %d and %d", len(steps), len(left))
			}
		}
	})
}
