package program

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// Reflex is a reflex compiled for running. It never changes.
type Reflex struct {
	Source *show.Reflex
	Then   *Response
	// Problem says why it can never fire; empty: nothing does.
	Problem      string
	when, unless *expr.Program // nil: there is none
}

// Reflexes are those of a show, by what starts them, each list in the order of the show.
type Reflexes struct {
	All     []*Reflex
	ByKey   map[reading.Key][]*Reflex
	ByLink  map[string][]*Reflex    // by device
	ByEvent map[[2]string][]*Reflex // by device and event
}

// compileReflexes compiles them; those that did not change, over devices that did not, are taken over.
func (n *Program) compileReflexes(prev *Program) {
	all := &n.Reflexes
	*all = Reflexes{ByKey: map[reading.Key][]*Reflex{}, ByLink: map[string][]*Reflex{}, ByEvent: map[[2]string][]*Reflex{}}
	old := map[*show.Reflex]*Reflex{}
	if prev != nil && prev.Sheets == n.Sheets {
		for _, r := range prev.Reflexes.All {
			does, on := r.Source.Then.Device, r.Source.On.Device
			if does != SelfID && n.Devices[does] != nil && n.Devices[does] == prev.Devices[does] && n.Devices[on] == prev.Devices[on] {
				old[r.Source] = r
			}
		}
	}
	for _, source := range n.Show.Reflexes() {
		r := old[source]
		if r == nil {
			r = n.compileReflex(source)
		}
		all.All = append(all.All, r)
		on := source.On
		switch on.Kind {
		case reflex.OnReading:
			k := reading.Key{Device: on.Device, Path: on.Path}
			all.ByKey[k] = append(all.ByKey[k], r)
		case reflex.OnLink:
			all.ByLink[on.Device] = append(all.ByLink[on.Device], r)
		case reflex.OnDevice:
			k := [2]string{on.Device, on.Event}
			all.ByEvent[k] = append(all.ByEvent[k], r)
		}
	}
}

func (n *Program) compileReflex(source *show.Reflex) *Reflex {
	r := &Reflex{Source: source, Then: n.CompileCall(source.Then)}
	r.Problem = r.Then.Problem
	for into, text := range map[**expr.Program]string{&r.when: source.When, &r.unless: source.Unless} {
		if text == "" {
			continue
		}
		p, err := expr.Compile(text, expr.Scope{})
		if err != nil {
			r.Problem = "Its condition cannot be read: " + err.Error() + "."
			continue
		}
		*into = p
	}
	if d := source.On.Device; d != "" && n.Devices[d] == nil {
		r.Problem = "The device that it waits for is no longer in the rig."
	}
	return r
}

// Happening is an event as conditions and parameters see it: a world, and event.* for what it brings along.
type Happening struct {
	expr.World
	Fields map[string]any
}

// Event implements expr.Eventful.
func (h Happening) Event() map[string]any { return h.Fields }

// Holds tells whether a reflex is to fire in a world, and why it is not.
func (r *Reflex) Holds(w Happening) (ok bool, why string) {
	switch {
	case r.when != nil && !r.when.Holds(w):
		return false, "It was not so that " + r.Source.When
	case r.unless != nil && r.unless.Holds(w):
		return false, "It never does while " + r.Source.Unless
	}
	return true, ""
}

// Watch is what waits for its reading.
func (r *Reflex) Watch() reflex.Watch {
	on := r.Source.On
	return reflex.Watch{Edge: on.Edge, Value: on.Value, Level: on.Level, Back: on.Back, For: time.Duration(on.ForMs) * time.Millisecond,
		Text: func(v reading.Value) string { return expr.Text(v) }}
}

// Key is what a rate counts by: the value of a field of the event.
func (r *Reflex) Key(fields map[string]any) string {
	if r.Source.Per == "" {
		return ""
	}
	return fmt.Sprint(fields[r.Source.Per])
}

// Loops lists the circles in which reflexes can set each other off, by their ids: what each reads held against all that it can change, macros included.
func (n *Program) Loops() [][]string {
	var nodes []reflex.Node
	for _, r := range n.Reflexes.All {
		on := r.Source.On
		if on.Kind != reflex.OnReading {
			continue // nothing that a reflex does brings about what it waits for
		}
		node := reflex.Node{ID: r.Source.ID, Reads: []reading.Key{{Device: on.Device, Path: on.Path}}}
		if mac := n.RunsMacro(r.Then); mac != nil {
			node.Writes = append(slices.Clone(mac.Changes), reading.Key{Device: SelfID, Path: "macro/" + mac.Source.ID + "/running"})
		} else if r.Then.Bound != nil {
			node.Writes = r.Then.Bound.Affects()
		}
		nodes = append(nodes, node)
	}
	return reflex.Loops(nodes)
}

// SentenceOf says a reflex as a sentence.
func (n *Program) SentenceOf(r *Reflex, w device.Known) string {
	var b strings.Builder
	b.WriteString("When " + n.onWords(r.Source.On, w))
	if r.Source.When != "" {
		b.WriteString(", provided that " + conditionWords(r.Source.When, n, w))
	}
	b.WriteString(": ")
	if r.Then.Bound != nil {
		b.WriteString(r.Then.Bound.Title.Text(w))
	} else {
		b.WriteString(r.Source.Then.Action)
	}
	if every := r.Source.EveryMs; every > 0 {
		b.WriteString(", no more often than once in " + lasting(every))
		if r.Source.Per != "" {
			b.WriteString(" for each " + r.Source.Per)
		}
	}
	if r.Source.Unless != "" {
		b.WriteString(", never while " + conditionWords(r.Source.Unless, n, w))
	}
	return b.String() + "."
}

// lasting is a time in words.
func lasting(ms int) string {
	switch {
	case ms%60_000 == 0:
		return fmt.Sprintf("%d min", ms/60_000)
	default:
		return fmt.Sprintf("%g s", float64(ms)/1000)
	}
}

// onWords says what starts a reflex.
func (n *Program) onWords(on show.On, w device.Known) string {
	name := on.Device
	d := n.Devices[on.Device]
	if d != nil {
		name = d.Name
	}
	switch on.Kind {
	case reflex.OnLink:
		if on.Edge == show.Comes {
			return name + " answers again"
		}
		return name + " does not answer any more"
	case reflex.OnDevice:
		return name + " tells of a " + on.Event
	}
	k := reading.Key{Device: on.Device, Path: on.Path}
	text := n.Called(k, w)
	switch on.Edge {
	case reflex.Becomes:
		text += " becomes " + on.Value
	case reflex.Leaves:
		text += " is not " + on.Value + " any more"
	case reflex.Rises:
		text += fmt.Sprintf(" rises to %g", on.Level)
	case reflex.Falls:
		text += fmt.Sprintf(" falls to %g", on.Level)
	default:
		text += " changes"
	}
	if on.ForMs > 0 {
		text += " and is so for " + lasting(on.ForMs)
	}
	return text
}

// conditionWords says a condition as a person would, where sentences can.
func conditionWords(source string, n *Program, w device.Known) string {
	p, err := expr.Compile(source, expr.Scope{})
	if err != nil {
		return source
	}
	list, ok := p.Sentences()
	if !ok || len(list) == 0 {
		return source
	}
	return expr.InWords(list, func(k reading.Key) string { return n.Called(k, w) }, func(k reading.Key, v reading.Value) string { return n.Word(k, v, w) })
}
