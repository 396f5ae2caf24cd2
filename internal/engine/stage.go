package engine

import (
	"math/rand/v2"
	"slices"

	"synaptor/internal/core/face"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// stage is the world of a run.
type stage struct {
	facts
	e *Engine
}

// factsOf are what runs of a macro rest on now.
func (e *Engine) factsOf(m *Macro) facts {
	return facts{Known: world{e.table}, snap: e.snap, macro: m, drivers: e.cfg.Drivers, turn: func(step string) string { return e.turns[step] },
		latency: func(device, action string) reading.Stats {
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

// Holds implements macro.World.
func (s stage) Holds(condition string) bool { return macro.Met(condition, s) }

// Settled implements macro.World.
func (s stage) Settled(step *show.Step) bool {
	r := s.macro.Actions[step.ID]
	return r == nil || r.Bound == nil || !slices.ContainsFunc(r.Bound.Uses(), func(k reading.Key) bool { return s.Reading(k).Quality == reading.Pending })
}

// Turn implements macro.World. What is expected counts: a second press right after
// the first goes on from there.
func (s stage) Turn(n *macro.Node) (branch int, reason string, ok bool) {
	branch, reason, ok = macro.NextBranch(n, s.Last(n.ID), macro.InWorld(face.Expected(s)))
	if ok && branch < len(n.Children) {
		s.e.took(n.ID, n.Children[branch].ID)
	}
	return branch, reason, ok
}

// Chance implements macro.World.
func (s stage) Chance(n *macro.Node) int {
	i := macro.Choose(n, s.Last(n.ID), rand.New(rand.NewPCG(rand.Uint64(), rand.Uint64())))
	if i < len(n.Children) {
		s.e.took(n.ID, n.Children[i].ID)
	}
	return i
}

// took remembers the branch that a turns or a one of took.
func (e *Engine) took(step, branch string) {
	e.turns[step] = branch
	e.stream.push(turnTaken{step, branch})
	for id, m := range e.snap.Macros {
		if m.Turns != nil && m.Turns.ID == step {
			e.say("macro/"+id+"/branch", branch)
		}
	}
}

// branchNext tells whether the next press of a macro's turns takes a branch.
func (e *Engine) branchNext(r *Response, branch string) bool {
	mac := e.snap.RunsMacro(r)
	if mac == nil || mac.Turns == nil {
		return true
	}
	st := stage{e.factsOf(mac), e}
	i, _, ok := macro.NextBranch(mac.Turns, st.Last(mac.Turns.ID), macro.InWorld(face.Expected(st)))
	return !ok || i < len(mac.Turns.Children) && mac.Turns.Children[i].ID == branch
}
