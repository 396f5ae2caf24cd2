// Package macro works out what a macro does and when: the tree of its steps, the
// plan with the time of every dispatch and effect, and what is wrong with it.
package macro

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/show"
)

// The kinds of step.
const (
	Do       = "do"       // an action
	Wait     = "wait"     // a time
	WaitFor  = "wait-for" // until a condition holds
	Together = "together" // its children, so that their effects start at once
	Fade     = "fade"     // a number from where it is to where it shall be, over a time
	If       = "if"       // its first branch whose condition holds
	Turns    = "turns"    // its branches in turn
	OneOf    = "one-of"   // one of its branches, by chance
	Branch   = "branch"   // of an if, turns or one of
	Run      = "run"      // another macro
	PutBack  = "put-back" // what the macro has changed, as it was
	Repeat   = "repeat"   // its children, a number of times
)

// holds says which kinds of step may be in which; "" is the macro itself.
var holds = func() map[string][]string {
	steps := []string{Do, Wait, WaitFor, Together, Fade, If, Turns, OneOf, Run, PutBack, Repeat}
	return map[string][]string{"": steps, Branch: steps, Repeat: steps, Together: {Do, Fade}, If: {Branch}, Turns: {Branch}, OneOf: {Branch}}
}()

// MaxCount is how often a repeat may repeat, MaxSteps how many steps a macro may
// have once the macros it runs are in it.
const (
	//limit:count repetitions of a repeat | at the field
	MaxCount = 100
	//limit:count steps of a macro with its repeats and the macros it runs | at the step
	MaxSteps = show.MaxSteps
)

// Node is a step with those in it, in order. Steps that are switched off are left
// out.
type Node struct {
	*show.Step
	Children []*Node
	// Nested is the tree of the macro that a run starts.
	Nested *Tree
}

// Tree is a macro with its steps, and the macros it runs in their places.
type Tree struct {
	Macro *show.Macro
	Steps []*Node
	// Problems are the steps that were left out because they cannot be run.
	Problems []*Error
	count    int
}

// Error says what keeps a macro from being run, and at which step.
type Error struct {
	Step string // empty: the macro as a whole
	Text string
	// Circle says that macros run each other in a circle.
	Circle bool
}

// Error implements error.
func (e *Error) Error() string { return e.Text }

// Build makes the tree of a macro. It fails with an *Error: the macro is not
// there, a step is where it cannot be or is not complete, or macros run each other in a
// circle, which is named. What is only a matter of single steps leaves them out, and
// the rest of the tree is there all the same, to be looked at. A macro that is run in
// several places is built once, so what it takes grows with the number of steps there
// are, and not with how often they run each other.
func Build(s *show.Show, id string) (*Tree, error) {
	b := &builder{show: s, built: map[string]built{}}
	return b.build(id)
}

// builder makes trees of the macros of a show.
type builder struct {
	show   *show.Show
	built  map[string]built
	within []*show.Macro // those that are being built, the outermost first
}

// built is what came of a macro.
type built struct {
	tree *Tree
	err  error
}

func (b *builder) build(id string) (*Tree, error) {
	if done, ok := b.built[id]; ok {
		return done.tree, done.err
	}
	m := b.show.Macro(id)
	if m == nil {
		return nil, &Error{Text: "This macro does not exist any more."}
	}
	if at := slices.Index(b.within, m); at >= 0 {
		var names []string
		for _, o := range append(slices.Clip(b.within[at:]), m) {
			names = append(names, o.Name)
		}
		return nil, &Error{Circle: true, Text: "These macros run each other in a circle: " + strings.Join(names, " → ") + "."}
	}
	b.within = append(b.within, m)
	tree, err := b.tree(m)
	b.within = b.within[:len(b.within)-1]
	b.built[id] = built{tree, err}
	return tree, err
}

