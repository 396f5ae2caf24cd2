package macro

import (
	"math/rand/v2"
	"slices"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Met reports whether a condition of a show holds in a world. One that cannot be
// understood does not.
func Met(condition string, w expr.World) bool {
	p, err := expr.Compile(condition, expr.Scope{})
	return err == nil && p.Holds(w)
}

// InWorld tells of conditions of a show whether they hold in a world, and whether
// anybody knows: they do not where one of their readings is unknown.
func InWorld(w expr.World) func(condition string) (holds, known bool) {
	return func(condition string) (holds, known bool) {
		p, err := expr.Compile(condition, expr.Scope{})
		if err != nil || slices.ContainsFunc(p.Deps, func(k reading.Key) bool { return w.Reading(k).Quality == reading.Unknown }) {
			return false, false
		}
		return p.Holds(w), true
	}
}

// follows tells whether the branches of a turns say when each of them is in force.
func follows(n *Node) bool {
	for _, b := range n.Children {
		if b.When != "" {
			return true
		}
	}
	return false
}

// NextBranch gives the branch of a turns that a press runs. Remembered turns go on
// from the last one, -1 at first. Following turns run the branch after the one in
// force, which holds tells, so that they cannot drift when somebody operates the
// device by hand: with none in force it is the first branch, with several the first
// of them counts; where a condition rests on what nobody knows, none can be told, and
// the reason says so.
func NextBranch(n *Node, last int, holds func(condition string) (holds, known bool)) (branch int, reason string, ok bool) {
	count := len(n.Children)
	if count == 0 {
		return 0, "These turns have no branch.", false
	}
	if !follows(n) {
		return (last + 1) % count, "", true
	}
	inForce, known := InForce(n, last, holds)
	if !known {
		return 0, "Nobody knows which of these turns is in force.", false
	}
	return (inForce + 1) % count, "", true
}

// InForce gives the branch of a turns that is in force, -1 where none is: of remembered
// turns the last one that was taken, of following ones the first whose condition holds.
// ok is false where a condition rests on what nobody knows.
func InForce(n *Node, last int, holds func(condition string) (holds, known bool)) (branch int, ok bool) {
	if !follows(n) {
		return last, true
	}
	branch = -1
	for i, b := range n.Children {
		if b.When == "" {
			continue
		}
		h, known := holds(b.When)
		if !known {
			return -1, false
		}
		if h && branch < 0 {
			branch = i
		}
	}
	return branch, true
}

// Choose gives a branch of a one of by chance, by the weights of its branches and
// never the same twice running; last is the one before, -1 at first.
func Choose(n *Node, last int, r *rand.Rand) int {
	total := 0
	weight := func(i int) int {
		if i == last && len(n.Children) > 1 {
			return 0
		}
		return max(1, n.Children[i].Weight)
	}
	for i := range n.Children {
		total += weight(i)
	}
	at := r.IntN(max(1, total))
	for i := range n.Children {
		if at -= weight(i); at < 0 {
			return i
		}
	}
	return 0
}
