package macro

import (
	"math/rand/v2"
	"testing"

	"synaptor/internal/core/show"
)

func branchesOf(conditions ...string) *Node {
	n := &Node{Step: &show.Step{Kind: Turns}}
	for _, c := range conditions {
		n.Children = append(n.Children, &Node{Step: &show.Step{Kind: Branch, When: c}})
	}
	return n
}

func TestTurnsGoOnFromWhatIsInForce(t *testing.T) {
	for _, c := range []struct {
		name  string
		n     *Node
		last  int
		holds map[string]bool // a condition that is not in it rests on what nobody knows
		want  int
		ok    bool
	}{
		{"remembered, at first", branchesOf("", "", ""), -1, nil, 0, true},
		{"remembered", branchesOf("", "", ""), 1, nil, 2, true},
		{"remembered, round", branchesOf("", "", ""), 2, nil, 0, true},
		{"following", branchesOf("a", "b", "c"), 0, map[string]bool{"a": false, "b": true, "c": false}, 2, true},
		{"the last is in force", branchesOf("a", "b"), 0, map[string]bool{"a": false, "b": true}, 0, true},
		{"none is in force", branchesOf("a", "b"), 1, map[string]bool{"a": false, "b": false}, 0, true},
		{"several are", branchesOf("a", "b", "c"), 0, map[string]bool{"a": true, "b": true, "c": true}, 1, true},
		{"one is not known", branchesOf("a", "b"), 0, map[string]bool{"a": true}, 0, false},
		{"one says nothing", branchesOf("a", ""), 0, map[string]bool{"a": true}, 1, true},
		{"no branches", branchesOf(), 0, nil, 0, false},
	} {
		got, reason, ok := NextBranch(c.n, c.last, func(s string) (bool, bool) { h, known := c.holds[s]; return h, known })
		if ok != c.ok || ok && got != c.want || !ok && reason == "" {
			t.Errorf("%s: %d %q %v", c.name, got, reason, ok)
		}
	}
}

func TestChanceFollowsTheWeightsAndNeverRepeats(t *testing.T) {
	n := branchesOf("", "", "")
	n.Children[2].Weight = 6
	r := rand.New(rand.NewPCG(3, 3))
	counts, last := [3]int{}, -1
	for range 6000 {
		i := Choose(n, last, r)
		if i == last {
			t.Fatal("the same twice running")
		}
		counts[i]++
		last = i
	}
	// With the heavy one every other time, the light ones share the rest.
	if counts[2] < 2500 || counts[0] < 900 || counts[1] < 900 {
		t.Errorf("chosen %v", counts)
	}
	if only := branchesOf(""); Choose(only, 0, r) != 0 {
		t.Error("the only branch is not chosen again")
	}
}
