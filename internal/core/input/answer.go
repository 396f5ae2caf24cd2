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

// Layers gives the layers of all pages, and of what stands. Those of pages on which
// nothing changed since an earlier show are taken over from its.
func Layers(s, earlier *show.Show, pages map[string]Layer, standing map[show.Standing]Layer) (map[string]Layer, map[show.Standing]Layer) {
	on, stands := s.Placed()
	var wasOn map[string]*show.Spots
	var stood map[show.Standing]*show.Spots
	if earlier != nil {
		wasOn, stood = earlier.Placed()
	}
	return layersOf(on, wasOn, pages), layersOf(stands, stood, standing)
}

func layersOf[K comparable](now, before map[K]*show.Spots, layers map[K]Layer) map[K]Layer {
	out := make(map[K]Layer, len(now))
	for at, spots := range now {
		if l, ok := layers[at]; ok && before[at] == spots {
			out[at] = l
			continue
		}
		l := Layer{}
		for control, m := range spots.At {
			p := Placed{Mapping: m.ID}
			for _, o := range m.Placements {
				p.Covers = p.Covers || o.Covers && o.Control == control && any(at) == any(o.Page)
			}
			l[control] = p
		}
		out[at] = l
	}
	return out
}
