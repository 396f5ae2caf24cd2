package mirror

import (
	"strings"

	"synaptor/internal/core/reading"
)

// Untold names the readings that a device should have told and has not: those of its sheet that there is one of, and that it reports by itself.
func (v *View) Untold(device string) []string {
	out := []string{}
	d := v.Program.Devices[device]
	if d == nil || d.Type == nil {
		return out
	}
	for _, r := range d.Type.Sheet.Readings {
		if strings.Contains(r.Path, "{") || r.Assumed {
			continue
		}
		k := reading.Key{Device: device, Path: r.Path}
		if now := v.Reading(k); now.Quality == reading.Unknown && now.Value == nil {
			out = append(out, v.Title(k))
		}
	}
	return out
}
