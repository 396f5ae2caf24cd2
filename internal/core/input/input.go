// Package input decides what a touch means: which gesture an edge is, and which
// mapping answers it.
package input

import "synaptor/internal/core/show"

// Edge is what a hand does to a key.
type Edge string

// The edges.
const (
	Down Edge = "down"
	Up   Edge = "up"
)

// Gestures that a response can be mapped to.
const (
	Press   = "press"
	Release = "release"
)

// Control follows one control. Several links may hold it at once; it is down
// while any of them does. The zero value is a control nobody touches.
type Control struct {
	holders map[string]bool
}

// Edge takes in an edge from a link (any name that tells the links of a control
// apart) and returns the gesture it makes, or "" when it changes nothing.
func (c *Control) Edge(link string, e Edge) string {
	was := len(c.holders) > 0
	switch e {
	case Down:
		if c.holders == nil {
			c.holders = map[string]bool{}
		}
		c.holders[link] = true
	case Up:
		delete(c.holders, link)
	}
	switch now := len(c.holders) > 0; {
	case now && !was:
		return Press
	case was && !now:
		return Release
	}
	return ""
}

// Held reports whether a link holds the control down.
func (c *Control) Held(link string) bool { return c.holders[link] }

// Layer is one layer of mappings by control.
type Layer map[string]Placed

// Placed is a mapping on a layer.
type Placed struct {
	Mapping string
	Covers  bool // a page's placement that wins over a standing one
}

// Answers finds the mapping that answers for a control: the standing ones, then
// the page in force, unless the page's placement covers a standing one. The
// first that has a mapping for the control answers, whether or not it responds
// to the gesture.
func Answers(control string, standing, page Layer) (mapping string, ok bool) {
	onPage, hasPage := page[control]
	if hasPage && onPage.Covers {
		return onPage.Mapping, true
	}
	if s, has := standing[control]; has {
		return s.Mapping, true
	}
	return onPage.Mapping, hasPage
}

// Layers sorts the mappings of a show into its layers: one a page, and the
// standing ones of each profile, layout and zone.
func Layers(s *show.Show) (pages map[string]Layer, standing map[show.Standing]Layer) {
	pages, standing = map[string]Layer{}, map[show.Standing]Layer{}
	for _, m := range s.Mappings() {
		for _, p := range m.Placements {
			if p.Standing != nil {
				put(standing, *p.Standing, p.Control, Placed{Mapping: m.ID})
			} else {
				put(pages, p.Page, p.Control, Placed{Mapping: m.ID, Covers: p.Covers})
			}
		}
	}
	return pages, standing
}

func put[K comparable](layers map[K]Layer, at K, control string, p Placed) {
	if layers[at] == nil {
		layers[at] = Layer{}
	}
	layers[at][control] = p
}
