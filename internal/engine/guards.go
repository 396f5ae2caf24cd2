package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// guard is what lives of the guard of a mapping.
type guard struct {
	input.Guard
	in      Input
	from    *program.Controller
	mapping *program.Mapping
	resp    *program.Response
	gesture string
	waits   bool // its entry has no outcome yet
}

// endGuard ends the entry of a press that waits for its guard and will not fire.
func (e *Engine) endGuard(g *guard, why string) {
	g.waits = false
	e.log(journal.Event{Entry: g.in.Entry, At: time.Now(), Stage: journal.StageGuard, Text: why, Outcome: journal.Guarded, Reason: why})
}

// guarded asks the guard of a mapping; false when the response has to wait.
func (e *Engine) guarded(in Input, c *program.Controller, m *program.Mapping, r *program.Response, gesture string, at time.Time) bool {
	spec := m.Source.Guard
	if spec == nil || gesture == input.Release || gesture == input.Repeat {
		return true
	}
	if spec.When != "" {
		if p, err := expr.Compile(spec.When, expr.Scope{}); err == nil && !p.Holds(e.table) {
			return true // it guards only while that is so
		}
	}
	if spec.Branch != "" && !e.branchNext(r, spec.Branch) {
		return true // this press takes another branch
	}
	id := m.Source.ID
	g := e.guards[id]
	if g == nil {
		// What would be refused is refused before anybody waits for a guard.
		if reason := e.refusal(in, id, r); reason != "" {
			e.logInput(in, c, gesture)
			e.logDecision(in, c, m, r, at)
			e.refuse(in, m, at, reason)
			return false
		}
	}
	if g == nil || g.Kind != spec.Kind {
		g = &guard{}
		e.guards[id] = g
	}
	if g.waits {
		e.endGuard(g, "It was pressed anew before its time.")
	}
	g.Kind, g.For = spec.Kind, time.Duration(spec.Ms)*time.Millisecond
	g.in, g.from, g.mapping, g.resp, g.gesture = in, c, m, r, gesture
	verdict := g.Press(in.At)
	if verdict == input.Fire {
		delete(e.guards, id)
		e.stream.push(GuardChanged{id, "", time.Time{}, time.Time{}})
		e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageGuard, Text: "The guard lets it through"})
		return true
	}
	e.logInput(in, c, gesture)
	e.logDecision(in, c, m, r, at)
	until, _ := g.Next()
	e.arm(until)
	g.waits = verdict == input.Waits
	if g.waits {
		e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageGuard, Text: fmt.Sprintf("It fires when it was held for %d ms", spec.Ms)})
	} else {
		text := fmt.Sprintf("Press again within %.1f s to fire.", g.For.Seconds())
		if spec.Kind == input.GuardCover {
			text = fmt.Sprintf("The cover is lifted. Press within %.1f s to fire.", g.For.Seconds())
		}
		e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageGuard, Text: text, Outcome: journal.Guarded, Reason: text})
	}
	e.stream.push(GuardChanged{id, string(verdict), in.At, until})
	return false
}
