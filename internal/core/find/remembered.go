package find

import "synaptor/internal/core/device"

// remembered is what is known, with the paths of a device sorted once.
type remembered struct {
	device.Known
	paths map[string][]string
}

// Paths implements device.Known.
func (r *remembered) Paths(id string) []string {
	if p, ok := r.paths[id]; ok {
		return p
	}
	p := r.Known.Paths(id)
	r.paths[id] = p
	return p
}
