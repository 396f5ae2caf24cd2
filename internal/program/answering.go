package program

import (
	"strings"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
)

// Zone lists the ids of the pages of a zone of a layout in a profile, in order.
func (n *Program) Zone(profile, layout, zone string) []string {
	var out []string
	for _, p := range n.Show.PagesFor(profile, layout, zone) {
		out = append(out, p.ID)
	}
	return out
}

// Answering finds the mapping that answers for a control while pages are shown;
// the first of them is asked first.
func (n *Program) Answering(profile, layout, zone, control string, pages []string) *Mapping {
	layers := make([]input.Layer, len(pages))
	for i, p := range pages {
		layers[i] = n.pages[p]
	}
	id, ok := input.Answers(control, n.standing[show.Standing{Profile: profile, Layout: layout, Zone: zone}], layers...)
	if !ok {
		return nil
	}
	return n.Mappings[id]
}

// On finds the mapping that answers for a control of one page.
func (n *Program) On(page *show.Page, control string) *Mapping {
	if page == nil {
		return nil
	}
	return n.Answering(page.Profile, page.Layout, page.Zone, control, []string{page.ID})
}

// OnPage is On for the controls of one page.
func (n *Program) OnPage(p *show.Page) func(control string) *Mapping {
	standing, own := n.standing[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}], n.pages[p.ID]
	return func(control string) *Mapping {
		id, ok := input.Answers(control, standing, own)
		if !ok {
			return nil
		}
		return n.Mappings[id]
	}
}

// AllOn gives the ids of the mappings that answer on a page, by control: its own
// and those that stand.
func (n *Program) AllOn(p *show.Page) map[string]string {
	out := map[string]string{}
	standing := n.standing[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}]
	for _, layer := range []input.Layer{n.pages[p.ID], standing} {
		for control := range layer {
			if m := n.On(p, control); m != nil {
				out[control] = m.Source.ID
			}
		}
	}
	return out
}

// Under lists the mappings of a topic of the live feed: page: and a page, or standing: and
// a profile.
func (n *Program) Under(topic string) (out []*Mapping) {
	kind, id, _ := strings.Cut(topic, ":")
	add := func(l input.Layer) {
		for _, placed := range l {
			if m := n.Mappings[placed.Mapping]; m != nil {
				out = append(out, m)
			}
		}
	}
	switch kind {
	case "page":
		add(n.pages[id])
	case "standing":
		for at, layer := range n.standing {
			if at.Profile == id {
				add(layer)
			}
		}
	}
	return out
}

// StandingOn gives the ids of the mappings that stand on a page, by control, whether or not something covers them.
func (n *Program) StandingOn(p *show.Page) map[string]string {
	out := map[string]string{}
	for control, at := range n.standing[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}] {
		out[control] = at.Mapping
	}
	return out
}
