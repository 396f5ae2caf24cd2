package engine

import (
	"slices"
	"time"
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

func (m *mirror) turnPages(ev pagesChanged) {
	row := ControllerRow{ev.controller, ev.profile, ev.zones, map[string]string{}}
	if c := m.snap.Controllers[ev.controller]; c != nil && c.Layout != nil {
		for id, control := range c.Controls {
			if a := m.snap.Answering(ev.profile, c.Layout.Type, control.Zone, id, ev.zones[control.Zone]); a != nil {
				row.Controls[id] = a.Source.ID
			}
		}
	}
	m.pages[ev.controller] = row
	m.hub.Publish("controller/"+ev.controller, []string{"controllers"}, row)
	m.live.Zones = slices.DeleteFunc(m.live.Zones, func(z KeptZone) bool { return z.Controller == ev.controller && z.Profile == ev.profile })
	m.live.Zones = append(m.live.Zones, ev.kept...)
	m.live.Profiles[ev.controller] = ev.profile
	m.unsaved = time.Now()
}

// saveLive stores what lives where it changed.
func (m *mirror) saveLive() {
	if m.unsaved.IsZero() || m.keepLive == nil {
		return
	}
	m.unsaved = time.Time{}
	m.keepLive(m.live)
}
