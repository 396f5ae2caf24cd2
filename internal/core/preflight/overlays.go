package preflight

import (
	"synaptor/internal/core/overlay"
	"synaptor/internal/core/show"
)

// Overlays finds what is wrong with what the audience reads on the picture. has tells whether the library has a picture; nil: that is not known.
func Overlays(sh *show.Show, has func(picture string) bool) (out []Finding) {
	for _, o := range sh.Overlays() {
		f := finder{subject: o.Ref()}
		if o.Kind == show.OverlayTimer && sh.Timer(o.Timer) == nil {
			f.add("overlay-empty", Caution, "timer", "The overlay %s shows a timer that there is no more.", o.Name)
		}
		if o.Kind == show.OverlayPicture && has != nil && !has(o.Picture) {
			f.add("overlay-empty", Caution, "picture", "The picture of the overlay %s is not in the library any more.", o.Name)
		}
		if overlay.Outside(o) {
			f.add("overlay-outside", Note, "", "The overlay %s begins or ends where not every screen shows it: the outer %d %% of the picture.", o.Name, overlay.Safe)
		}
		if overlay.Unreadable(o) {
			f.add("overlay-unreadable", Caution, "look", "The words of the overlay %s are lost on a light picture.", o.Name)
		}
		out = append(out, f.out...)
	}
	return out
}
