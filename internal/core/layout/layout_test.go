package layout

import (
	"math/rand/v2"
	"slices"
	"testing"

	"synaptor/internal/core/device"
)

var grid = (&device.ControllerSheet{Zone: "keys", Grid: &device.Grid{Columns: 6, Rows: 4}}).Controls()

func usedIn(cells ...string) func(string) bool {
	return func(c string) bool { return slices.Contains(cells, c) }
}

func TestRowsLandWhereAPersonExpects(t *testing.T) {
	for name, c := range map[string]struct {
		start   string
		n       int
		used    []string
		replace bool
		cells   []string
		hit     int
		left    int
	}{
		"from the left edge":                {start: "a1", n: 6, cells: []string{"a1", "b1", "c1", "d1", "e1", "f1"}},
		"moves left to stay in one row":     {start: "c2", n: 6, cells: []string{"a2", "b2", "c2", "d2", "e2", "f2"}},
		"does not move over what is used":   {start: "d2", n: 5, used: []string{"b2"}, cells: []string{"c2", "d2", "e2", "f2", "a3"}},
		"steps over used cells":             {start: "a1", n: 3, used: []string{"b1"}, cells: []string{"a1", "c1", "d1"}},
		"replaces when told to":             {start: "a1", n: 3, used: []string{"b1"}, replace: true, cells: []string{"a1", "b1", "c1"}, hit: 1},
		"says what does not fit":            {start: "e4", n: 8, used: []string{"d4"}, cells: []string{"e4", "f4"}, left: 6},
		"a short row starts where it falls": {start: "c3", n: 2, cells: []string{"c3", "d3"}},
	} {
		p, err := Row(grid, c.start, c.n, usedIn(c.used...), c.replace)
		if err != nil || !slices.Equal(p.Cells, c.cells) || len(p.Occupied) != c.hit || p.Left != c.left {
			t.Errorf("%s: %+v (%v), want %v, %d replaced, %d left", name, p, err, c.cells, c.hit, c.left)
		}
	}
	for _, start := range []string{"g1", "a5", "", "A1", "11"} {
		if _, err := Row(grid, start, 1, usedIn(), false); err == nil {
			t.Errorf("start %q was accepted", start)
		}
	}
}

func TestRowsNeverOverlapOrOverwrite(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		var used []string
		for range r.IntN(20) {
			used = append(used, device.CellID(r.IntN(6), r.IntN(4)))
		}
		n := r.IntN(12)
		p, err := Row(grid, device.CellID(r.IntN(6), r.IntN(4)), n, usedIn(used...), false)
		if err != nil {
			t.Fatal(err)
		}
		seen := map[string]bool{}
		for _, c := range p.Cells {
			if seen[c] || slices.Contains(used, c) {
				t.Fatalf("%s is taken twice or was used: %+v, used %v", c, p, used)
			}
			seen[c] = true
		}
		if len(p.Cells)+p.Left != n {
			t.Fatalf("%d items became %d cells and %d left", n, len(p.Cells), p.Left)
		}
	}
}

func TestNextFreeGoesOnFromTheTop(t *testing.T) {
	controls := (&device.ControllerSheet{Grid: &device.Grid{Columns: 2, Rows: 2}}).Controls()
	for _, c := range []struct {
		after string
		used  []string
		want  string
	}{
		{"a1", nil, "b1"},
		{"b2", nil, "a1"},
		{"a1", []string{"b1", "a2"}, "b2"},
		{"a1", []string{"b1", "a2", "b2"}, ""},
	} {
		if got := NextFree(controls, c.after, usedIn(c.used...)); got != c.want {
			t.Errorf("after %s with %v used: %q, want %q", c.after, c.used, got, c.want)
		}
	}
}
