package sheet

import (
	"strings"
	"testing"
	"testing/fstest"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
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
    "driver": "osc", "transport": "tcp-slip", "port": 9000,
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
		if p.File != "bad.json" || p.Line != c.line || !strings.Contains(p.Reason, c.reason) {
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
			if p.Line < 1 || p.Reason == "" {
				t.Errorf("a problem without line or reason: %+v", p)
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
	if _, p := ParseDevice("smoke.json", []byte(body)); p == nil || p.Line != 7 || !strings.Contains(p.Reason, "lines does not run over") {
		t.Errorf("%v", p)
	}
}

func TestASheetWithARangeThatIsTooLargeIsRefusedAtItsLine(t *testing.T) {
	body := strings.Replace(strings.Replace(sheetOfLines, "TRANSPORT", "tcp", 1), "RANGE", "9223372036854775807..9223372036854775807", 1)
	if _, p := ParseDevice("smoke.json", []byte(body)); p == nil || p.Line != 10 || !strings.Contains(p.Reason, "too large") {
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
    "port": 7990, "ask": { "line": "MODEL?" }, "alive": "1s" },
  "index": {
    "nozzle": { "title": "nozzle", "range": "RANGE" }
  },
  "readings": [ { "path": "nozzle/{nozzle}/on", "title": "Nozzle {nozzle}", "type": "bool", "from": { "line": "NOZZLE {nozzle} {value}" } } ],
  "actions": []
}
`
