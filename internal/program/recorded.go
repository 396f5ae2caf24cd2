package program

import (
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
)

// Recorded are the readings whose past is worth keeping: those that reflexes wait for or ask, that lamps and macros use, and those that macros change.
func (n *Program) Recorded() map[reading.Key]bool {
	out := map[reading.Key]bool{}
	add := func(keys []reading.Key) {
		for _, k := range keys {
			out[k] = true
		}
	}
	for _, r := range n.Reflexes.All {
		add(r.Uses())
		add(n.Writes(r))
	}
	for _, m := range n.Mappings {
		add(m.Deps)
	}
	for _, m := range n.Macros {
		add(m.Changes)
		add(m.deps)
		m.EachStep(func(_ *macro.Node, r *Response) {
			if r != nil && r.Bound != nil {
				add(r.Bound.Uses())
			}
		})
	}
	return out
}
