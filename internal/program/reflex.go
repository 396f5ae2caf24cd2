package program

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// Reflex is a reflex compiled for running. It never changes.
type Reflex struct {
	Source *show.Reflex
	// Then is its response. Where an event fills some of its parameters it is an example: see Response.
	Then *Response
	// Problem says why it can never fire; empty: nothing does.
	Problem      string
	fill         map[string]*expr.Template // what an event fills parameters with
	when, unless *expr.Program             // nil: there is none
}

// What names what reflexes wait for: the kind, and what of it.
type What struct{ Kind, Of, Which string }

// Reflexes are those of a show, by what starts them, each list in the order of the show.
type Reflexes struct {
	All []*Reflex
	By  map[What][]*Reflex
	// Follows are those that follow a condition, by the readings that it depends on.
	Follows map[reading.Key][]*Reflex
	byID    map[string]*Reflex
}

// OfReading is what waits for a reading.
func OfReading(k reading.Key) What { return What{reflex.OnReading, k.Device, k.Path} }

// waits names what a reflex waits for.
func waits(on show.On) What {
	switch on.Kind {
	case reflex.OnReading:
		return What{on.Kind, on.Device, on.Path}
	case reflex.OnDevice:
		return What{on.Kind, on.Device, on.Event}
	case reflex.OnLink:
		return What{on.Kind, on.Device, ""}
	case reflex.OnGesture:
		return What{on.Kind, on.Controller, ""}
	case reflex.OnSignal:
		return What{on.Kind, show.SignalKey(on.Signal), ""}
	case reflex.OnMacro:
		return What{on.Kind, on.Macro, ""}
	}
	return What{Kind: on.Kind}
}

// Reflex gives a reflex by its id, or nil.
func (n *Program) Reflex(id string) *Reflex { return n.Reflexes.byID[id] }

// compileReflexes compiles them; those that did not change, over devices that did not, are taken over.
func (n *Program) compileReflexes(prev *Program) {
	all := &n.Reflexes
	*all = Reflexes{By: map[What][]*Reflex{}, Follows: map[reading.Key][]*Reflex{}, byID: map[string]*Reflex{}}
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
			r = n.CompileReflex(source)
		}
		all.All, all.byID[source.ID] = append(all.All, r), r
		what := waits(source.On)
		all.By[what] = append(all.By[what], r)
		if source.On.Kind == reflex.OnWhile && r.when != nil {
			for _, k := range r.when.Deps {
				all.Follows[k] = append(all.Follows[k], r)
			}
		}
	}
}

// CompileReflex compiles a reflex, which the show need not have.
func (n *Program) CompileReflex(source *show.Reflex) *Reflex {
	r := &Reflex{Source: source}
	n.compileThen(r)
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
	switch on := source.On; {
	case on.Device != "" && n.Devices[on.Device] == nil:
		r.Problem = "The device that it waits for is no longer in the rig."
	case on.Controller != "" && n.Show.Controller(on.Controller) == nil:
		r.Problem = "The controller that it waits for is gone."
	case on.Kind == reflex.OnMacro && on.Macro != "" && n.Show.Macro(on.Macro) == nil:
		r.Problem = "The macro that it waits for is gone."
	case on.Kind == reflex.OnWhile && r.when != nil && r.when.OfEvent:
		r.Problem = "What follows a condition has no event."
	case on.Kind == reflex.OnWhile && r.Then.Bound != nil && len(r.Then.Bound.Affects()) != 1:
		r.Problem = "What follows a condition holds one reading; this response sets another number of them."
	}
	return r
}

// compileThen compiles the response of a reflex.
func (n *Program) compileThen(r *Reflex) {
	call := r.Source.Then
	if d := n.Devices[call.Device]; d != nil && d.Type != nil {
		sample, filled := d.Type.Sampled(call.Action, call.Params)
		for _, p := range filled {
			t, err := expr.CompileTemplate(call.Params[p], expr.Scope{})
			if err != nil {
				r.Problem = fmt.Sprintf("What fills %s cannot be read: %v.", p, err)
				continue
			}
			if r.fill == nil {
				r.fill = map[string]*expr.Template{}
			}
			r.fill[p] = t
		}
		call.Params = sample
	}
	r.Then = n.CompileCall(call)
	if r.Then.Problem != "" {
		r.Problem = r.Then.Problem
	}
}

// Response is what a reflex does for an event.
func (n *Program) Response(r *Reflex, w Happening) *Response {
	if len(r.fill) == 0 {
		return r.Then
	}
	call := r.Then.Call
	call.Params = maps.Clone(call.Params)
	for p, t := range r.fill {
		call.Params[p] = strings.TrimSpace(t.Text(w))
	}
	return n.CompileCall(call)
}

// Happening is an event as conditions and parameters see it: a world, and event.* for what it brings along.
type Happening struct {
	expr.World
	Fields map[string]any
}

// Event implements expr.Eventful.
func (h Happening) Event() map[string]any { return h.Fields }

// Met is whether a reflex may fire on an event, before its rate is asked.
type Met int

