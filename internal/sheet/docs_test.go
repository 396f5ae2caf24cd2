package sheet

import (
	"cmp"
	"os"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/reading"
)

func TestTheDocumentedExampleLoadsAndDoesWhatItSays(t *testing.T) {
	doc, err := os.ReadFile("../../docs/device-sheets.md")
	if err != nil {
		t.Fatal(err)
	}
	_, rest, _ := strings.Cut(string(doc), "```json\n")
	example, _, ok := strings.Cut(rest, "```")
	if !ok {
		t.Fatal("docs/device-sheets.md has no example")
	}
	typ, p := ParseDevice("docs/device-sheets.md", []byte(example))
	if p != nil {
		t.Fatal(p)
	}
	b, err := typ.Bind("d", "lamp-on", map[string]string{"lamp": "1"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	msgs, err := b.Messages(reading.NewTable())
	if err != nil || len(msgs) != 1 || msgs[0].Address != "/lamp/1/on" || msgs[0].Args[0] != 1 {
		t.Errorf("it sends %v (%v)", msgs, err)
	}
	r, err := typ.Match(device.Message{Address: "/lamp/1/name", Args: []any{"Red walkway"}})
	if err != nil || len(r.Reports) != 1 || r.Reports[0].Value != "Red walkway" {
		t.Errorf("it reads %+v (%v)", r, err)
	}
}

// TestWhatIsSentIsWhatIsReported holds for every built-in OSC sheet, whose
// messages are the same both ways: what an action sends gives, reported back,
// the values it expects. internal/app does the same over the wire for all.
func TestWhatIsSentIsWhatIsReported(t *testing.T) {
	lib, err := Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, typ := range lib.Devices() {
		if typ.Sheet.Link.Driver != "osc" {
			continue
		}
		for _, a := range typ.Sheet.Actions {
			if len(a.Send) > 0 {
				continue
			}
			params := map[string]string{}
			for _, p := range a.Params {
				switch {
				case len(p.Options) > 0:
					params[p.ID] = p.Options[len(p.Options)-1]
				case p.Default == "":
					params[p.ID] = "2"
				}
			}
			b, err := typ.Bind("d", a.ID, params, 25)
			if err != nil {
				t.Errorf("%s %s: %v", typ.Sheet.Type, a.ID, err)
				continue
			}
			world := reading.NewTable()
			for _, r := range typ.Sheet.Readings { // for what toggles and moves them
				path := r.Path
				for _, p := range a.Params {
					path = strings.ReplaceAll(path, "{"+p.ID+"}", cmp.Or(params[p.ID], p.Default))
				}
				if now := map[string]any{"bool": true, "int": 30.0, "db": -6.0}[r.Type]; now != nil {
					world.Report(reading.Key{Device: "d", Path: path}, now, time.Unix(0, 0))
				}
			}
			msgs, err := b.Messages(world)
			effects := b.Effects(world)
			if err != nil || len(msgs) != len(effects) {
				t.Errorf("%s %s: %d messages for %d effects (%v)", typ.Sheet.Type, a.ID, len(msgs), len(effects), err)
				continue
			}
			for i, m := range msgs {
				r, err := typ.Match(m)
				if err != nil || len(r.Reports) != 1 || r.Reports[0].Path != effects[i].Key.Path || r.Reports[0].Value != effects[i].Value {
					t.Errorf("%s %s: sends %v, which reports %+v, but expects %+v (%v)", typ.Sheet.Type, a.ID, m, r, effects[i], err)
				}
			}
		}
	}
}

// TestEveryRoleHasAGlyph, by which its devices are told apart in lists.
func TestEveryRoleHasAGlyph(t *testing.T) {
	lib, err := Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, typ := range lib.Devices() {
		if !face.IsGlyph(typ.Sheet.Role) {
			t.Errorf("%s: the role %s has no glyph", typ.Sheet.Type, typ.Sheet.Role)
		}
	}
}
