package parts

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
)

func does(device, action string, params map[string]string) show.Call {
	return show.Call{Device: device, DeviceName: "old", Action: action, Params: params}
}

// evening is a show with a page whose keys cut, run a macro and go to another page.
func evening() *show.Show {
	return showtest.Of(&show.Profile{ID: "night", Name: "Meteor Night"}, &show.Page{ID: "cut", Name: "Cut", Profile: "night", Layout: "grid", Zone: "keys"},
		&show.Page{ID: "dome", Name: "Dome", Profile: "night", Layout: "grid", Zone: "keys"},
		&show.Device{ID: "sw", Name: "Dome switcher", Position: 1, Type: "switcher.osc", Host: "10.0.0.5", Secret: "s"}, &show.Device{ID: "desk", Name: "Sound desk", Position: 2, Type: "mixer.osc"},
		&show.Device{ID: "cam", Name: "Camera", Position: 3, Type: "camera.lines"},
		&show.Mapping{ID: "k1", Placements: []show.Placement{showtest.At("cut", "a1"), showtest.At("dome", "a1")}, Responses: []show.Response{{Gesture: "press", Action: does("sw", "cut", nil)}},
			Lamps: []show.Lamp{{When: "reading('sw:mix/1/program') == '2' and reading(\"desk:x\") == '1'"}}},
		&show.Mapping{ID: "k2", Placements: []show.Placement{showtest.At("cut", "b1")}, Responses: []show.Response{{Gesture: "press", Action: does(self, "run", map[string]string{"macro": "meteor"})}},
			Branches: map[string]show.Look{"st2": {Label: "{reading('sw:x')}"}}},
		&show.Mapping{ID: "k3", Placements: []show.Placement{showtest.At("cut", "c1")}, Responses: []show.Response{{Gesture: "press", Action: does(self, "page", map[string]string{"page": "cut"})}}},
		&show.Macro{ID: "meteor", Name: "Meteor!"}, &show.Step{ID: "st1", Macro: "meteor", Kind: "turns"}, &show.Step{ID: "st2", Macro: "meteor", Kind: "branch", Parent: "st1", When: "reading('desk:x') == '1'"},
		&show.Step{ID: "st3", Macro: "meteor", Kind: "run", Parent: "st2", Run: "after"}, &show.Macro{ID: "after", Name: "After"},
		&show.Step{ID: "st4", Macro: "after", Kind: "do", Action: &show.Call{Device: "sw", Action: "auto"}})
}

// studio is the show that takes: it has a switcher of its own, and a page of the same name.
func studio() *show.Show {
	return showtest.Of(&show.Profile{ID: "main", Name: "Main"}, &show.Page{ID: "p", Name: "Cut", Profile: "main", Layout: "grid", Zone: "keys"}, &show.Device{ID: "studio", Name: "Studio switcher", Type: "switcher.osc"},
		&show.Device{ID: "cam", Name: "Other camera", Type: "light.mqtt"}, &show.Mapping{ID: "k1", Placements: []show.Placement{showtest.At("p", "a1")}}, &show.Mapping{ID: "both", Placements: []show.Placement{showtest.At("p", "d1"), showtest.At("q", "d1")}},
		&show.Page{ID: "q", Name: "Other", Profile: "main", Layout: "grid", Zone: "keys"})
}

// takes takes a wish, and lists what becomes of each part.
func takes(t *testing.T, w Wish) (s *show.Show, rows []string) {
	t.Helper()
	now, n := studio(), 0
	d := show.NewDraft(now)
	list, err := Take(d, now, evening(), w, layouts, func() string { n++; return fmt.Sprint("new", n) })
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range list {
		rows = append(rows, strings.TrimSpace(fmt.Sprint(r.Title, " ", r.What, " ", r.As, " ", r.Note)))
	}
	if s, err = now.Apply(d.Edit("take", 2)); err != nil {
		t.Fatalf("the edit cannot be made: %v", err)
	}
	return s, rows
}

