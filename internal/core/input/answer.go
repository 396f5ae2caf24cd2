package input

import "synaptor/internal/core/show"

// Layer is one layer of mappings by control.
type Layer map[string]Placed

// Placed is a mapping on a layer.
type Placed struct {
	Mapping string
	Covers  bool // a page's placement that wins over a standing one
}

// Answers finds the mapping that answers for a control: the standing ones, then
// the held page that was opened last, then the page in force, unless a page's
// placement covers a standing one. The first that has a mapping for the control
// answers, whether or not it responds to the gesture.
func Answers(control string, standing Layer, pages ...Layer) (mapping string, ok bool) {
	for _, p := range pages {
		if on, has := p[control]; has && on.Covers {
			return on.Mapping, true
		}
	}
	for _, l := range append([]Layer{standing}, pages...) {
		if on, has := l[control]; has {
			return on.Mapping, true
		}
	}
	return "", false
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
