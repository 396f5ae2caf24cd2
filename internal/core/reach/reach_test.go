package reach

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

var grid = &device.ControllerSheet{Type: "grid", Zone: "keys", Grid: &device.Grid{Columns: 3, Rows: 2}}

// key puts an action that changes the page on a control.
func key(d *show.Draft, page, control, action, to string) {
	call := show.Call{Device: Self, Action: action}
	if to != "" {
		call.Params = map[string]string{"page": to}
	}
	d.Put(&show.Mapping{ID: page + control, Placements: []show.Placement{{Page: page, Control: control}},
		Responses: []show.Response{{Gesture: "press", Action: call}}})
}

func draft(pages ...string) *show.Draft {
	d := show.NewDraft(show.Empty())
	for i, id := range pages {
		d.Put(&show.Page{ID: id, Name: id, Profile: "night", Layout: "grid", Zone: "keys", Position: i})
	}
	return d
}

func graphOf(d *show.Draft) Map {
	s := d.Now()
	return Of(s, "night", []*device.ControllerSheet{grid}, func(p *show.Page, c string) *show.Mapping { return s.MappingAt(p.ID, c) })[0]
}

func TestReachCountsPressesAndWaysBack(t *testing.T) {
	d := draft("home", "cut", "dome", "replay", "lost", "trap", "peek")
	key(d, "home", "a1", "page", "cut")
	key(d, "home", "b1", "page", "trap")
	key(d, "home", "c1", "page-held", "peek")
	key(d, "cut", "a1", "page", "dome")
	key(d, "cut", "c2", "page-home", "")
	key(d, "dome", "a1", "page-next", "")
	key(d, "replay", "b2", "page-back", "")
	key(d, "lost", "a1", "page-home", "")
	key(d, "trap", "a1", "page", "gone")
	m := graphOf(d)
	want := map[string]struct {
		presses int
		back    bool
	}{"home": {0, true}, "cut": {1, true}, "dome": {2, false}, "replay": {3, false}, "lost": {-1, true}, "trap": {1, false}, "peek": {1, true}}
	for _, p := range m.Pages {
		if w := want[p.ID]; p.Presses != w.presses || p.WayBack != w.back {
			t.Errorf("%s: %d presses, way back %v; want %v", p.ID, p.Presses, p.WayBack, w)
		}
	}
	if m.Home != "home" || m.Controls != 7*6 || m.Used != 9 || m.Free != m.Controls-m.Used {
		t.Errorf("%d controls, %d used, %d free, home %s", m.Controls, m.Used, m.Free, m.Home)
	}
}

func TestABackKeyIsNoWayBackFromWhereNothingLeads(t *testing.T) {
	d := draft("home", "island")
	key(d, "island", "a1", "page-back", "")
	if p := graphOf(d).Pages[1]; p.Presses != Unreachable || p.WayBack {
		t.Errorf("%+v", p)
	}
}

func TestEveryPageThatIsReachedWasLedToByANearerOne(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 4))
		var names []string
		for i := range 2 + r.IntN(8) {
			names = append(names, fmt.Sprint("p", i))
		}
		d := draft(names...)
		kinds := []string{"page", "page", "page-held", "page-home", "page-back", "page-next", "page-previous"}
		for _, p := range names {
			for c := range r.IntN(4) {
				kind, to := kinds[r.IntN(len(kinds))], ""
				if kind == "page" || kind == "page-held" {
					to = names[r.IntN(len(names))]
				}
				key(d, p, device.CellID(c%3, c/3), kind, to)
			}
		}
		m := graphOf(d)
		at := map[string]int{}
		for _, p := range m.Pages {
			at[p.ID] = p.Presses
		}
		for _, p := range m.Pages {
			for _, e := range p.Edges {
				if e.To != "" && p.Presses >= 0 && (at[e.To] < 0 || at[e.To] > p.Presses+1) {
					t.Fatalf("seed %d: %s leads from %s (%d) to %s (%d)", seed, e.Control, p.ID, p.Presses, e.To, at[e.To])
				}
			}
		}
	}
}
