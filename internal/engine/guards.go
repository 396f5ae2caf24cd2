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
	held    *held // the control whose touch waits
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

// guarded asks the guard of a mapping for a gesture of a touch: Fire lets it through, Kept says that
// there is nothing to tell, and of anything else the journal has been told.
func (e *Engine) guarded(in Input, c *program.Controller, h *held, r *program.Response, gesture string, at time.Time) input.Verdict {
	g := e.guardNow(h.mapping, r)
	if in.Unguarded {
		g = nil
	}
	if g != nil && !h.Asked() && e.guards[h.mapping.Source.ID] == nil {
		// What would be refused is refused before anybody waits for a guard.
		if reason := e.refusal(in, h.mapping.Source.ID, r); reason != "" {
			e.logInput(in, c, gesture)
			e.logDecision(in, c, h.mapping, r, at)
			e.refuse(in, h.mapping, at, reason)
			h.Refused()
			return input.Closed
		}
	}
	var verdict input.Verdict
	if program.Continuous(gesture) || gesture == input.TurnLeft || gesture == input.TurnRight {
		if g == nil {
			return input.Fire
		}
		goesOn := g.GoesOn(in.At)
		if verdict = g.Turn(gesture, in.At); goesOn {
			return verdict // it was told when it began
		}
	} else if g == nil {
		verdict = h.Ask(gesture, nil, in.At)
	} else {
		verdict = h.Ask(gesture, &g.Guard, in.At)
	}
	if g == nil {
		return verdict
	}
	e.judged(in, c, h, r, g, gesture, verdict, at)
	return verdict
}

// guardNow is the guard that a response of a mapping passes now; nil where none does.
func (e *Engine) guardNow(m *program.Mapping, r *program.Response) *guard {
	spec := m.Source.Guard
	if spec == nil {
		return nil
	}
	if spec.When != "" {
		if p, err := expr.Compile(spec.When, expr.Scope{}); err == nil && !p.Holds(e.table) {
			return nil // it guards only while that is so
		}
	}
	if spec.Branch != "" && !e.branchNext(r, spec.Branch) {
		return nil // this press takes another branch
	}
	g := e.guards[m.Source.ID]
	if g == nil || g.Kind != spec.Kind {
		g = &guard{}
	}
	g.Kind, g.For = spec.Kind, time.Duration(spec.Ms)*time.Millisecond
	return g
}

// judged tells the journal and the faces what a guard has said.
func (e *Engine) judged(in Input, c *program.Controller, h *held, r *program.Response, g *guard, gesture string, verdict input.Verdict, at time.Time) {
	m := h.mapping
	id := m.Source.ID
	text := ""
	switch verdict {
	case input.Kept:
		return
	case input.Fire:
		if e.guards[id] == g && !program.Continuous(gesture) {
			e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageGuard, Text: "The guard lets it through"})
		}
		if _, open := g.Next(); open {
			e.guards[id] = g // a turn that goes on
		} else {
			delete(e.guards, id)
		}
		e.stream.push(GuardChanged{id, "", time.Time{}, time.Time{}})
		return
	case input.Unheld:
		e.logInput(in, c, gesture)
		e.logDecision(in, c, m, r, at)
		e.refuse(in, m, at, fmt.Sprintf("It fires when it is held for %.1f s, and a %s holds nothing. Send down, and up after that time.", g.For.Seconds(), gesture))
		return
	case input.Waits:
		text = fmt.Sprintf("It fires when it was held for %d ms", g.For.Milliseconds())
	case input.Armed:
		text = fmt.Sprintf("Press again within %.1f s to fire.", g.For.Seconds())
		if g.Kind == input.GuardCover {
			text = fmt.Sprintf("The cover is lifted. Press within %.1f s to fire.", g.For.Seconds())
		}
	}
	if g.waits {
		e.endGuard(g, "It was pressed anew before its time.")
	}
	e.guards[id] = g
	g.in, g.from, g.held, g.mapping, g.resp, g.gesture = in, c, h, m, r, gesture
	e.logInput(in, c, gesture)
	e.logDecision(in, c, m, r, at)
	until, _ := g.Next()
	e.arm(until)
	told := journal.Event{Entry: in.Entry, At: at, Stage: journal.StageGuard, Text: text}
	if g.waits = verdict == input.Waits; !g.waits {
		told.Outcome, told.Reason = journal.Guarded, text
	}
	e.log(told)
	e.stream.push(GuardChanged{id, string(verdict), in.At, until})
}

// dueGuards fires what was held long enough, and closes what was armed.
func (e *Engine) dueGuards(now time.Time) {
	for id, g := range e.guards {
		verdict, due := g.Due(now)
		if !due {
			if at, more := g.Next(); more {
				e.arm(at)
			}
			continue
		}
		delete(e.guards, id)
		e.stream.push(GuardChanged{id, "", time.Time{}, time.Time{}})
		if verdict == input.Fire {
			e.log(journal.Event{Entry: g.in.Entry, At: now, Stage: journal.StageGuard, Text: "It was held long enough"})
			g.held.LetThrough()
			in := g.in
			in.joined, in.again = true, true // the entry is open, and knows what was decided
			e.fire(in, g.from, g.held, g.resp, g.gesture, now)
		}
	}
}
