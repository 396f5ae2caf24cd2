package layout

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

func gridOf(columns, rows int) []device.Control {
	return (&device.ControllerSheet{Type: "g", Zone: "keys", Grid: &device.Grid{Columns: columns, Rows: rows}}).Controls()
}

func TestASelectionKeepsItsShape(t *testing.T) {
	g := gridOf(6, 4)
	for name, c := range map[string]struct {
		selection  []string
		anchor, at string
		want       []Step
		left       []string
	}{
		"one":             {[]string{"a1"}, "a1", "c3", []Step{{"a1", "c3"}}, nil},
		"a row":           {[]string{"c1", "b1"}, "b1", "d2", []Step{{"b1", "d2"}, {"c1", "e2"}}, nil},
		"over the edge":   {[]string{"a1", "b1", "c1"}, "a1", "e4", []Step{{"a1", "e4"}, {"b1", "f4"}}, []string{"c1"}},
		"from its middle": {[]string{"b2", "a1"}, "b2", "a1", []Step{{"b2", "a1"}}, []string{"a1"}},
		"where it is":     {[]string{"a1", "b1"}, "a1", "a1", []Step{{"a1", "a1"}, {"b1", "b1"}}, nil},
		"nowhere":         {[]string{"a1"}, "a1", "z9", nil, []string{"a1"}},
	} {
		steps, left := Shift(g, c.selection, c.anchor, g, c.at, true)
		if !slices.Equal(steps, c.want) || !slices.Equal(left, c.left) {
			t.Errorf("%s: %v, left %v", name, steps, left)
		}
	}
	// On another shape it fills what is there.
	pedals := (&device.ControllerSheet{Type: "p", Groups: []device.Group{{ID: "pedal", Kind: "pedal", Zone: "feet", Columns: 4, Rows: 1}}}).Controls()
	steps, left := Shift(g, []string{"a1", "a2", "b1"}, "a1", pedals, "pedal3", false)
	if !slices.Equal(steps, []Step{{"a1", "pedal3"}, {"b1", "pedal4"}}) || !slices.Equal(left, []string{"a2"}) {
		t.Errorf("on pedals: %v, left %v", steps, left)
	}
}

func TestNoTwoControlsGoToTheSameOneAndNothingIsLost(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 9))
		from := gridOf(1+r.IntN(8), 1+r.IntN(5))
		to, same := from, true
		if r.IntN(2) == 0 {
			to, same = gridOf(1+r.IntN(8), 1+r.IntN(5)), false
		}
		var selection []string
		for range 1 + r.IntN(10) {
			if id := from[r.IntN(len(from))].ID; !slices.Contains(selection, id) {
				selection = append(selection, id)
			}
		}
		used := map[string]bool{}
		for _, c := range to {
			used[c.ID] = r.IntN(2) == 0
		}
		steps, left := Shift(from, selection, selection[0], to, to[r.IntN(len(to))].ID, same)
		if len(steps)+len(left) != len(selection) {
			t.Fatalf("seed %d: %d selected, %d go, %d are left", seed, len(selection), len(steps), len(left))
		}
		goals, sources := map[string]bool{}, map[string]bool{}
		for _, s := range steps {
			if goals[s.To] || sources[s.From] || !slices.Contains(selection, s.From) {
				t.Fatalf("seed %d: %v", seed, steps)
			}
			goals[s.To], sources[s.From] = true, true
		}
		if !same {
			continue
		}
		// What is in the way goes to what became free, and to nothing else.
		taken := map[string]bool{}
		for _, s := range Displaced(steps, func(c string) bool { return used[c] }) {
			if !goals[s.From] || sources[s.From] || !used[s.From] || goals[s.To] || !sources[s.To] || taken[s.To] {
				t.Fatalf("seed %d: %v displaces %v", seed, steps, s)
			}
			taken[s.To] = true
		}
	}
}

func TestWhatFallsOffALayoutIsListed(t *testing.T) {
	d := show.NewDraft(show.Empty())
	d.Put(&show.Page{ID: "p", Profile: "night", Layout: "g", Zone: "keys"})
	for i, c := range []string{"a1", "c1", "b2"} {
		d.Put(&show.Mapping{ID: fmt.Sprint("m", i), Placements: []show.Placement{{Page: "p", Control: c}}})
	}
	d.Put(&show.Mapping{ID: "home", Placements: []show.Placement{{Standing: &show.Standing{Profile: "night", Layout: "g", Zone: "keys"}, Control: "c2"}}})
	d.Put(&show.Mapping{ID: "elsewhere", Placements: []show.Placement{{Page: "gone", Control: "a1"}}})
	sheets := func(columns int) func(string) *device.ControllerSheet {
		return func(typ string) *device.ControllerSheet {
			if typ != "g" {
				return nil
			}
			return &device.ControllerSheet{Type: "g", Zone: "keys", Grid: &device.Grid{Columns: columns, Rows: 2}}
		}
	}
	var got []string
	for _, a := range Unplaced(d.Now(), sheets(2)) {
		got = append(got, a.Mapping+" "+a.Control)
	}
	if !slices.Equal(got, []string{"home c2", "m1 c1"}) {
		t.Errorf("aside are %v", got)
	}
	if got := Unplaced(d.Now(), sheets(3)); len(got) != 0 {
		t.Errorf("aside are %v", got)
	}
}
