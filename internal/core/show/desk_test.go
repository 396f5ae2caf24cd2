package show_test

import (
	"slices"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
)

// deskShow has a controller that is used, and one that is not.
func deskShow() *show.Show {
	return showtest.Of(&show.Profile{ID: "night", Slug: "night", Name: "Meteor Night"},
		&show.Controller{ID: "grid", Slug: "grid", Name: "Producer grid", Layout: "grid-6x4", Profile: "night"},
		&show.Controller{ID: "pad", Slug: "pad", Name: "Thumb pad", Layout: "thumb-5x2", Profile: "night", Position: 1},
		&show.Page{ID: "cut", Slug: "cut", Name: "Cut", Profile: "night", Layout: "grid-6x4", Zone: "main"},
		&show.Mapping{ID: "a", Placements: []show.Placement{showtest.At("cut", "a1")}, Responses: []show.Response{}})
}

func TestWhoHasArrangedNothingHasWhatIsUsed(t *testing.T) {
	s := deskShow()
	d := s.DeskOf(nil)
	if !slices.Equal(d.Controllers, []string{"grid"}) || !slices.Equal(d.Parts, show.DeskParts()) || d.Side != "right" {
		t.Fatalf("the Desk is %+v", d)
	}
	if errs := s.CheckDesk(d); len(errs) > 0 {
		t.Errorf("it is wrong: %v", errs[0])
	}
}

func TestAnArrangementOutlivesWhatIsGone(t *testing.T) {
	s := deskShow()
	first := s.Controllers()[0].ID
	d := s.DeskOf(&show.Desk{Controllers: []string{"gone", first}, Parts: []string{"presses", "weather", "now"}, Side: "above", CountTo: "22:30"})
	if !slices.Equal(d.Controllers, []string{first}) || !slices.Equal(d.Parts, []string{"presses", "now"}) || d.Side != "right" || d.CountTo != "22:30" {
		t.Errorf("it is %+v", d)
	}
}

func TestAnArrangementIsChecked(t *testing.T) {
	s := deskShow()
	first := s.Controllers()[0].ID
	good := show.Desk{Controllers: []string{first}, Parts: []string{"now"}, Side: "left", CountTo: "22:30"}
	if errs := s.CheckDesk(good); len(errs) > 0 {
		t.Fatalf("%v", errs[0])
	}
	for field, spoil := range map[string]func(*show.Desk){
		"controllers": func(d *show.Desk) { d.Controllers = []string{first, first} },
		"parts":       func(d *show.Desk) { d.Parts = []string{"now", "weather"} },
		"side":        func(d *show.Desk) { d.Side = "above" },
		"countTo":     func(d *show.Desk) { d.CountTo = "25:00" },
	} {
		bad := good
		spoil(&bad)
		if errs := s.CheckDesk(bad); len(errs) != 1 || errs[0].Field != field {
			t.Errorf("a wrong %s gives %v", field, errs)
		}
	}
}
