package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// logInput opens the journal's entry of an input.
func (e *Engine) logInput(in Input, c *program.Controller, gesture string) {
	if in.joined {
		return // it is open
	}
	e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput,
		Text: fmt.Sprintf("%s %s on %s", in.Control, gesture, c.Name),
		Origin: &journal.Origin{Controller: c.Slug, ControllerName: c.Name, Control: in.Control, Gesture: gesture,
			Via: in.Via, Actor: in.Actor}})
}

func (e *Engine) log(ev journal.Event) { e.cfg.Journal.Record(ev) }

func (e *Engine) title(r *program.Response) string {
	if r.Bound == nil {
		return r.Call.Action
	}
	return r.Bound.Title.Text(e.table)
}

// refuse ends an entry before anything left, and says why on the key.
func (e *Engine) refuse(in Input, m *program.Mapping, at time.Time, reason string) {
	e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDecision, Text: reason, Outcome: journal.Refused, Reason: reason})
	if m != nil {
		e.stream.push(Refusal{m.Source.ID, e.heldOn(in), reason, time.Now()})
	}
}

// heldOn is the control of an input while a finger is on it; "" where none is, and no lift will
// follow: a gesture that came from the network or after the lift, a turn.
func (e *Engine) heldOn(in Input) string {
	key := controlKey(in)
	if h := e.controls[key]; h != nil && h.IsDown() {
		return key
	}
	return ""
}

func (e *Engine) logDecision(in Input, c *program.Controller, m *program.Mapping, r *program.Response, at time.Time) {
	if in.again {
		return // as when it began
	}
	text := e.decisionText(in, c, m)
	if name := e.program.Silent(r, e.table); name != "" {
		text += fmt.Sprintf("; %s is muted, and nobody hears it", name)
	}
	e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDecision, Text: text,
		Mapping: m.Source.ID, Title: e.title(r), Device: r.Name})
}

func (e *Engine) decisionText(in Input, c *program.Controller, m *program.Mapping) string {
	pages := []string{in.Page}
	if in.Page == "" {
		pages = e.pagesOf(c, c.Controls[in.Control].Zone).Shown()
	}
	for i, id := range pages {
		p := e.program.Show.Page(id)
		if p == nil || m.Source.PlacementOn(p.ID, in.Control) < 0 {
			continue
		}
		if i < len(pages)-1 {
			return "The mapping of page " + p.Name + " answers, which is held"
		}
		return "The mapping of page " + p.Name + " answers"
	}
	if m.Source.Stands() {
		return "The mapping stands on every page"
	}
	return "The mapping that the press began with answers"
}

// valueText is a value as a person knows it: the name of an input, not its number.
func (e *Engine) valueText(k reading.Key, v reading.Value) string {
	if d := e.program.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.Word(k, v, e.table)
	}
	return expr.Text(v)
}

// trace adds to the trace of what a command belongs to; in that of a run it is named.
func (e *Engine) trace(c *command, at time.Time, stage, text string) {
	if c.quiet {
		return
	}
	if c.title != "" {
		text = c.title + ": " + text
	}
	e.log(journal.Event{Entry: c.entry, At: at, Stage: stage, Text: text})
}
