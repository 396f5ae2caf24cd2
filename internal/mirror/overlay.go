package mirror

import (
	"synaptor/internal/core/overlay"
	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// overlayPage remembers which readings the page of the overlays rests on.
type overlayPage struct{ keys map[reading.Key]bool }

func (o *overlayPage) uses(k reading.Key) bool { return o.keys[k] }

// publishOverlays hands what the audience reads to the pages that are open.
func (m *Mirror) publishOverlays() {
	w := noting{&m.now, map[reading.Key]bool{}}
	page := overlay.Of(m.now.Program.Show, w, program.SelfID)
	m.overlay.keys = w.keys
	m.cfg.Hub.Publish("overlay", []string{"overlay"}, page)
}

// Overlays is what the audience reads now.
func (v *View) Overlays() overlay.Page { return overlay.Of(v.Program.Show, v, program.SelfID) }

// PortraitURL is where a device has the picture of who has said what an overlay shows; ok is false where it has none, and where it is parked.
func (v *View) PortraitURL(named string) (url string, ok bool) {
	d, source, err := v.Program.Portrait(named)
	if err != nil || d.Parked {
		return "", false
	}
	return d.Type.Picture(source, d.ID, d.Host, d.Port, v)
}
