package reflex

import (
	"slices"
	"time"

	"synaptor/internal/core/reading"
)

// The breaker stops what fires more than this often within a while.
const (
	BreakAfter  = 20
	BreakWithin = 2 * time.Second
	// MaxDepth is how deep in a chain of causes a reflex may still fire.
	//
	//limit:count reflexes that have set each other off | in the journal, and at the reflex
	MaxDepth = 8
)

// Breaker notices what fires too often.
type Breaker struct{ times []time.Time }

// Fired notes a firing, and reports whether it was one too many.
func (b *Breaker) Fired(at time.Time) (breaks bool) {
	b.times = slices.DeleteFunc(b.times, func(t time.Time) bool { return at.Sub(t) >= BreakWithin })
	b.times = append(b.times, at)
	return len(b.times) > BreakAfter
}

// Node is a reflex as far as it can set others off: what it reads, and what it can write.
type Node struct {
	ID            string
	Reads, Writes []reading.Key
}

// Loops lists the circles in which reflexes can set each other off, each once, from its first one in the list on; one that sets itself off is a circle
// too.
func Loops(nodes []Node) (out [][]string) {
	sets := setOff(nodes)
	looks := 0
	for start := range nodes {
		if len(out) >= maxLoops || looks >= maxLooks {
			break
		}
		if len(sets[start]) == 0 {
			continue
		}
		back := distances(sets, start, &looks)
		var path []int
		var walk func(int)
		walk = func(n int) {
			if len(out) >= maxLoops || looks >= maxLooks {
				return
			}
			path = append(path, n)
			defer func() { path = path[:len(path)-1] }()
			for _, next := range sets[n] {
				looks++
				switch home, can := back[next]; {
				case next == start:
					var names []string
					for _, p := range path {
						names = append(names, nodes[p].ID)
					}
					out = append(out, names)
				case can && len(path)+home <= MaxDepth && !slices.Contains(path, next):
					walk(next)
				}
			}
		}
		walk(start)
	}
	return out
}

// distances gives how many reflexes each one is away from setting a start off, as far as that could be a circle; those before the start have their
// circles already.
func distances(sets [][]int, start int, looks *int) map[int]int {
	by := map[int][]int{}
	for n := start; n < len(sets); n++ {
		for _, next := range sets[n] {
			*looks++
			if next >= start {
				by[next] = append(by[next], n)
			}
		}
	}
	out, edge := map[int]int{}, []int{start}
	for far := 1; far < MaxDepth && len(edge) > 0 && *looks < maxLooks; far++ {
		var further []int
		for _, n := range edge {
			for _, before := range by[n] {
				*looks++
				if _, known := out[before]; !known && before != start {
					out[before] = far
					further = append(further, before)
				}
			}
		}
		edge = further
	}
	return out
}

// setOff gives, by the number of each node, those that it can set off, in their order, as far as a circle can go through both.
func setOff(nodes []Node) [][]int {
	readers := map[reading.Key][]int{}
	for j, b := range nodes {
		for _, k := range b.Reads {
			readers[k] = append(readers[k], j)
		}
	}
	sets, by := make([][]int, len(nodes)), make([]int, len(nodes)) // by counts those that can set it off
	for i, a := range nodes {
		for _, k := range a.Writes {
			sets[i] = append(sets[i], readers[k]...)
		}
		slices.Sort(sets[i])
		sets[i] = slices.Compact(sets[i])
		for _, j := range sets[i] {
			by[j]++
		}
	}
	// What nothing sets off is in no circle, and neither is what only that sets off.
	var free []int
	for j, n := range by {
		if n == 0 {
			free = append(free, j)
		}
	}
	for len(free) > 0 {
		i := free[0]
		free = free[1:]
		for _, j := range sets[i] {
			if by[j]--; by[j] == 0 {
				free = append(free, j)
			}
		}
		sets[i] = nil
	}
	return sets
}

// maxLoops is how many circles are named.
//
//limit:count circles of reflexes that are named | nowhere; the others are not named
const maxLoops = 50

// maxLooks is how many steps circles are looked for.
//
//limit:count steps in which circles of reflexes are looked for | nowhere; those that were found by then are named
const maxLooks = 5_000_000
