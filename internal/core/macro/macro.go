// Package macro works out what a macro does and when: the tree of its steps, the
// plan with the time of every dispatch and effect, and what is wrong with it.
package macro

import (
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
	MaxCount = 100
	MaxSteps = 2000
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
}

// Error implements error.
func (e *Error) Error() string { return e.Text }

// Build makes the tree of a macro. It fails with an *Error: the macro is not
// there, a step is where it cannot be or is not complete, or macros run each other in a
// circle, which is named. What is only a matter of single steps leaves them out, and
// the rest of the tree is there all the same, to be looked at.
func Build(s *show.Show, id string) (*Tree, error) { return build(s, id, nil) }

func build(s *show.Show, id string, within []*show.Macro) (*Tree, error) {
	m := s.Macro(id)
	if m == nil {
		return nil, &Error{Text: "This macro does not exist any more."}
	}
	if at := slices.Index(within, m); at >= 0 {
		var names []string
		for _, o := range append(within[at:], m) {
			names = append(names, o.Name)
		}
		return nil, &Error{Text: "These macros run each other in a circle: " + strings.Join(names, " → ") + "."}
	}
	t := &Tree{Macro: m}
	byParent := map[string][]*show.Step{}
	for _, step := range s.StepsOf(id) {
		byParent[step.Parent] = append(byParent[step.Parent], step)
	}
	var err error
	if t.Steps, err = t.nodes(s, byParent, "", "", 1, append(slices.Clip(within), m)); err != nil {
		return nil, err
	}
	if len(t.Problems) > 0 {
		return t, t.Problems[0]
	}
	return t, nil
}

// nodes makes the nodes of the steps in a parent, which are run so many times.
func (t *Tree) nodes(s *show.Show, byParent map[string][]*show.Step, parent, kind string, times int, within []*show.Macro) (out []*Node, err error) {
	for _, step := range byParent[parent] {
		if step.Off {
			continue
		}
		if t.count += times; t.count > MaxSteps {
			return nil, &Error{step.ID, fmt.Sprintf("This macro runs more than %d steps, with its repeats and the macros it runs.", MaxSteps)}
		}
		if !slices.Contains(holds[kind], step.Kind) {
			t.Problems = append(t.Problems, &Error{step.ID, misplaced(step.Kind, kind)})
			continue
		}
		if text := check(step); text != "" {
			t.Problems = append(t.Problems, &Error{step.ID, text})
			continue
		}
		n := &Node{Step: step}
		inside := times
		if step.Kind == Repeat {
			inside *= step.Count
		}
		if n.Children, err = t.nodes(s, byParent, step.ID, step.Kind, inside, within); err != nil {
			return nil, err
		}
		if step.Kind == Run {
			if n.Nested, err = build(s, step.Run, within); n.Nested == nil && strings.Contains(err.Error(), "in a circle") {
				return nil, &Error{step.ID, err.Error()}
			} else if err != nil {
				t.Problems = append(t.Problems, &Error{step.ID, err.Error()})
				continue
			}
			t.count += times * n.Nested.count
		}
		out = append(out, n)
	}
	return out, nil
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