func TestAPageIsTakenWithWhatItNeedsAndDrivesTheDevicesHere(t *testing.T) {
	if got := Suggest(studio(), evening()); got["sw"] != "studio" || got["desk"] != "" || got["cam"] != "" {
		t.Errorf("suggested is %v", got)
	}
	s, rows := takes(t, Wish{Pages: []string{"cut"}, InPlace: []string{"cut"}, Devices: map[string]string{"sw": "studio"}})
	want := []string{"Dome switcher stands in Studio switcher", "Sound desk comes along Sound desk", "Meteor! comes along Meteor!", "After comes along After", "Cut in place Cut"}
	if !slices.Equal(rows, want) {
		t.Errorf("told is %q, want %q", rows, want)
	}
	key := s.MappingAt("p", "a1")
	if key == nil || key.ID == "k1" || key.Responses[0].Action.Device != "studio" || key.Responses[0].Action.DeviceName != "Studio switcher" {
		t.Fatalf("a1 is %+v", key)
	}
	if got := key.Lamps[0].When; got != "reading('studio:mix/1/program') == '2' and reading(\"desk:x\") == '1'" {
		t.Errorf("its lamp asks %s", got)
	}
	if len(key.Placements) != 1 || s.MappingAt("p", "d1") != nil || s.MappingAt("q", "d1") == nil {
		t.Errorf("placed is %+v", key.Placements)
	}
	run := s.MappingAt("p", "b1").Responses[0].Action.Params["macro"]
	steps := s.StepsOf(run)
	if s.Macro(run) == nil || s.Macro(run).Name != "Meteor!" || len(steps) != 3 {
		t.Fatalf("b1 runs %q with %d steps", run, len(steps))
	}
	for _, st := range steps {
		switch st.Kind {
		case "branch":
			if s.MappingAt("p", "b1").Branches[st.ID].Label != "{reading('studio:x')}" || st.When != "reading('desk:x') == '1'" {
				t.Errorf("the branch is %+v, its look %+v", st, s.MappingAt("p", "b1").Branches)
			}
		case "run":
			if s.Macro(st.Run) == nil || s.Macro(st.Run).Name != "After" || s.StepsOf(st.Run)[0].Action.Device != "studio" {
				t.Errorf("the macro runs %q", st.Run)
			}
		}
	}
	if to := s.MappingAt("p", "c1").Responses[0].Action.Params["page"]; to != "p" {
		t.Errorf("c1 goes to %q", to)
	}
	if d := s.Device("desk"); d == nil || d.Secret != "" || s.Device("sw") != nil {
		t.Errorf("the devices are %+v", s.Devices())
	}
}

func TestWhatHasTheSameNameStandsBesideAndIdsThatClashAreOthers(t *testing.T) {
	s, rows := takes(t, Wish{Pages: []string{"cut"}, Macros: []string{"after"}})
	if !slices.Contains(rows, "Cut beside Cut 2") || !slices.Contains(rows, "After new After") {
		t.Errorf("told is %q", rows)
	}
	if s.MappingAt("p", "a1").ID != "k1" || len(s.PagesFor("main", "grid", "keys")) != 3 {
		t.Error("what was here is not what it was")
	}
	again := show.NewDraft(s)
	n := 100
	if _, err := Take(again, s, evening(), Wish{Pages: []string{"cut"}}, layouts, func() string { n++; return fmt.Sprint("more", n) }); err != nil {
		t.Fatal(err)
	}
	twice, err := s.Apply(again.Edit("again", 3))
	if err != nil || len(twice.PagesFor("main", "grid", "keys")) != 4 || twice.Device("sw") == nil || len(twice.Devices()) != len(s.Devices())+2 {
		t.Errorf("taken twice: %v, %d devices", err, len(twice.Devices()))
	}
	for _, w := range []Wish{{Pages: []string{"nobody"}}, {Macros: []string{"nobody"}}, {Profiles: []string{"nobody"}}, {Pages: []string{"grid"}, Controllers: map[string]string{"big": "nobody"}}, {Pages: []string{"cut"}, Devices: map[string]string{"desk": "studio"}}} {
		if _, err := Take(show.NewDraft(s), s, evening(), w, layouts, func() string { n++; return fmt.Sprint("never", n) }); err == nil {
			t.Errorf("%+v is taken", w)
		}
	}
}

// layouts are those of the tests: a grid of six by four, a small one of three by two with a dial, and no other.
func layouts(layout string) *device.ControllerSheet {
	switch layout {
	case "grid":
		return &device.ControllerSheet{Type: "grid", Zone: "keys", Grid: &device.Grid{Columns: 6, Rows: 4, Pictures: true}}
	case "small":
		return &device.ControllerSheet{Type: "small", Zone: "pads", Grid: &device.Grid{Columns: 3, Rows: 2}, Groups: []device.Group{{ID: "d", Kind: "dial", Zone: "pads", Columns: 1, Rows: 1, Y: 2}}}
	}
	return nil
}

