// Package reach works out how one gets from page to page: how many presses each is
// away from Home, which pages nobody can reach, from which there is no way back,
// and how much room is left.
package reach

import (
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// Self is the built-in device whose actions change pages.
const Self = "synaptor"

// Unreachable is the number of presses to a page that cannot be reached.
const Unreachable = -1

// Map is the page graph of one zone of a layout in a profile.
type Map struct {
	Layout string `json:"layout"`
	Zone   string `json:"zone"`
	Home   string `json:"home"` // the first page; empty: there is none
	Pages  []Page `json:"pages"`
	// Controls, Used and Free count the controls of the zone over all of its pages;
	// what stands counts once a page.
	Controls int `json:"controls"`
	Used     int `json:"used"`
	Free     int `json:"free"`
}

// Page is a page in the graph.
type Page struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Presses int    `json:"presses"` // from Home; -1: it cannot be reached
	WayBack bool   `json:"wayBack"` // one can get from it to Home
	Used    int    `json:"used"`
	Free    int    `json:"free"`
	Edges   []Edge `json:"edges"`
}

// Edge is a gesture that leads to another page.
type Edge struct {
	Control string `json:"control"`
	Gesture string `json:"gesture"`
	To      string `json:"to"`
	// Kind is the action: page, page-held, page-home, page-back, page-next or
	// page-previous. To is empty for page-back.
	Kind string `json:"kind"`
	// Standing says that it is there on every page.
	Standing bool `json:"standing,omitempty"`
}

// Answers tells which mapping answers on a control of a page, or nil.
type Answers func(page *show.Page, control string) *show.Mapping

// Keys are what is on a page: how many controls do something, and what of that may lead elsewhere.
type Keys struct {
	Used, Free int
	leads      []lead
}

// lead is a gesture that changes pages.
type lead struct {
	control  string
	response show.Response
	stands   bool
}

// KeysOn finds what is on a page, of the controls of its layout.
func KeysOn(p *show.Page, controls []device.Control, answers Answers) (out Keys) {
	for _, c := range controls {
		if c.Zone != p.Zone {
			continue
		}
		m := answers(p, c.ID)
		if m == nil {
			out.Free++
			continue
		}
		out.Used++
		for _, r := range m.Responses {
			if r.Action.Device == Self && slices.Contains(c.Gestures, r.Gesture) {
				out.leads = append(out.leads, lead{c.ID, r, m.Stands()})
			}
		}
	}
	return out
}

// Of draws the page graphs of a profile, one for each zone of the layouts given,
// that has pages. Keys of one zone may lead to pages of another.
func Of(s *show.Show, profile string, layouts []*device.ControllerSheet, answers Answers) []Map {
	return From(s, profile, layouts, func(p *show.Page, l *device.ControllerSheet) Keys { return KeysOn(p, l.Controls(), answers) })
}

// From is Of for those who know what is on the pages.
func From(s *show.Show, profile string, layouts []*device.ControllerSheet, keys func(*show.Page, *device.ControllerSheet) Keys) []Map {
	var maps []Map
	g := graph{to: map[string][]string{}, back: map[string][]string{}, home: map[string]string{}, order: map[string][]string{}}
	for _, l := range layouts {
		for _, zone := range l.Zones() {
			pages := s.PagesFor(profile, l.Type, zone)
			if len(pages) == 0 {
				continue
			}
			m := Map{Layout: l.Type, Zone: zone, Home: pages[0].ID}
			for _, p := range pages {
				g.home[p.ID] = m.Home
				m.Pages = append(m.Pages, Page{ID: p.ID, Name: p.Name})
			}
			order := ids(m.Pages)
			for _, p := range pages {
				g.order[p.ID] = order
			}
			maps = append(maps, m)
		}
	}
	for i := range maps {
		m := &maps[i]
		l := layouts[slices.IndexFunc(layouts, func(l *device.ControllerSheet) bool { return l.Type == m.Layout })]
		for j := range m.Pages {
			p := s.Page(m.Pages[j].ID)
			g.page(p, &m.Pages[j], keys(p, l))
			m.Controls += m.Pages[j].Used + m.Pages[j].Free
			m.Used += m.Pages[j].Used
			m.Free += m.Pages[j].Free
		}
	}
	var homes []string
	for _, m := range maps {
		homes = append(homes, m.Home)
	}
	presses := g.presses(homes)
	for i := range maps {
		for j := range maps[i].Pages {
			p := &maps[i].Pages[j]
			p.Presses = Unreachable
			if n, ok := presses[p.ID]; ok {
				p.Presses = n
			}
			p.WayBack = p.ID == maps[i].Home || g.returns(p.ID, maps[i].Home)
		}
	}
	return maps
}

