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

// Unplaced lists the placements on controls that their layout does not have, or not
// in that zone: its sheet was made smaller while something was on them. They are
// kept, and answer again as soon as the sheet has the control.
func Unplaced(s *show.Show, layout func(string) *device.ControllerSheet) []Place {
	out := []Place{}
	zones := map[string]map[string]string{} // of the controls, by layout
	for _, m := range s.Mappings() {
		for _, at := range m.Placements {
			typ, zone := "", ""
			if at.Standing != nil {
				typ, zone = at.Standing.Layout, at.Standing.Zone
			} else if p := s.Page(at.Page); p != nil {
				typ, zone = p.Layout, p.Zone
			}
			has, seen := zones[typ]
			if !seen {
				if l := layout(typ); l != nil {
					has = map[string]string{}
					for _, c := range l.Controls() {
						has[c.ID] = c.Zone
					}
				}
				zones[typ] = has
			}
			// Where the whole sheet is missing, that is told elsewhere.
			if z, ok := has[at.Control]; has != nil && (!ok || z != zone) {
				out = append(out, Place{m.ID, at})
			}
		}
	}
	return out
}
