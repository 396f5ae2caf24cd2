package mirror

import (
	"slices"
	"time"

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
}

func (m *Mirror) turnPages(ev engine.PagesChanged) {
	row := ControllerRow{ev.Controller, ev.Profile, ev.Zones, map[string]string{}}
	if c := m.program.Controllers[ev.Controller]; c != nil && c.Layout != nil {
		for id, control := range c.Controls {
			if a := m.program.Answering(ev.Profile, c.Layout.Type, control.Zone, id, ev.Zones[control.Zone]); a != nil {
				row.Controls[id] = a.Source.ID
			}
		}
	}
	m.pages[ev.Controller] = row
	m.hub.Publish("controller/"+ev.Controller, []string{"controllers"}, row)
	m.live.Zones = slices.DeleteFunc(m.live.Zones, func(z engine.KeptZone) bool { return z.Controller == ev.Controller && z.Profile == ev.Profile })
	m.live.Zones = append(m.live.Zones, ev.Kept...)
	m.live.Profiles[ev.Controller] = ev.Profile
	m.unsaved = time.Now()
}

// saveLive stores what lives where it changed.
func (m *Mirror) saveLive() {
	if m.unsaved.IsZero() || m.keepLive == nil {
		return
	}
	m.unsaved = time.Time{}
	m.keepLive(m.live)
}
