package show

import (
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

func apply(t *testing.T, s *Show, e Edit) *Show {
	t.Helper()
	next, err := s.Apply(e)
	if err != nil {
		t.Fatalf("%s: %v", e.Name, err)
	}
	return next
}

// randomEdit puts, changes, moves or removes mappings and devices.
func randomEdit(r *rand.Rand, s *Show, seq int64) Edit {
	d := NewDraft(s)
	for range 1 + r.IntN(4) {
		control := string(rune('a'+r.IntN(6))) + string(rune('1'+r.IntN(4)))
		switch r.IntN(4) {
		case 0:
			d.Put(&Device{ID: fmt.Sprint("d", r.IntN(4)), Name: fmt.Sprint("Device ", seq), Port: r.IntN(9000)})
		case 1:
			d.Delete(Ref{KindDevice, fmt.Sprint("d", r.IntN(4))})
		case 2:
			d.ClearPlacement("cut", control)
			d.Put(&Mapping{ID: fmt.Sprint("m", seq, control), Placements: []Placement{{Page: "cut", Control: control}},
				Responses: []Response{{Gesture: "press", Action: Call{Params: map[string]string{"b": "1", "a": control}}}}})
		case 3:
			d.ClearPlacement("cut", control)
		}
	}
	return d.Edit(fmt.Sprint("edit ", seq), seq)
}

func TestUndoingEverythingRestoresTheBytes(t *testing.T) {
	for seed := range uint64(50) {
		r := rand.New(rand.NewPCG(seed, 7))
		s := Empty()
		var edits []Edit
		var states [][]byte
		for seq := int64(1); seq <= 30; seq++ {
			states = append(states, s.Canonical())
			e := randomEdit(r, s, seq)
			s = apply(t, s, e)
			edits = append(edits, e)
		}
		end := s.Canonical()
		for i := len(edits) - 1; i >= 0; i-- {
			s = apply(t, s, edits[i].Inverse())
			if !bytes.Equal(s.Canonical(), states[i]) {
				t.Fatalf("seed %d: undoing %q left other bytes", seed, edits[i].Name)
			}
		}
		for _, e := range edits {
			s = apply(t, s, e)
		}
		if !bytes.Equal(s.Canonical(), end) {
			t.Fatalf("seed %d: doing everything again left other bytes", seed)
		}
	}
}

func TestAnEditAgainstAnOlderStateIsRefusedWhole(t *testing.T) {
	s := Empty()
	d := NewDraft(s)
	d.Put(&Device{ID: "a", Name: "Dome switcher"})
	s = apply(t, s, d.Edit("add", 1))

	mine := NewDraft(s)
	mine.Put(&Device{ID: "b", Name: "Sound desk"})
	mine.Put(&Device{ID: "a", Name: "Mine"})
	theirs := NewDraft(s)
	theirs.Put(&Device{ID: "a", Name: "Theirs"})
	s = apply(t, s, theirs.Edit("theirs", 2))

	_, err := s.Apply(mine.Edit("mine", 3))
	var c *ConflictError
	if !errors.As(err, &c) || c.Have != 2 || c.Want != 1 {
		t.Fatalf("got %v, want a conflict of revision 2 with 1", err)
	}
	if s.Device("b") != nil || s.Device("a").Name != "Theirs" {
		t.Error("a refused edit left something behind")
	}
}

func TestUntouchedEntitiesAreShared(t *testing.T) {
	s := Empty()
	d := NewDraft(s)
	d.Put(&Device{ID: "a"})
	d.Put(&Device{ID: "b"})
	s = apply(t, s, d.Edit("two", 1))
	d = NewDraft(s)
	d.Put(&Device{ID: "a", Name: "changed"})
	next := apply(t, s, d.Edit("one", 2))
	if next.Device("b") != s.Device("b") {
		t.Error("an entity that was not edited was made anew")
	}
	if s.Device("a").Name != "" {
		t.Error("the older show changed")
	}
}

func TestALinkedMappingGoesWithItsLastPlacement(t *testing.T) {
	d := NewDraft(Empty())
	d.Put(&Mapping{ID: "m", Placements: []Placement{{Page: "p", Control: "a1"}, {Page: "p", Control: "b1"}}})
	s := apply(t, Empty(), d.Edit("linked", 1))
	d = NewDraft(s)
	if !d.ClearPlacement("p", "a1") || d.ClearPlacement("p", "a1") {
		t.Error("the first placement is there once")
	}
	s = apply(t, s, d.Edit("clear one", 2))
	if s.MappingAt("p", "b1") == nil {
		t.Fatal("the other placement went too")
	}
	d = NewDraft(s)
	d.ClearPlacement("p", "b1")
	if s = apply(t, s, d.Edit("clear the other", 3)); s.Mapping("m") != nil {
		t.Error("a mapping without a placement stayed")
	}
}

func TestDevicesAreCheckedFieldByField(t *testing.T) {
	d := NewDraft(Empty())
	d.Put(&Device{ID: "a", Name: "Dome switcher", Host: "127.0.0.1", Port: 7431})
	s := apply(t, Empty(), d.Edit("add", 1))
	good := Device{ID: "b", Name: "Sound desk", Host: "desk.local", Port: 7432}
	for name, c := range map[string]struct {
		change func(*Device)
		field  string
	}{
		"all well":                 {func(*Device) {}, ""},
		"itself again":             {func(d *Device) { d.ID, d.Name = "a", "Dome switcher" }, ""},
		"IPv6":                     {func(d *Device) { d.Host = "fe80::1%eth0" }, ""},
		"no name":                  {func(d *Device) { d.Name = "  " }, "name"},
		"a name twice, other case": {func(d *Device) { d.Name = "dome SWITCHER" }, "name"},
		"a name too long":          {func(d *Device) { d.Name = strings.Repeat("ä", MaxName+1) }, "name"},
		"a line break in the name": {func(d *Device) { d.Name = "a\nb" }, "name"},
		"no host":                  {func(d *Device) { d.Host = "" }, "host"},
		"a URL as host":            {func(d *Device) { d.Host = "http://desk" }, "host"},
		"a port in the host":       {func(d *Device) { d.Host = "desk:7432" }, "host"},
		"a bad IPv4 address":       {func(d *Device) { d.Host = "300.1.1.1" }, "host"},
		"blanks in the host":       {func(d *Device) { d.Host = "my desk" }, "host"},
		"port 0":                   {func(d *Device) { d.Port = 0 }, "port"},
		"port 65536":               {func(d *Device) { d.Port = 65536 }, "port"},
	} {
		dev := good
		c.change(&dev)
		errs := s.CheckDevice(&dev, true)
		switch {
		case c.field == "" && len(errs) > 0:
			t.Errorf("%s: %v", name, errs[0])
		case c.field != "" && (len(errs) != 1 || errs[0].Field != c.field):
			t.Errorf("%s: %v, want one error at %s", name, errs, c.field)
		}
	}
}

func TestSlugsAreUniqueAndPlain(t *testing.T) {
	taken := map[string]bool{"producer-grid": true, "item": true}
	for name, want := range map[string]string{
		"Producer grid": "producer-grid-2", "Saskia’s tablet": "saskias-tablet", "  Ünder --  dog ": "nder-dog", "★": "item-2",
	} {
		if got := Slug(name, func(s string) bool { return taken[s] }); got != want {
			t.Errorf("%q: %q, want %q", name, got, want)
		}
	}
}

func TestWhereMappingsAreFollowsEveryEdit(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 11))
		s := Empty()
		for seq := int64(1); seq <= 25; seq++ {
			before := s
			s = apply(t, s, randomEdit(r, s, seq))
			// Made from nothing, it is at the same places.
			var all Edit
			s.EachMapping(func(m *Mapping) { all.Changes = append(all.Changes, Change{Ref: m.Ref(), Next: 1, After: Encode(m)}) })
			fresh := apply(t, Empty(), all)
			for c := range 24 {
				control := string(rune('a'+c%6)) + string(rune('1'+c/6))
				a, b := s.MappingAt("cut", control), fresh.MappingAt("cut", control)
				if (a == nil) != (b == nil) || a != nil && a.ID != b.ID {
					t.Fatalf("seed %d, edit %d: %s has %v, want %v", seed, seq, control, a, b)
				}
			}
			touched, only := s.Touched(before)
			for _, id := range touched {
				if a, b := before.Mapping(id), s.Mapping(id); a == b {
					t.Fatalf("seed %d: %s is said to differ", seed, id)
				}
			}
			for _, m := range s.Mappings() {
				if only && before.Mapping(m.ID) != m && !strings.Contains(fmt.Sprint(touched), m.ID) {
					t.Fatalf("seed %d: that %s differs is not said", seed, m.ID)
				}
			}
		}
	}
}

func TestANameCanBeSeen(t *testing.T) {
	for name, says := range map[string]string{
		"Meteor!": "", "Übung 2": "", "🌒": "", "\u200fשלום": "", "👩‍🚀": "",
		"": "A name is needed", " \t ": "A name is needed", "\u200b\u200d": "Nothing of this name can be seen", "\u2800": "Nothing of this name can be seen",
		"\u0301": "Nothing of this name can be seen", "a\x00b": "control characters", "two\nlines": "line breaks", "cam\u202e2": "direction of writing", "\u2066x\u2069": "direction of writing",
	} {
		if got := CheckName(name); says == "" && got != "" || !strings.Contains(got, says) {
			t.Errorf("%q: %q, want %q", name, got, says)
		}
	}
}
