package program

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
)

// Output is a picture that somebody sees: the program of a mix effect, a picture output, a scene of the streaming software.
type Output struct {
	ID      string // in paths of Synaptor's own readings
	Key     reading.Key
	Changes string // the pattern of the readings that belong to it, as rights name them
}

// outputRoles are the roles of readings that are the picture of an output.
var outputRoles = []string{"program-picture", "output-picture"}

// Outputs lists those of the devices, as far as their readings are known.
func (p *Program) Outputs(known device.Known) (out []Output) {
	for _, d := range p.Show.Devices() {
		t := p.Devices[d.ID].Type
		if t == nil {
			continue
		}
		for _, path := range known.Paths(d.ID) {
			if def := t.Reading(path); def == nil || !slices.Contains(outputRoles, def.Role) {
				continue
			}
			out = append(out, Output{d.ID + "." + strings.ReplaceAll(path, "/", "."), reading.Key{Device: d.ID, Path: path}, d.ID + ":" + belonging(path)})
		}
	}
	return out
}

// belonging is the pattern of what belongs to the output that a reading is the picture of: all below its number.
func belonging(path string) string {
	if parts := strings.Split(path, "/"); len(parts) > 2 {
		return strings.Join(parts[:2], "/") + "/*"
	}
	return path
}

// OutputName is what an output is called.
func (p *Program) OutputName(o Output, known device.Known) string { return p.Title(o.Key, known) }

// Portrait is the device, and the source of its pictures, that the event of a device has named, as in audience:viewer-v3.
func (p *Program) Portrait(named string) (d *Device, source string, err error) {
	id, source, _ := strings.Cut(named, ":")
	d = p.Devices[id]
	if d == nil || d.Type == nil || !d.Type.NamesPicture(source) {
		return nil, "", fmt.Errorf("%q is no picture that a device of the show has; its events bring it, as in {event.picture}", named)
	}
	return d, source, nil
}
