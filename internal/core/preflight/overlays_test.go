package preflight

import (
	"slices"
	"testing"

	"synaptor/internal/core/show"
)

// TestOverlaysAreLookedThrough: what must be found of each, and what must not.
func TestOverlaysAreLookedThrough(t *testing.T) {
	good := show.Overlay{ID: "o", Name: "Corner clock", Kind: show.OverlayTimer, X: 78, Y: 6, Width: 16, Size: 5, Align: "right", Look: "edged", Timer: "peak"}
	for name, c := range map[string]struct {
		change func(o *show.Overlay)
		want   []string
	}{
		"all is well":             {func(*show.Overlay) {}, nil},
		"its timer is gone":       {func(o *show.Overlay) { o.Timer = "gone" }, []string{"overlay-empty"}},
		"its picture is gone":     {func(o *show.Overlay) { o.Kind, o.Picture = show.OverlayPicture, "gone" }, []string{"overlay-empty"}},
		"it reaches over an edge": {func(o *show.Overlay) { o.X = 90 }, []string{"overlay-outside"}},
		"it begins at an edge":    {func(o *show.Overlay) { o.Y = 2 }, []string{"overlay-outside"}},
		"white on white":          {func(o *show.Overlay) { o.Look = "plain" }, []string{"overlay-unreadable"}},
		"a plain picture":         {func(o *show.Overlay) { o.Kind, o.Picture, o.Look = show.OverlayPicture, "here", "plain" }, nil},
	} {
		d := show.NewDraft(show.Empty())
		d.Put(&show.Timer{ID: "peak", Name: "Peak of the shower", Kind: "up"})
		o := good
		c.change(&o)
		d.Put(&o)
		var got []string
		for _, f := range Overlays(d.Now(), func(id string) bool { return id == "here" }) {
			got = append(got, f.ID)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: found are %v, want %v", name, got, c.want)
		}
	}
}