func ids(pages []Page) []string {
	out := make([]string, len(pages))
	for i, p := range pages {
		out[i] = p.ID
	}
	return out
}

// graph has the ways between pages, by page.
type graph struct {
	to map[string][]string
	// back has the pages with a key that goes back to where one came from.
	back  map[string][]string
	home  map[string]string   // of each page's zone
	order map[string][]string // the pages of each page's zone
}

// page takes in what is on a page and finds where it leads.
func (g *graph) page(p *show.Page, out *Page, keys Keys) {
	out.Edges, out.Used, out.Free = []Edge{}, keys.Used, keys.Free
	for _, k := range keys.leads {
		a := k.response.Action
		to, leads := g.target(p.ID, a)
		if !leads {
			continue
		}
		out.Edges = append(out.Edges, Edge{Control: k.control, Gesture: k.response.Gesture, To: to, Kind: a.Action, Standing: k.stands})
		switch {
		case to != "":
			g.to[p.ID] = append(g.to[p.ID], to)
		default:
			g.back[p.ID] = append(g.back[p.ID], k.control)
		}
		if a.Action == "page-held" {
			// Letting go leads back.
			g.to[to] = append(g.to[to], p.ID)
		}
	}
}

// target is where an action leads from a page; leads is false when it changes no
// page, to is empty when it goes back.
func (g *graph) target(from string, a show.Call) (to string, leads bool) {
	if a.Device != Self {
		return "", false
	}
	order := g.order[from]
	at := slices.Index(order, from)
	switch a.Action {
	case "page", "page-held":
		_, known := g.home[a.Params["page"]]
		return a.Params["page"], known
	case "page-home":
		return g.home[from], true
	case "page-back":
		return "", true
	case "page-next", "page-previous":
		by := 1
		if a.Action == "page-previous" {
			by = -1
		}
		if next := at + by; a.Params["end"] == "stop" && (next < 0 || next >= len(order)) {
			return from, true
		}
		return order[(at+by+len(order))%len(order)], true
	}
	return "", false
}

// presses counts the presses to every page that can be reached, when all zones
// show their first page.
func (g *graph) presses(homes []string) map[string]int {
	out := map[string]int{}
	queue := slices.Clone(homes)
	for _, h := range homes {
		out[h] = 0
	}
	for len(queue) > 0 {
		p := queue[0]
		queue = queue[1:]
		for _, to := range g.to[p] {
			if _, seen := out[to]; !seen {
				out[to] = out[p] + 1
				queue = append(queue, to)
			}
		}
	}
	return out
}

// returns tells whether one gets from a page to its home with the keys of the
// pages on the way: what is on other zones may show something else by then. A key
// that goes back leads to whatever led here.
func (g *graph) returns(from, home string) bool {
	seen := map[string]bool{from: true}
	queue := []string{from}
	for len(queue) > 0 {
		p := queue[0]
		queue = queue[1:]
		next := slices.Clone(g.to[p])
		if len(g.back[p]) > 0 {
			for other, to := range g.to {
				if slices.Contains(to, p) && g.home[other] == g.home[p] {
					next = append(next, other)
				}
			}
		}
		for _, to := range next {
			if to == home {
				return true
			}
			if !seen[to] && g.home[to] == home {
				seen[to] = true
				queue = append(queue, to)
			}
		}
	}
	return false
}
