package program

import (
	"cmp"
	"slices"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Macro is a compiled macro.
type Macro struct {
	Source *show.Macro
	Tree   *macro.Tree
	// Err says why it cannot run, as a *macro.Error; Tree is nil where that is so for all
	// of it.
	Err error
	// Actions are the compiled actions of its steps, those of the macros it runs too,
	// by step.
	Actions map[string]*Response
	// Changes are the readings that it can change.
	Changes []reading.Key
	// Asks is what is to be typed when it is started by a press, as the first parameter that wants it is called; empty: nothing is.
	Asks string
	// Devices are those it needs, by id.
	Devices []string
	// Turns is its first turns, nil where it has none: what a key shows of it.
	Turns *macro.Node
	deps  []reading.Key // of the conditions of Turns
}

// compileMacros compiles the macros of a show. Those that did not change, nor what
// they use, are taken over.
func (n *Program) compileMacros(prev *Program) {
	n.Macros = map[string]*Macro{}
	same := n.unchanged(prev)
	for _, m := range n.Show.Macros() {
		if same(m.ID) {
			n.Macros[m.ID] = prev.Macros[m.ID]
		} else {
			n.Macros[m.ID] = n.compileMacro(m)
		}
	}
}

// unchanged tells whether a macro and all that it uses is as it was.
func (n *Program) unchanged(prev *Program) func(id string) bool {
	known := map[string]bool{}
	var same func(id string) bool
	same = func(id string) bool {
		if is, ok := known[id]; ok {
			return is
		}
		known[id] = true // macros that run each other in a circle rest on each other
		is := n.Show.Macro(id) == prev.Show.Macro(id) && slices.Equal(n.Show.StepsOf(id), prev.Show.StepsOf(id))
		for _, s := range n.Show.StepsOf(id) {
			is = is && (s.Action == nil || n.Show.Device(s.Action.Device) == prev.Show.Device(s.Action.Device)) && (s.Run == "" || same(s.Run))
		}
		known[id] = is
		return is
	}
	if prev == nil || prev.Sheets != n.Sheets {
		return func(string) bool { return false }
	}
	return same
}

func (n *Program) compileMacro(m *show.Macro) *Macro {
	c := &Macro{Source: m, Actions: map[string]*Response{}}
	if c.Tree, c.Err = macro.Build(n.Show, m.ID); c.Tree == nil {
		return c
	}
	c.Tree.Each(func(s *macro.Node) {
		if s.Kind == macro.Turns && c.Turns == nil {
			c.Turns = s
			for _, b := range s.Children {
				if p, err := expr.Compile(b.When, expr.Scope{}); err == nil && b.When != "" {
					c.deps = append(c.deps, p.Deps...)
				}
			}
		}
		if s.Action == nil || c.Actions[s.ID] != nil {
			return
		}
		if s.Action.IsRun() {
			c.Err = &macro.Error{Step: s.ID, Text: "A macro is run by a run step, so that circles are found."}
		}
		r := n.CompileCall(*s.Action)
		c.Actions[s.ID] = r
		c.Asks = cmp.Or(c.Asks, r.Asks)
		if r.Bound != nil {
			c.Changes = append(c.Changes, r.Bound.Affects()...)
		}
		if r.Device != SelfID && !slices.Contains(c.Devices, r.Device) {
			c.Devices = append(c.Devices, r.Device)
		}
	})
	return c
}

// EachStep calls f for every step that the macro has, those of the macros it runs
// too, with its compiled action, nil where it has none.
func (m *Macro) EachStep(f func(*macro.Node, *Response)) {
	if m.Tree != nil {
		m.Tree.Each(func(n *macro.Node) { f(n, m.Actions[n.ID]) })
	}
}

// RunsMacro gives the macro that a response runs, or nil.
func (n *Program) RunsMacro(r *Response) *Macro {
	if r == nil || r.Device != SelfID || r.Bound == nil || r.Call.Action != "run" {
		return nil
	}
	return n.Macros[r.Bound.Params["macro"]]
}

// IsPicture reports whether a reading is what an output shows.
func (n *Program) IsPicture(k reading.Key) bool {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil {
		return false
	}
	def := d.Type.Reading(k.Path)
	return def != nil && (def.Role == "program-picture" || def.Role == "output-picture")
}
