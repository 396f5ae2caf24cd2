package input

import (
	"testing"

	"synaptor/internal/core/show"
)

func TestAControlIsDownWhileAnyLinkHoldsIt(t *testing.T) {
	var c Control
	for i, s := range []struct {
		link string
		edge Edge
		want string
	}{
		{"panel", Up, ""}, {"panel", Down, Press}, {"panel", Down, ""}, {"osc", Down, ""}, {"panel", Up, ""}, {"osc", Up, Release},
		{"osc", Up, ""}, {"osc", Down, Press},
	} {
		if got := c.Edge(s.link, s.edge); got != s.want {
			t.Errorf("step %d, %s %s: %q, want %q", i, s.link, s.edge, got, s.want)
		}
	}
	if !c.Held("osc") || c.Held("panel") {
		t.Error("it is not known who holds the control")
	}
}

func TestWhichMappingAnswers(t *testing.T) {
	standing := Layer{"a1": {Mapping: "safe"}, "b1": {Mapping: "home"}}
	page := Layer{"a1": {Mapping: "cover", Covers: true}, "b1": {Mapping: "hidden"}, "c1": {Mapping: "camera"}}
	for control, want := range map[string]string{"a1": "cover", "b1": "home", "c1": "camera", "d1": ""} {
		if got, ok := Answers(control, standing, page); got != want || ok != (want != "") {
			t.Errorf("%s: %q, %v, want %q", control, got, ok, want)
		}
	}
}

func TestLayersHoldEveryPlacement(t *testing.T) {
	at := show.Standing{Profile: "p", Layout: "l", Zone: "keys"}
	d := show.NewDraft(show.Empty())
	d.Put(&show.Mapping{ID: "linked", Placements: []show.Placement{{Page: "x", Control: "a1"}, {Page: "y", Control: "b2", Covers: true}, {Standing: &at, Control: "c3"}}})
	s, err := show.Empty().Apply(d.Edit("put", 1))
	if err != nil {
		t.Fatal(err)
	}
	pages, standing := Layers(s)
	if pages["x"]["a1"].Mapping != "linked" || !pages["y"]["b2"].Covers || standing[at]["c3"].Mapping != "linked" {
		t.Errorf("pages %v, standing %v", pages, standing)
	}
}
