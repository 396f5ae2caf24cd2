package preflight

import (
	"strings"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

func TestWhatIsWrongWithALinkIsFound(t *testing.T) {
	sheet := &device.ControllerSheet{Type: "own", Groups: []device.Group{{Kind: "key", Zone: "keys", Columns: 2, Rows: 1}, {ID: "slider", Kind: "slider", Zone: "dials", Columns: 1, Rows: 1, Y: 2}}}
	mapped := &device.ControllerSheet{Type: "mapped", Zone: "keys", Grid: &device.Grid{Columns: 1, Rows: 1}, Keys: &device.HardwareMap{Bindings: []show.Binding{{Source: "KEY_A", Control: "a1", As: "key"}}}}
	layouts := func(typ string) *device.ControllerSheet {
		return map[string]*device.ControllerSheet{"own": sheet, "mapped": mapped}[typ]
	}
	link := func(kind string, of show.Link) *show.Link {
		of.ID, of.Kind, of.Match = "l", kind, "Fader row"
		if of.Controller == "" {
			of.Controller = "c"
		}
		return &of
	}
	key := func(source, control, as string) []show.Binding {
		return []show.Binding{{Source: source, Control: control, As: as}}
	}
	d := show.NewDraft(show.Empty())
	d.Put(&show.Controller{ID: "c", Name: "Console", Layout: "own"})
	d.Put(&show.Controller{ID: "m", Name: "Mapped", Layout: "mapped"})
	d.Put(&show.Controller{ID: "lost", Name: "Lost", Layout: "gone"})
	for name, c := range map[string]struct {
		link *show.Link
		want string // the ids, in their order
	}{
		"all is well":            {link(show.LinkMIDIHost, show.Link{Bindings: key("note 1 36", "a1", "key")}), ""},
		"a board with names":     {link(show.LinkWire, show.Link{}), ""},
		"a board mapped":         {link(show.LinkWire, show.Link{Map: map[string]string{"x": "b1", "y": ""}}), ""},
		"its map leads nowhere":  {link(show.LinkWire, show.Link{Map: map[string]string{"x": "z9"}}), "binding-gone"},
		"a control that is gone": {link(show.LinkMIDIHost, show.Link{Bindings: key("note 1 36", "z9", "key")}), "binding-gone"},
		"it does nothing":        {link(show.LinkMIDIHost, show.Link{Bindings: key("note 1 36", "", "key")}), ""},
		"of another kind by now": {link(show.LinkMIDIHost, show.Link{Bindings: key("bend 1", "a1", "slider")}), "binding-unfit"},
		"nothing is bound":       {link(show.LinkMIDIHost, show.Link{}), "link-empty"},
		"the sheet binds":        {link(show.LinkKeysHost, show.Link{Controller: "m"}), ""},
		"it is off":              {link(show.LinkMIDIHost, show.Link{Off: true, Bindings: key("note 1 36", "a1", "key")}), "link-off"},
		"without a layout":       {link(show.LinkMIDIHost, show.Link{Controller: "lost"}), ""},
		"without a controller":   {link(show.LinkMIDIHost, show.Link{Controller: "nobody"}), ""},
	} {
		var got []string
		for _, f := range Link(d.Now(), c.link, layouts) {
			got = append(got, f.ID)
			if f.Subject != c.link.Ref() || !strings.HasSuffix(f.Text, ".") || f.Severity == "" {
				t.Errorf("%s: %+v", name, f)
			}
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s: found is %q, not %q", name, got, c.want)
		}
	}
}
