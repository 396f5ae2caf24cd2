package show

import (
	"cmp"
	"sync"
)

// Macro is a list of steps that one gesture starts.
type Macro struct {
	ID       string `json:"id"`
	Slug     string `json:"slug"`
	Name     string `json:"name"`
	Group    string `json:"group,omitempty"`
	Position int    `json:"position"`
	// SpacingMs lies between the dispatch of one step and the next.
	SpacingMs int `json:"spacingMs,omitempty"`
	// Again is what a second press does while it runs: finish (which is usual),
	// restart, stop, queue or both.
	Again string `json:"again,omitempty"`
	// OnError is what an error does: stop (which is usual), go-on or put-back.
	OnError string `json:"onError,omitempty"`
	LimitMs int    `json:"limitMs,omitempty"` // 0: none
	// Partly runs what can run where a step cannot be sent; else nothing runs then.
	Partly bool `json:"partly,omitempty"`
}

// Step is one step of a macro, or a branch of one: steps of their own, so that
// edits of different steps do not meet.
type Step struct {
	ID    string `json:"id"`
	Macro string `json:"macro"`
	// Parent is the step it is in: a together, a branch, a repeat; empty: none.
	Parent   string `json:"parent,omitempty"`
	Position int    `json:"position"`
	Kind     string `json:"kind"`
	Name     string `json:"name,omitempty"`
	Note     string `json:"note,omitempty"`
	Off      bool   `json:"off,omitempty"`

	Action *Call `json:"action,omitempty"` // of do and fade
	// Ms is how long a wait or a fade takes; Frames counts where it is not 0.
	Ms int `json:"ms,omitempty"`
	// GapMs is how long nothing of the macro follows a step, where its device needs that.
	GapMs  int     `json:"gapMs,omitempty"`
	Frames float64 `json:"frames,omitempty"`
	When   string  `json:"when,omitempty"` // of a wait for, an if, a branch
	// LimitMs is the longest that a wait for waits; Else what it does then: go-on or
	// stop, which is usual.
	LimitMs int    `json:"limitMs,omitempty"`
	Else    string `json:"else,omitempty"`
	Curve   string `json:"curve,omitempty"`  // of a fade: even (which is usual), slow-start, slow-end
	Weight  int    `json:"weight,omitempty"` // of a branch of one of; 0 means 1
	Count   int    `json:"count,omitempty"`  // of a repeat
	Run     string `json:"run,omitempty"`    // the macro that a run starts
}

// Ref implements Entity.
func (e *Macro) Ref() Ref { return Ref{KindMacro, e.ID} }

// Title implements Entity.
func (e *Macro) Title() string { return e.Name }

// Ref implements Entity.
func (e *Step) Ref() Ref { return Ref{KindStep, e.ID} }

// Title implements Entity.
func (e *Step) Title() string { return cmp.Or(e.Name, e.Kind) }

// Macro returns a macro by id, or nil.
func (s *Show) Macro(id string) *Macro {
	m, _ := s.entities[KindMacro][id].(*Macro)
	return m
}

// Macros returns all macros in order.
func (s *Show) Macros() []*Macro {
	return sorted(s, KindMacro, func(a, b *Macro) int {
		return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
}

// stepIndex has the steps of each macro in order. Shows with the same steps share it.
type stepIndex struct {
	once sync.Once
	of   map[string][]*Step
}

// StepsOf returns the steps of a macro, those of each parent in order. They must not
// be changed.
func (s *Show) StepsOf(macro string) []*Step {
	s.steps.once.Do(func() {
		s.steps.of = map[string][]*Step{}
		for _, e := range sorted(s, KindStep, func(a, b *Step) int {
			return cmp.Or(cmp.Compare(a.Parent, b.Parent), cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
		}) {
			s.steps.of[e.Macro] = append(s.steps.of[e.Macro], e)
		}
	})
	return s.steps.of[macro]
}
