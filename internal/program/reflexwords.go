package program

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// SentenceOf says a reflex as a sentence.
func (n *Program) SentenceOf(r *Reflex, w device.Known) string {
	var b strings.Builder
	s := r.Source
	if s.On.Kind == reflex.OnWhile {
		b.WriteString("While " + conditionWords(s.When, n, w) + ": " + n.doesWords(r, w) + n.holdWords(r))
	} else {
		b.WriteString("When " + n.onWords(s.On, w))
		if s.When != "" {
			b.WriteString(", provided that " + conditionWords(s.When, n, w))
		}
		b.WriteString(": " + n.doesWords(r, w))
	}
	if t := s.Table; t != nil {
		fmt.Fprintf(&b, ", by its table of %d by %s", len(t.Rows), t.By)
	}
	if every := s.EveryMs; every > 0 {
		b.WriteString(", no more often than once in " + lasting(every))
		if s.Per != "" {
			b.WriteString(" for each " + s.Per)
		}
	}
	if s.Unless != "" {
		b.WriteString(", never while " + conditionWords(s.Unless, n, w))
	}
	return b.String() + "."
}

// SoWords say that what a reflex follows is so.
func (n *Program) SoWords(r *Reflex, w device.Known) string {
	return "It is so that " + conditionWords(r.Source.When, n, w)
}

// doesWords say what it does, with the fields of the event where they fill something.
func (n *Program) doesWords(r *Reflex, w device.Known) string {
	if r.Then.Bound == nil {
		return r.Source.Then.Action
	}
	if h := r.Source.Hold; h != nil && h.By > 0 && len(r.Then.Bound.Affects()) == 1 {
		return n.Called(r.Then.Bound.Affects()[0], w) + " is taken down"
	}
	text := r.Then.Bound.Title.Text(w)
	if len(r.fill) > 0 {
		text = r.Then.Bound.Action.Called() // what stands there is an example
	}
	for _, p := range r.Then.Bound.Action.Params {
		if t := r.fill[p.ID]; t != nil {
			text += fmt.Sprintf(", %s by %s", p.Title, strings.Trim(t.Source, "{}"))
		}
	}
	return text
}

// holdWords say how something is held.
func (n *Program) holdWords(r *Reflex) (out string) {
	h := r.Source.Hold
	if h == nil {
		return ""
	}
	if h.By > 0 {
		out = fmt.Sprintf(" by %g%s", h.By, unitOf(r.Then))
	}
	if h.OverMs > 0 {
		out += " over " + lasting(h.OverMs)
	}
	out += ", and back"
	if h.AfterMs > 0 {
		out += " " + lasting(h.AfterMs) + " later"
	}
	if h.BackMs > 0 {
		out += " over " + lasting(h.BackMs)
	}
	return out
}

// unitOf is the unit of the number that a response sets, after a space; empty: it has none.
func unitOf(resp *Response) string {
	if resp.Bound == nil {
		return ""
	}
	for _, p := range resp.Bound.Action.Params {
		if p.IsNumber() && p.Unit != "" {
			return " " + p.Unit
		}
	}
	return ""
}

// lasting is a time in words.
func lasting(ms int) string { return reflex.Lasting(time.Duration(ms) * time.Millisecond) }

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
	case reflex.OnGesture:
		where := "a control"
		if on.Control != "" {
			where = on.Control
		}
		if c := n.Show.Controller(on.Controller); c != nil {
			where += " of " + c.Name
		}
		return where + " gets a " + on.Gesture
	case reflex.OnSignal:
		return "the signal " + on.Signal + " comes"
	case reflex.OnMacro:
		name := "a macro"
		if m := n.Show.Macro(on.Macro); m != nil {
			name = m.Name
		}
		return name + " " + map[string]string{show.Begins: "begins", show.Ends: "has ended", show.Fails: "fails", show.Halts: "is halted"}[on.Edge]
	case reflex.OnSchedule:
		return on.Schedule.Words()
	case reflex.OnTimecode:
		return "time code passes " + on.Timecode
	case reflex.OnPanel:
		return "a panel is " + map[string]string{show.Comes: "paired", show.Goes: "lost"}[on.Edge]
	case reflex.OnStart:
		return "Synaptor has started" + map[string]string{show.Clean: " after it was ended", show.Unclean: " after it was cut off"}[on.Edge]
	}
	return n.readingWords(on, w)
}

func (n *Program) readingWords(on show.On, w device.Known) string {
	k := reading.Key{Device: on.Device, Path: on.Path}
	text := n.Called(k, w)
	if is, isBool := n.typed(k, on.Value).(bool); isBool && (on.Edge == reflex.Becomes || on.Edge == reflex.Leaves) {
		if said, ok := expr.So(text, is == (on.Edge == reflex.Becomes)); ok {
			return said + forWords(on)
		}
	}
	switch on.Edge {
	case reflex.Becomes:
		text += " becomes " + n.Word(k, n.typed(k, on.Value), w)
	case reflex.Leaves:
		text += " is not " + n.Word(k, n.typed(k, on.Value), w) + " any more"
	case reflex.Rises:
		text += fmt.Sprintf(" rises to %g", on.Level)
	case reflex.Falls:
		text += fmt.Sprintf(" falls to %g", on.Level)
	default:
		text += " changes"
	}
	return text + forWords(on)
}

func forWords(on show.On) string {
	if on.ForMs > 0 {
		return " and is so for " + lasting(on.ForMs)
	}
	return ""
}

// typed is the text of a reading's value as that value.
func (n *Program) typed(k reading.Key, text string) reading.Value {
	d := n.Devices[k.Device]
	if d != nil && d.Type != nil {
		if def := d.Type.Reading(k.Path); def != nil && def.Type == "bool" {
			return text == "true"
		}
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
	called := func(k reading.Key) string {
		if k.Device == expr.OfEvent {
			return "its " + k.Path
		}
		return n.Called(k, w)
	}
	return expr.InWords(list, called, func(k reading.Key, v reading.Value) string {
		if text, is := v.(string); is && k.Device == expr.OfEvent {
			return "“" + text + "”"
		}
		return n.Word(k, v, w)
	})
}
