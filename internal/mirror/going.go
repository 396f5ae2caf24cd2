package mirror

import (
	"maps"
	"slices"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
)

// Going is what goes on at a moment, in names.
type Going struct {
	OnAir []string `json:"onAir"` // headlines that say that something leaves the house: On air of Stream PC
	Runs  []string `json:"runs"`
	Talks []string `json:"talks"` // what a hand, or a latched key, has opened
}

// Any reports whether anything does.
func (g Going) Any() bool { return len(g.OnAir)+len(g.Runs)+len(g.Talks) > 0 }

// Going lists what goes on.
func (v *View) Going() Going {
	g := Going{OnAir: []string{}, Runs: []string{}, Talks: []string{}}
	w := noting{v, map[reading.Key]bool{}}
	for _, d := range v.Program.Show.Devices() {
		c := v.Program.Devices[d.ID]
		if c == nil || c.Type == nil || d.Parked {
			continue
		}
		for _, h := range headlines(c, w) {
			if h.Active && (h.Kind == "stream" || h.Kind == "record") {
				g.OnAir = append(g.OnAir, h.Title+", "+d.Name)
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(v.runs.all)) {
		if r := v.runs.all[id]; r.State == macro.Going && !r.Ended {
			g.Runs = append(g.Runs, r.Name)
		}
	}
	for _, c := range v.Program.Show.Controllers() {
		open := v.pages.get(c.ID).Open
		for _, control := range slices.Sorted(maps.Keys(open)) {
			g.Talks = append(g.Talks, open[control].Title)
		}
	}
	return g
}
