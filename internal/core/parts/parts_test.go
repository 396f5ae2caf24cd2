package parts

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/show"
)

func built(put ...show.Entity) *show.Show {
	d := show.NewDraft(show.Empty())
	for _, e := range put {
		d.Put(e)
	}
	return d.Now()
}

func at(page, control string) show.Placement { return show.Placement{Page: page, Control: control} }

func does(device, action string, params map[string]string) show.Call {
	return show.Call{Device: device, DeviceName: "old", Action: action, Params: params}
}

// evening is a show with a page whose keys cut, run a macro and go to another page.
func evening() *show.Show {
	return built(&show.Profile{ID: "night", Name: "Meteor Night"}, &show.Page{ID: "cut", Name: "Cut", Profile: "night", Layout: "grid", Zone: "keys"},
		&show.Page{ID: "dome", Name: "Dome", Profile: "night", Layout: "grid", Zone: "keys"},
		&show.Device{ID: "sw", Name: "Dome switcher", Position: 1, Type: "switcher.osc", Host: "10.0.0.5", Secret: "s"}, &show.Device{ID: "desk", Name: "Sound desk", Position: 2, Type: "mixer.osc"},
		&show.Device{ID: "cam", Name: "Camera", Position: 3, Type: "camera.lines"},
		&show.Mapping{ID: "k1", Placements: []show.Placement{at("cut", "a1"), at("dome", "a1")}, Responses: []show.Response{{Gesture: "press", Action: does("sw", "cut", nil)}},
			Lamps: []show.Lamp{{When: "reading('sw:mix/1/program') == '2' and reading(\"desk:x\") == '1'"}}},
		&show.Mapping{ID: "k2", Placements: []show.Placement{at("cut", "b1")}, Responses: []show.Response{{Gesture: "press", Action: does(self, "run", map[string]string{"macro": "meteor"})}},
			Branches: map[string]show.Look{"st2": {Label: "{reading('sw:x')}"}}},
		&show.Mapping{ID: "k3", Placements: []show.Placement{at("cut", "c1")}, Responses: []show.Response{{Gesture: "press", Action: does(self, "page", map[string]string{"page": "cut"})}}},
		&show.Macro{ID: "meteor", Name: "Meteor!"}, &show.Step{ID: "st1", Macro: "meteor", Kind: "turns"}, &show.Step{ID: "st2", Macro: "meteor", Kind: "branch", Parent: "st1", When: "reading('desk:x') == '1'"},
		&show.Step{ID: "st3", Macro: "meteor", Kind: "run", Parent: "st2", Run: "after"}, &show.Macro{ID: "after", Name: "After"},
		&show.Step{ID: "st4", Macro: "after", Kind: "do", Action: &show.Call{Device: "sw", Action: "auto"}})
}

// studio is the show that takes: it has a switcher of its own, and a page of the same name.
func studio() *show.Show {
	return built(&show.Profile{ID: "main", Name: "Main"}, &show.Page{ID: "p", Name: "Cut", Profile: "main", Layout: "grid", Zone: "keys"}, &show.Device{ID: "studio", Name: "Studio switcher", Type: "switcher.osc"},
		&show.Device{ID: "cam", Name: "Other camera", Type: "light.mqtt"}, &show.Mapping{ID: "k1", Placements: []show.Placement{at("p", "a1")}}, &show.Mapping{ID: "both", Placements: []show.Placement{at("p", "d1"), at("q", "d1")}},
		&show.Page{ID: "q", Name: "Other", Profile: "main", Layout: "grid", Zone: "keys"})
}

// takes takes a wish, and lists what becomes of each part.
func takes(t *testing.T, w Wish) (s *show.Show, rows []string) {
	t.Helper()
	now, n := studio(), 0
	d := show.NewDraft(now)
	list, err := Take(d, now, evening(), w, func() string { n++; return fmt.Sprint("new", n) })
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range list {
		rows = append(rows, strings.TrimSpace(fmt.Sprint(r.Title, " ", r.What, " ", r.As)))
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
	s, rows := takes(t, Wish{Pages: []string{"cut"}, Devices: map[string]string{"sw": "studio"}})
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
	s, rows := takes(t, Wish{Pages: []string{"cut"}, Macros: []string{"after"}, Beside: true})
	if !slices.Contains(rows, "Cut beside Cut 2") || !slices.Contains(rows, "After new After") {
		t.Errorf("told is %q", rows)
	}
	if s.MappingAt("p", "a1").ID != "k1" || len(s.PagesFor("main", "grid", "keys")) != 3 {
		t.Error("what was here is not what it was")
	}
	again := show.NewDraft(s)
	n := 100
	if _, err := Take(again, s, evening(), Wish{Pages: []string{"cut"}, Beside: true}, func() string { n++; return fmt.Sprint("more", n) }); err != nil {
		t.Fatal(err)
	}
	twice, err := s.Apply(again.Edit("again", 3))
	if err != nil || len(twice.PagesFor("main", "grid", "keys")) != 4 || twice.Device("sw") == nil || len(twice.Devices()) != len(s.Devices())+2 {
		t.Errorf("taken twice: %v, %d devices", err, len(twice.Devices()))
	}
	for _, w := range []Wish{{Pages: []string{"nobody"}}, {Macros: []string{"nobody"}}, {Pages: []string{"cut"}, Devices: map[string]string{"desk": "studio"}}} {
		if _, err := Take(show.NewDraft(s), s, evening(), w, func() string { n++; return fmt.Sprint("never", n) }); err == nil {
			t.Errorf("%+v is taken", w)
		}
	}
	if _, err := Take(show.NewDraft(show.Empty()), show.Empty(), evening(), Wish{Pages: []string{"cut"}}, func() string { n++; return fmt.Sprint("x", n) }); err == nil || !strings.Contains(err.Error(), "no profile") {
		t.Errorf("into an empty show: %v", err)
	}
}
