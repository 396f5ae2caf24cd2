package engine

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// order carries out what a run has due.
func (e *Engine) order(r *run, o macro.Order) {
	if r.State != macro.Going {
		return // an order before it has stopped the run
	}
	if o.Kind == macro.Run {
		var keys []reading.Key
		if nested := e.program.Macros[o.Step.Run]; nested != nil {
			keys = nested.Changes
		}
		r.bases.Capture(o.Runs, keys, e.find(keys, r))
		return
	}
	now := time.Now()
	row := RunStep{Step: o.Step.ID, Group: o.Group, PlannedUs: o.At.Sub(r.began).Microseconds(), DispatchedUs: now.Sub(r.began).Microseconds(), State: "sent"}
	r.Steps = append(r.Steps, row)
	r.dirty = true
	at := len(r.Steps) - 1
	switch o.Kind {
	case macro.Do:
		e.doStep(r, o, at, r.macro.Actions[o.Step.ID])
	case macro.Fade:
		e.startFade(r, o, at)
	case macro.PutBack:
		if e.putBack(r.bases, o.Runs, r, at, r.in) == 0 {
			r.Steps[at].State = "done"
		}
	}
}

// doStep sends the action of a step.
func (e *Engine) doStep(r *run, o macro.Order, at int, resp *program.Response) {
	in := r.in
	in.At = time.Now()
	title := e.title(resp)
	if held := e.heldBySafe(r.in, r.began, resp); held != "" {
		e.stepProblem(r, at, title, held, true)
		return
	}
	if reason := e.refusal(in, "", resp); reason != "" {
		e.notSent(resp.Device)
		e.stepUnsent(r, at, title, reason)
		return
	}
	if resp.Device == program.SelfID {
		by := cause{run: r, runs: o.Runs, bases: r.bases}
		text, err := e.changeOwn(resp, by, func() (string, error) { return e.carryOutOwn(in, r.from, r.mapping, resp) })
		if err != nil {
			e.stepUnsent(r, at, title, "This cannot be done: "+err.Error()+".")
			return
		}
		e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDispatch, Text: title + ": " + text})
		r.Steps[at].State, r.Steps[at].StartedUs = "done", time.Since(r.began).Microseconds()
		return
	}
	by := cause{run: r, step: at, runs: o.Runs, bases: r.bases, title: title}
	if o.Kind == macro.Fade {
		by.ramp = resp
	}
	cmd, err := e.dispatch(in, by, resp)
	if err != nil {
		e.stepUnsent(r, at, title, fmt.Sprintf("This cannot be sent to %s: %v.", resp.Name, err))
		return
	}
	e.logDispatch(cmd, resp)
}

// stepUnsent deals with a step that cannot be sent: what may run what can run passes
// it over.
func (e *Engine) stepUnsent(r *run, at int, title, reason string) {
	e.stepProblem(r, at, title, reason, r.macro.Source.Partly || r.macro.Source.OnError == "go-on")
}

// stepFailed deals with a step that went wrong once it was sent, as the macro says.
func (e *Engine) stepFailed(r *run, at int, title, reason string) {
	e.stepProblem(r, at, title, reason, r.macro.Source.OnError == "go-on")
}

func (e *Engine) stepProblem(r *run, at int, title, reason string, passedOver bool) {
	if at < len(r.Steps) {
		r.Steps[at].State, r.Steps[at].Reason, r.dirty = "failed", reason, true
	}
	e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDecision, Text: title + ": " + reason})
	if passedOver {
		r.Left = append(r.Left, title+": "+reason)
		return
	}
	if r.State == macro.Going {
		e.failRun(r, title+": "+reason)
	}
}

// stepEnded takes in that a command of a run has ended.
func (e *Engine) stepEnded(c *command, at time.Time) {
	r := c.run
	r.waiting--
	r.dirty = true
	row := &r.Steps[c.step]
	switch c.outcome {
	case journal.Confirmed, journal.Sent, journal.Overtaken:
		if row.State == "sent" && !c.quiet {
			row.State = "done"
		}
		if row.StartedUs == 0 {
			row.StartedUs = at.Sub(r.began).Microseconds()
		}
	case journal.Disagreed, journal.Unconfirmed:
		if c.quiet {
			break // on the way of a fade; what counts is where it ends
		}
		fallthrough
	default:
		e.stepFailed(r, c.step, c.title, cmp.Or(c.reason, "It was not confirmed."))
	}
	e.advanceRun(r)
}

// stepLanded takes in that the effect of a step is there.
func (e *Engine) stepLanded(c *command, at time.Time) {
	// at is when its effect began, not when a transition had ended.
	r := c.run
	row := &r.Steps[c.step]
	if row.StartedUs != 0 {
		return // a fade begins once
	}
	row.StartedUs, r.dirty = max(1, at.Sub(r.began).Microseconds()), true
	group := row.Group
	if group == "" {
		return
	}
	times := append(r.landed[group], at)
	r.landed[group] = times
	n := 0
	for _, s := range r.Steps {
		if s.Group == group {
			n++
		}
	}
	i := slices.IndexFunc(r.Together, func(t RunTogether) bool { return t.Step == group })
	if len(times) < n || n < 2 || i < 0 {
		return
	}
	skew := slices.MaxFunc(times, time.Time.Compare).Sub(slices.MinFunc(times, time.Time.Compare))
	r.Together[i].MeasuredUs = max(1, skew.Microseconds())
	e.log(journal.Event{Entry: r.ID, At: at, Together: &journal.Skew{PredictedUs: r.Together[i].PredictedUs, MeasuredUs: r.Together[i].MeasuredUs},
		Stage: journal.StageConfirm, Text: fmt.Sprintf("Together: landed within %.1f ms; %.1f ms were expected",
			float64(skew.Microseconds())/1000, float64(r.Together[i].PredictedUs)/1000)})
	delete(r.landed, group)
}

// armStep has the engine come back for a step, to the point.
func (e *Engine) armStep(at time.Time) {
	if e.precise.IsZero() || at.Before(e.precise) {
		e.precise = at
	}
	if e.cfg.Pacing == Sleep {
		e.arm(at)
		return
	}
	e.arm(at.Add(-wakeEarly))
}

// wakeEarly is how long before a step the engine wakes; the rest it spends looking at
// the clock, since timers are up to a millisecond late.
const wakeEarly = 1500 * time.Microsecond

// lookOnly is how long before a step the engine stops giving way to others: with many at
// work it would get its turn back too late.
const lookOnly = 200 * time.Microsecond