// night is a show with a controller, a page with a key too many for a small one, and a key that stands on every page.
func night() *show.Show {
	key := func(id string, at ...show.Placement) *show.Mapping {
		return &show.Mapping{ID: id, Placements: at, Responses: []show.Response{{Gesture: "press", Action: does(self, "reset", nil)}}}
	}
	stands := show.Placement{Standing: &show.Standing{Profile: "night", Layout: "grid", Zone: "keys"}, Control: "c1"}
	return showtest.Of(&show.Profile{ID: "night", Name: "Main"}, &show.Controller{ID: "big", Name: "Big grid", Layout: "grid", Profile: "night", Start: []string{"grid"}},
		&show.Page{ID: "grid", Name: "Grid", Profile: "night", Layout: "grid", Zone: "keys", Notes: map[string]string{"f4": "the last"}}, key("k1", showtest.At("grid", "a1")), key("k2", showtest.At("grid", "f4")), key("k3", showtest.At("grid", "b2")),
		key("k4", showtest.At("grid", "f1")), key("k5", showtest.At("grid", "f2")), key("k6", showtest.At("grid", "f3")), key("k7", showtest.At("grid", "e1")), key("stays", stands))
}

// took takes a wish of the night into a show.
func took(t *testing.T, now *show.Show, w Wish) (*show.Show, []Row) {
	t.Helper()
	n, d := 0, show.NewDraft(now)
	rows, err := Take(d, now, night(), w, layouts, func() string { n++; return fmt.Sprint("new", len(now.Refs()), "-", n) })
	if err != nil {
		t.Fatal(err)
	}
	s, err := now.Apply(d.Edit("take", 2))
	if err != nil {
		t.Fatal(err)
	}
	return s, rows
}

func TestAPageGoesToAControllerOfAnotherLayout(t *testing.T) {
	here := showtest.Of(&show.Profile{ID: "main", Name: "Studio"}, &show.Controller{ID: "pads", Name: "Pads", Layout: "small", Profile: "main"})
	want := SuggestControllers(here, night())
	if want["big"] != "pads" {
		t.Fatalf("proposed is %v", want)
	}
	s, rows := took(t, here, Wish{Pages: []string{"grid"}, Controllers: want})
	if len(rows) != 2 || rows[0].What != StandIn || rows[0].As != "Pads" || rows[1].Note != "a key finds no room there" {
		t.Fatalf("told is %+v", rows)
	}
	pages := s.PagesFor("main", "small", "pads")
	if len(pages) != 1 {
		t.Fatalf("the pages are %+v", s.Pages())
	}
	p := pages[0].ID
	for control, of := range map[string]string{"a1": "a1", "b2": "b2"} {
		if s.MappingAt(p, control) == nil {
			t.Errorf("%s is not where it was: %s is free", of, control)
		}
	}
	used := 0
	for _, m := range s.Mappings() {
		used += len(m.Placements)
	}
	if used != 6 || s.MappingAt(p, "c1") == nil || s.MappingAt(p, "d1") != nil { // a key goes on no dial
		t.Errorf("%d are placed: %+v", used, s.Mappings())
	}
	if len(pages[0].Notes) > 1 || pages[0].Notes["f4"] != "" {
		t.Errorf("the notes are %v", pages[0].Notes)
	}
	if len(s.Controllers()) != 1 {
		t.Errorf("the controllers are %+v", s.Controllers())
	}
}

func TestAProfileIsTakenWholeWithItsControllerAndWhatStandsOnEveryPage(t *testing.T) {
	s, rows := took(t, show.Empty(), Wish{Profiles: []string{"night"}})
	c := s.Controllers()[0]
	if len(rows) != 3 || c.Name != "Big grid" || s.Profile(c.Profile) == nil || s.Profile(c.Profile).Name != "Main" || len(c.Start) != 0 {
		t.Fatalf("told is %+v, the controller %+v", rows, c)
	}
	_, standing := s.Placed()
	found := 0
	for at, spots := range standing {
		if at.Layout == "grid" && spots.At["c1"] != nil {
			found++
		}
	}
	if found != 1 || len(s.Mappings()) != 8 {
		t.Errorf("standing is %+v of %d keys", standing, len(s.Mappings()))
	}
	// Taken again: beside, unless it shall go into the one of its name; what stands there stays.
	twice, rows := took(t, s, Wish{Profiles: []string{"night"}, Controllers: map[string]string{"big": c.ID}})
	if rows[0].What != Beside || !rows[0].Clash || rows[0].As != "Main 2" || len(twice.Profiles()) != 2 {
		t.Errorf("told is %+v", rows)
	}
	again, rows := took(t, s, Wish{Profiles: []string{"night"}, InPlace: []string{"night", "grid"}, Controllers: map[string]string{"big": c.ID}})
	if rows[0].What != InPlace || rows[2].What != InPlace || len(again.Profiles()) != len(s.Profiles()) || len(again.Mappings()) != len(s.Mappings()) {
		t.Errorf("told is %+v; %d profiles, %d keys", rows, len(again.Profiles()), len(again.Mappings()))
	}
}
