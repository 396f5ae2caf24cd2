package layout

import (
	"math"
	"slices"

	"synaptor/internal/core/device"
)

// Step takes what is on one control to another.
type Step struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// near is how far, in keys, a control may be from where it is wanted.
const near = 0.35

// Shift plans how a selection goes elsewhere: its control anchor goes to the
// control at, the others keep their places beside it. Controls that would leave
// the drawing are in left. On a layout of another shape, where the places mean
// nothing, the selection fills the controls from at on, one after the other. No
// two controls go to the same one.
func Shift(from []device.Control, selection []string, anchor string, to []device.Control, at string, sameShape bool) (steps []Step, left []string) {
	find := func(list []device.Control, id string) (device.Control, bool) {
		i := slices.IndexFunc(list, func(c device.Control) bool { return c.ID == id })
		if i < 0 {
			return device.Control{}, false
		}
		return list[i], true
	}
	a, ok1 := find(from, anchor)
	b, ok2 := find(to, at)
	if !ok1 || !ok2 {
		return nil, selection
	}
	// In the order of the layout, whatever order they were selected in.
	var chosen []device.Control
	for _, c := range from {
		if slices.Contains(selection, c.ID) || c.ID == anchor {
			chosen = append(chosen, c)
		}
	}
	if !sameShape {
		return inOrder(chosen, to, b)
	}
	taken := map[string]bool{}
	for _, c := range chosen {
		x, y := middle(c)
		ax, ay := middle(a)
		bx, by := middle(b)
		goal := slices.IndexFunc(to, func(o device.Control) bool {
			ox, oy := middle(o)
			return !taken[o.ID] && o.Zone == b.Zone && math.Hypot(ox-(bx+x-ax), oy-(by+y-ay)) < near
		})
		if goal < 0 {
			left = append(left, c.ID)
			continue
		}
		taken[to[goal].ID] = true
		steps = append(steps, Step{c.ID, to[goal].ID})
	}
	return steps, left
}

// inOrder fills the controls of a zone from one on.
func inOrder(chosen, to []device.Control, first device.Control) (steps []Step, left []string) {
	i := slices.IndexFunc(to, func(c device.Control) bool { return c.ID == first.ID })
	for _, c := range chosen {
		for i < len(to) && to[i].Zone != first.Zone {
			i++
		}
		if i == len(to) {
			left = append(left, c.ID)
			continue
		}
		steps = append(steps, Step{c.ID, to[i].ID})
		i++
	}
	return steps, left
}

func middle(c device.Control) (x, y float64) { return c.X + c.Width/2, c.Y + c.Height/2 }

// Displaced says where what is in the way of a move goes when it is to swap
// places: to the controls that the move leaves free, in order. used tells which
// controls hold something.
func Displaced(steps []Step, used func(string) bool) []Step {
	moved, goals := map[string]bool{}, map[string]bool{}
	for _, s := range steps {
		moved[s.From], goals[s.To] = true, true
	}
	var free []string
	for _, s := range steps {
		if !goals[s.From] {
			free = append(free, s.From)
		}
	}
	var out []Step
	for _, s := range steps {
		if moved[s.To] || !used(s.To) || len(free) == 0 {
			continue
		}
		out = append(out, Step{s.To, free[0]})
		free = free[1:]
	}
	return out
}