// What can be of that.
const (
	IsMet   Met = iota
	Never       // it can never fire
	NoRow       // its table has no row for the event
	NotWhen     // what has to be so is not
	Unless      // what it never fires with is so
)

// Meets tells whether a reflex may fire on an event in a world; h is the event with what its table fills in. The live show, the record and a try are all
// judged by it.
func (r *Reflex) Meets(fields map[string]any, w expr.World) (h Happening, m Met) {
	filled, has := r.Source.Table.Fill(fields)
	h = Happening{w, filled}
	switch {
	case r.Problem != "":
		return h, Never
	case !has:
		return h, NoRow
	case r.when != nil && !r.when.Holds(h):
		return h, NotWhen
	case r.unless != nil && r.unless.Holds(h):
		return h, Unless
	}
	return h, IsMet
}

// Conditional tells whether only the conditions of a reflex were not met: that is as usual as events are.
func (m Met) Conditional() bool { return m == NotWhen || m == Unless }

// WhyNot says why a reflex did not fire on an event; empty: it may.
func (n *Program) WhyNot(r *Reflex, m Met, fields map[string]any, w device.Known) string {
	switch m {
	case Never:
		return r.Problem
	case NoRow:
		return fmt.Sprintf("Its table has no row for %v.", fields[r.Source.Table.By])
	case NotWhen:
		return "It was not so that " + conditionWords(r.Source.When, n, w) + "."
	case Unless:
		return "It never does while " + conditionWords(r.Source.Unless, n, w) + "."
	}
	return ""
}

// Uses lists the readings that a reflex waits for, and that its conditions depend on.
func (r *Reflex) Uses() (out []reading.Key) {
	if on := r.Source.On; on.Kind == reflex.OnReading {
		out = append(out, reading.Key{Device: on.Device, Path: on.Path})
	}
	for _, p := range []*expr.Program{r.when, r.unless} {
		if p != nil {
			out = append(out, p.Deps...)
		}
	}
	return out
}

// Watch is what waits for its reading.
func (r *Reflex) Watch() reflex.Watch {
	on := r.Source.On
	return reflex.Watch{Edge: on.Edge, Value: on.Value, Level: on.Level, Back: on.Back, For: time.Duration(on.ForMs) * time.Millisecond,
		Text: func(v reading.Value) string { return expr.Text(v) }}
}

// GateOf is what lets events of a reflex through, with nothing behind it.
func GateOf[T any](r *Reflex) reflex.Gate[T] {
	s := r.Source
	return reflex.Gate[T]{Every: time.Duration(s.EveryMs) * time.Millisecond, Beyond: s.Beyond, Length: s.Length}
}

// Key is what a rate counts by: the value of a field of the event.
func (r *Reflex) Key(fields map[string]any) string {
	if r.Source.Per == "" {
		return ""
	}
	return fmt.Sprint(fields[r.Source.Per])
}

// OfAudience tells whether it waits for what the audience does, so that it is off with the audience.
func (n *Program) OfAudience(r *Reflex) bool {
	d := n.Devices[r.Source.On.Device]
	return r.Source.On.Kind == reflex.OnDevice && d != nil && d.Type != nil && d.Type.Sheet.Role == "chat"
}

// reads are the readings by way of which something else can set a reflex off.
func (n *Program) reads(r *Reflex) []reading.Key {
	switch on := r.Source.On; on.Kind {
	case reflex.OnReading:
		return []reading.Key{{Device: on.Device, Path: on.Path}}
	case reflex.OnSignal:
		return []reading.Key{signalKey(on.Signal)}
	case reflex.OnMacro:
		if on.Macro != "" {
			return []reading.Key{runningKey(on.Macro)}
		}
		var all []reading.Key
		for id := range n.Macros {
			all = append(all, runningKey(id))
		}
		return all
	case reflex.OnWhile:
		if r.when != nil {
			return r.when.Deps
		}
	}
	return nil // nothing that a reflex does brings about what it waits for
}

func runningKey(id string) reading.Key {
	return reading.Key{Device: SelfID, Path: "macro/" + id + "/running"}
}

func signalKey(name string) reading.Key {
	return reading.Key{Device: SelfID, Path: "signal/" + show.SignalKey(name) + "/count"}
}

// Writes are the readings that a reflex can change, by way of macros too.
func (n *Program) Writes(r *Reflex) []reading.Key {
	mac := n.RunsMacro(r.Then)
	if mac == nil {
		return writesOf(r.Then)
	}
	out := append(slices.Clone(mac.Changes), runningKey(mac.Source.ID))
	mac.EachStep(func(_ *macro.Node, resp *Response) { out = append(out, writesOf(resp)...) })
	return out
}

// writesOf are the readings that a response changes, but for what the macro does that it runs.
func writesOf(r *Response) []reading.Key {
	switch {
	case r == nil || r.Bound == nil:
		return nil
	case r.Device == SelfID && r.Call.Action == "signal":
		return []reading.Key{signalKey(r.Bound.Params["signal"])}
	}
	return r.Bound.Affects()
}
