package engine

import (
	"synaptor/internal/core/macro"
	"synaptor/internal/program"
)

// restorableCause is the cause of a press, which can be put back for a while.
func (e *Engine) restorableCause(in Input, mapping string, r *program.Response) cause {
	p := &restorable{entry: in.Entry, at: in.At, resp: r, bases: macro.Baselines{}}
	e.keepRestorable(p)
	return cause{mapping: mapping, runs: []int{0}, bases: p.bases, call: &r.Call}
}
