package mirror

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// StillOn is a reading that is not as it is when a night is over.
type StillOn struct {
	Device     string    `json:"device"`
	DeviceName string    `json:"deviceName"`
	Path       string    `json:"path"`
	Title      string    `json:"title"`
	Still      string    `json:"still"` // how it is called: on air, open, lit
	Since      time.Time `json:"since"`
	// Off ends it; nil: Why says why that cannot be done from here.
	Off *OffAction `json:"off"`
	Why string     `json:"why,omitempty"`
}

// OffAction is what ends something.
type OffAction struct {
	Title  string            `json:"title"`
	Action string            `json:"action"`
	Params map[string]string `json:"params,omitempty"`
}

// StillOn lists what is not as it is when a night is over, in the order of the devices and their readings.
func (v *View) StillOn() []StillOn {
	out := []StillOn{}
	for _, d := range v.Program.Show.Devices() {
		c := v.Program.Devices[d.ID]
		if c == nil || c.Type == nil || d.Parked {
			continue
		}
		for _, path := range v.Paths(d.ID) {
			def := c.Type.Reading(path)
			if def == nil || def.Over == nil {
				continue
			}
			k := reading.Key{Device: d.ID, Path: path}
			now := v.Reading(k)
			if now.Value == nil || reading.Equal(now.Value, def.Over.Value, def.Tolerance) {
				continue
			}
			row := StillOn{Device: d.ID, DeviceName: d.Name, Path: path, Title: c.Type.SourceName(d.ID, path, v), Still: def.Over.Still, Since: now.Since}
			row.Off, row.Why = v.offOf(d, k, now, def.Over.Value)
			out = append(out, row)
		}
	}
	return out
}

// offOf is what gives a reading the value that it has when a night is over, or why nothing does.
func (v *View) offOf(d *show.Device, k reading.Key, now reading.Reading, over reading.Value) (*OffAction, string) {
	if now.Quality == reading.Unknown {
		return nil, d.Name + " is away: this is what it last said."
	}
	r, ok := v.Program.Setter(k, over, v)
	if !ok || r == nil || r.Bound == nil {
		return nil, d.Name + " has no way to end it from here."
	}
	return &OffAction{Title: r.Bound.Title.Text(v), Action: r.Call.Action, Params: r.Call.Params}, ""
}
