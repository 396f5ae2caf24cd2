package engine

import (
	"math/rand/v2"
	"slices"

	"synaptor/internal/core/face"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// runWorld is the world of a run.
type runWorld struct {
	plan.Facts
	e *Engine
}

// factsOf are what runs of a macro rest on now.
func (e *Engine) factsOf(m *program.Macro) plan.Facts {
	return plan.Facts{Known: e.table, Program: e.program, Macro: m, Taken: func(step string) string { return e.branches[step] },
		Stats: func(device, action string) reading.Stats {
			rt := e.devices[device]
			if rt == nil {
				return reading.Stats{}
			}
			if action == "" {
				return rt.stats
			}
			return rt.statsOf(action)
		}}
}

// Event implements expr.Eventful.
func (s runWorld) Event() map[string]any { return s.e.during.event }

// Holds implements macro.World.
func (s runWorld) Holds(condition string) bool { return macro.Met(condition, s) }

// Settled implements macro.World.
func (s runWorld) Settled(step *show.Step) bool {
	r := s.Macro.Actions[step.ID]
	return r == nil || r.Bound == nil || !slices.ContainsFunc(r.Bound.Uses(), func(k reading.Key) bool {
		return s.Reading(k).Quality == reading.Pending || s.e.inFade(k)
	})
}

// Turn implements macro.World. What is expected counts: a second press right after
// the first goes on from there.
func (s runWorld) Turn(n *macro.Node) (branch int, reason string, ok bool) {
	branch, reason, ok = macro.NextBranch(n, s.Last(n.ID), macro.InWorld(face.Expected(s)))
	if ok && branch < len(n.Children) {
		s.e.rememberBranch(n.ID, n.Children[branch].ID)
	}
	return branch, reason, ok
}

// Chance implements macro.World.
func (s runWorld) Chance(n *macro.Node) int {
	i := macro.Choose(n, s.Last(n.ID), rand.New(rand.NewPCG(rand.Uint64(), rand.Uint64())))
	if i < len(n.Children) {
		s.e.rememberBranch(n.ID, n.Children[i].ID)
	}
	return i
}

// rememberBranch remembers the branch that a turns or a one of took.
func (e *Engine) rememberBranch(step, branch string) {
	e.branches[step] = branch
	e.stream.push(BranchTaken{step, branch})
	for id, m := range e.program.Macros {
		if m.Turns != nil && m.Turns.ID == step {
			e.reportOwn("macro/"+id+"/branch", branch)
		}
	}
}

// branchNext tells whether the next press of a macro's turns takes a branch.
func (e *Engine) branchNext(r *program.Response, branch string) bool {
	mac := e.program.RunsMacro(r)
	if mac == nil || mac.Turns == nil {
		return true
	}
	st := runWorld{e.factsOf(mac), e}
	i, _, ok := macro.NextBranch(mac.Turns, st.Last(mac.Turns.ID), macro.InWorld(face.Expected(st)))
	return !ok || i < len(mac.Turns.Children) && mac.Turns.Children[i].ID == branch
}
