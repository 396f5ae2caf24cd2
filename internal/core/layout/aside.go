package layout

import (
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// Place is where a mapping is placed.
type Place struct {
	Mapping string `json:"mapping"`
	show.Placement
}

// Aside lists the placements on controls that their layout does not have, or not
// in that zone: its sheet was made smaller while something was on them. They are
// kept, and answer again as soon as the sheet has the control.
func Aside(s *show.Show, layout func(string) *device.ControllerSheet) []Place {
	out := []Place{}
	for _, m := range s.Mappings() {
		for _, at := range m.Placements {
			typ, zone := "", ""
			if at.Standing != nil {
				typ, zone = at.Standing.Layout, at.Standing.Zone
			} else if p := s.Page(at.Page); p != nil {
				typ, zone = p.Layout, p.Zone
			}
			l := layout(typ)
			if l == nil {
				continue // the whole sheet is missing, which is told elsewhere
			}
			if c, ok := l.Control(at.Control); !ok || c.Zone != zone {
				out = append(out, Place{m.ID, at})
			}
		}
	}
	return out
}
