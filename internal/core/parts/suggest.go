package parts

import (
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// StandIns lists the devices here that can stand in for each device of another show: those of its type.
func StandIns(now, other *show.Show) map[string][]string {
	out := map[string][]string{}
	for _, d := range other.Devices() {
		out[d.ID] = []string{}
		for _, here := range now.Devices() {
			if here.Type == d.Type {
				out[d.ID] = append(out[d.ID], here.ID)
			}
		}
	}
	return out
}

// Suggest proposes which device here stands in for each device of another show: the one with the same id or name, else the only
// one of its type. Where there is none, it comes along.
func Suggest(now, other *show.Show) map[string]string {
	out := map[string]string{}
	for id, can := range StandIns(now, other) {
		was := other.Device(id)
		same := slices.IndexFunc(can, func(o string) bool { return o == id || strings.EqualFold(now.Device(o).Name, was.Name) })
		switch {
		case same >= 0:
			out[id] = can[same]
		case len(can) == 1:
			out[id] = can[0]
		}
	}
	return out
}

// SuggestControllers proposes which controller here shows the pages of each controller of another show: the one with the same id or
// name, else the first with its layout, else the only one there is. Where there is none, it comes along.
func SuggestControllers(now, other *show.Show) map[string]string {
	out, here := map[string]string{}, now.Controllers()
	for _, was := range other.Controllers() {
		for _, fits := range []func(*show.Controller) bool{
			func(c *show.Controller) bool { return c.ID == was.ID || strings.EqualFold(c.Name, was.Name) },
			func(c *show.Controller) bool { return c.Layout == was.Layout },
			func(*show.Controller) bool { return len(here) == 1 },
		} {
			if i := slices.IndexFunc(here, fits); i >= 0 {
				out[was.ID] = here[i].ID
				break
			}
		}
	}
	return out
}
