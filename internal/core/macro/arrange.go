package macro

import (
	"slices"

	"synaptor/internal/core/show"
)

// Where a step can be moved by one.
const (
	Up   = "up"
	Down = "down"
	In   = "in"  // into the step above, as its last
	Out  = "out" // out of the step it is in, after that
)

// Spot is a place for a step: in a parent ("": the macro itself), as the step that has
// so many before it.
type Spot struct {
	Parent string `json:"parent"`
	At     int    `json:"at"`
}

// MayHold reports whether a kind of step may stand in another; "" is the macro itself.
func MayHold(parent, kind string) bool { return slices.Contains(holds[parent], kind) }

// MayStandIn lists the kinds of step that may stand in a kind of step.
func MayStandIn(kind string) []string {
	if !Holds(kind) {
		return []string{}
	}
	return holds[kind]
}

// Holds reports whether a kind of step has steps in it.
func Holds(kind string) bool { return holds[kind] != nil && kind != "" }

// Where tells where a step of a macro stands.
func Where(steps []*show.Step, id string) (at Spot, step *show.Step) {
	for _, s := range steps {
		if s.ID == id {
			return Spot{s.Parent, slices.Index(Within(steps, s.Parent), s)}, s
		}
	}
	return at, nil
}

// Within lists the steps in a parent, in order.
func Within(steps []*show.Step, parent string) (out []*show.Step) {
	for _, s := range steps {
		if s.Parent == parent {
			out = append(out, s)
		}
	}
	return out
}

// Next works out where a step goes that is moved by one. ok is false where it cannot
// go there.
func Next(steps []*show.Step, id, way string) (to Spot, ok bool) {
	at, step := Where(steps, id)
	if step == nil {
		return to, false
	}
	beside := Within(steps, at.Parent)
	kind := func(id string) string {
		if _, s := Where(steps, id); s != nil {
			return s.Kind
		}
		return ""
	}
	switch way {
	case Up:
		return Spot{at.Parent, at.At - 1}, at.At > 0
	case Down:
		return Spot{at.Parent, at.At + 1}, at.At < len(beside)-1
	case In:
		if at.At == 0 {
			return to, false
		}
		above := beside[at.At-1]
		if MayHold(above.Kind, step.Kind) {
			return Spot{above.ID, len(Within(steps, above.ID))}, true
		}
		// Into the last branch of what has branches.
		if branches := Within(steps, above.ID); len(branches) > 0 && MayHold(branches[len(branches)-1].Kind, step.Kind) {
			last := branches[len(branches)-1]
			return Spot{last.ID, len(Within(steps, last.ID))}, true
		}
		return to, false
	case Out:
		parent, p := Where(steps, at.Parent)
		for p != nil {
			if MayHold(kind(parent.Parent), step.Kind) {
				return Spot{parent.Parent, parent.At + 1}, true
			}
			parent, p = Where(steps, parent.Parent)
		}
	}
	return to, false
}

// After works out where a new step of a kind goes while a step is selected: into that
// where it may stand there and nothing does yet, else after it; outside of what it is in
// where that is asked for. Where its kind may not stand, it goes after what it would be
// in: a branch goes after the branch that the selection is in. Without a selection it
// goes to the end.
func After(steps []*show.Step, selected, kind string, outside bool) Spot {
	at, s := Where(steps, selected)
	if s != nil && !outside && MayHold(s.Kind, kind) && (kind == Branch || len(Within(steps, s.ID)) == 0) {
		return Spot{s.ID, len(Within(steps, s.ID))}
	}
	if s != nil && outside && s.Parent != "" {
		at, s = Where(steps, s.Parent)
	}
	for s != nil {
		up, parent := Where(steps, s.Parent)
		in := ""
		if parent != nil {
			in = parent.Kind
		}
		if MayHold(in, kind) {
			return Spot{at.Parent, at.At + 1}
		}
		at, s = up, parent
	}
	return Spot{"", len(Within(steps, ""))}
}

// Place gives the steps whose place changes when steps stand at a spot, in their order,
// with their new places. Steps that are in one of them stay in it.
func Place(steps []*show.Step, ids []string, to Spot) (changed []*show.Step) {
	var moved []*show.Step
	for _, id := range ids {
		if _, s := Where(steps, id); s != nil {
			moved = append(moved, s)
		}
	}
	stay := slices.DeleteFunc(Within(steps, to.Parent), func(s *show.Step) bool { return slices.Contains(moved, s) })
	for i, s := range slices.Insert(stay, min(max(to.At, 0), len(stay)), moved...) {
		if s.Parent != to.Parent || s.Position != i+1 {
			c := *s
			c.Parent, c.Position = to.Parent, i+1
			changed = append(changed, &c)
		}
	}
	return changed
}

// Under lists a step and all that is in it.
func Under(steps []*show.Step, id string) (out []*show.Step) {
	if _, s := Where(steps, id); s != nil {
		out = append(out, s)
	}
	for _, s := range Within(steps, id) {
		out = append(out, Under(steps, s.ID)...)
	}
	return out
}

// Shift works out which wait has a step come later, or earlier where by is negative:
// the one right before it gets so many milliseconds more, or a new one stands there;
// nothing is shorter than 0. What is in a together is shifted as a whole. at is where a
// new wait goes; ok is false where nothing can be shifted.
func Shift(steps []*show.Step, id string, by int) (wait *show.Step, at Spot, ms int, ok bool) {
	at, step := Where(steps, id)
	for step != nil {
		_, parent := Where(steps, step.Parent)
		if parent == nil || parent.Kind != Together {
			break
		}
		at, step = Where(steps, parent.ID)
	}
	if step == nil || by == 0 {
		return nil, at, 0, false
	}
	beside := Within(steps, at.Parent)
	if at.At > 0 && beside[at.At-1].Kind == Wait && beside[at.At-1].Frames == 0 {
		wait = beside[at.At-1]
		return wait, at, max(0, wait.Ms+by), true
	}
	return nil, at, by, by > 0
}
