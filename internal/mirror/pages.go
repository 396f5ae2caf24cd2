package mirror

import (
	"slices"

	"synaptor/internal/engine"
)

// ControllerRow tells which pages a controller shows, as the live feed has it.
type ControllerRow struct {
	ID      string `json:"id"`
	Profile string `json:"profile"` // in force
	// Zones lists the pages by zone; the first is asked first, the last one is
	// the current one.
	Zones map[string][]string `json:"zones"`
	// Controls has the mapping that answers now, by control.
	Controls map[string]string `json:"controls"`
	// Open has the talks that controls have opened, by control.
	Open map[string]engine.OpenTalk `json:"open,omitempty"`
}

func (m *Mirror) turnPages(ev engine.PagesChanged) {
	row := ControllerRow{ev.Controller, ev.Profile, ev.Zones, map[string]string{}, ev.Open}
	if c := m.now.Program.Controllers[ev.Controller]; c != nil && c.Layout != nil {
		for id, control := range c.Controls {
			if a := m.now.Program.Answering(ev.Profile, c.Layout.Type, control.Zone, id, ev.Zones[control.Zone]); a != nil {
				row.Controls[id] = a.Source.ID
			}
		}
	}
	m.now.pages.set(ev.Controller, row)
	m.cfg.Hub.Publish("controller/"+ev.Controller, []string{"controllers"}, row)
	m.live.Zones = slices.DeleteFunc(m.live.Zones, func(z engine.KeptZone) bool { return z.Controller == ev.Controller && z.Profile == ev.Profile })
	m.live.Zones = append(m.live.Zones, ev.Kept...)
	m.live.Profiles[ev.Controller] = ev.Profile
	m.unsaved = true
}