func (b *builder) tree(m *show.Macro) (*Tree, error) {
	t := &Tree{Macro: m}
	byParent := map[string][]*show.Step{}
	for _, step := range b.show.StepsOf(m.ID) {
		byParent[step.Parent] = append(byParent[step.Parent], step)
	}
	var err error
	if t.Steps, err = b.nodes(t, byParent, "", "", 1); err != nil {
		return nil, err
	}
	if len(t.Problems) > 0 {
		return t, t.Problems[0]
	}
	return t, nil
}

// nodes makes the nodes of the steps in a parent, which are run so many times.
func (b *builder) nodes(t *Tree, byParent map[string][]*show.Step, parent, kind string, times int) (out []*Node, err error) {
	for _, step := range byParent[parent] {
		if step.Off {
			continue
		}
		if err := t.add(step, times); err != nil {
			return nil, err
		}
		if !slices.Contains(holds[kind], step.Kind) {
			t.Problems = append(t.Problems, &Error{Step: step.ID, Text: misplaced(step.Kind, kind)})
			continue
		}
		if text := check(step); text != "" {
			t.Problems = append(t.Problems, &Error{Step: step.ID, Text: text})
			continue
		}
		n := &Node{Step: step}
		inside := times
		if step.Kind == Repeat {
			inside = min(inside*step.Count, MaxSteps+1)
		}
		if n.Children, err = b.nodes(t, byParent, step.ID, step.Kind, inside); err != nil {
			return nil, err
		}
		if step.Kind == Run {
			ok, err := b.nest(t, n, times)
			if err != nil {
				return nil, err
			}
			if !ok {
				continue
			}
		}
		out = append(out, n)
	}
	return out, nil
}

// nest puts the macro that a step runs into it; false where that has a problem. It fails
// where macros run each other in a circle, or there are too many steps.
func (b *builder) nest(t *Tree, n *Node, times int) (bool, error) {
	nested, err := b.build(n.Run)
	var e *Error
	if errors.As(err, &e) && e.Circle {
		return false, &Error{Step: n.ID, Text: e.Text, Circle: true}
	}
	if err != nil {
		t.Problems = append(t.Problems, &Error{Step: n.ID, Text: err.Error()})
		return false, nil
	}
	n.Nested = nested
	return true, t.add(n.Step, min(times*nested.count, MaxSteps+1))
}

// add counts steps; it fails where there are too many.
func (t *Tree) add(step *show.Step, count int) error {
	if t.count += count; t.count > MaxSteps {
		return &Error{Step: step.ID, Text: fmt.Sprintf("This macro runs more than %d steps, with its repeats and the macros it runs.", MaxSteps)}
	}
	return nil
}

func misplaced(kind, in string) string {
	switch {
	case in == Together:
		return "Only actions and fades can be together: their effects start at the same moment."
	case kind == Branch || in == If || in == Turns || in == OneOf:
		return "Steps of an if, of turns and of a one of stand in its branches."
	}
	return fmt.Sprintf("A %s cannot be here.", strings.ReplaceAll(kind, "-", " "))
}

// check says what is wrong with a step by itself, or "".
func check(s *show.Step) string {
	switch {
	case (s.Kind == Do || s.Kind == Fade) && s.Action == nil:
		return "This step has no action yet."
	case s.Ms < 0 || s.Frames < 0 || s.LimitMs < 0:
		return "A time cannot be negative."
	case s.Kind == WaitFor && s.When == "":
		return "Say what is waited for."
	case s.Kind == WaitFor && s.LimitMs == 0:
		return "Say how long it may take at most; what is waited for may never come."
	case s.Kind == Repeat && (s.Count < 1 || s.Count > MaxCount):
		return fmt.Sprintf("A repeat repeats 1 to %d times.", MaxCount)
	case s.Weight < 0:
		return "A weight is 0 or more."
	}
	return ""
}

// Duration is the time of a wait or a fade at a frame rate.
func Duration(s *show.Step, frameRate float64) time.Duration {
	if s.Frames > 0 && frameRate > 0 {
		return time.Duration(s.Frames / frameRate * float64(time.Second))
	}
	return time.Duration(s.Ms) * time.Millisecond
}
