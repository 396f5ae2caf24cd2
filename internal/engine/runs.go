package engine

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// What is too much of one macro at the same time.
const (
	//limit:count presses of one macro that wait their turn | in the journal, as refused
	maxQueued = 20 // presses that wait their turn
	//limit:count runs of one macro beside each other | in the journal, as refused
	maxBeside = 16 // runs beside each other
)

// run is a macro that runs, until its last command has been confirmed.
type run struct {
	RunRow
	macro   *program.Macro // as it was when the run began
	runner  *macro.Runner
	in      Input
	from    *program.Controller // nil: no control has started it
	mapping *program.Mapping
	began   time.Time
	bases   macro.Baselines
	waiting int // commands under way
	landed  map[string][]time.Time
	queue   []Input
	limit   time.Time // zero: none
	told    time.Time // when live clients were told last
	dirty   bool
}

// startRun runs a macro for an input. The text is what the journal says of it; an
// error is why it does not run, as a sentence without its full stop.
func (e *Engine) startRun(in Input, c *program.Controller, m *program.Mapping, id string) error {
	mac := e.program.Macros[id]
	if mac == nil {
		return fmt.Errorf("this macro does not exist any more")
	}
	if why := e.barredBecause(mac); why != "" {
		return errors.New(continued(strings.TrimSuffix(why, ".")))
	}
	if mac.Err != nil {
		return fmt.Errorf("%s cannot run: %s", mac.Source.Name, strings.TrimSuffix(mac.Err.Error(), "."))
	}
	var bases macro.Baselines
	if running := e.runsOf(id); len(running) > 0 {
		last := running[len(running)-1]
		switch mac.Source.Again {
		case "", "finish":
			return fmt.Errorf("%s runs already and is left to finish", mac.Source.Name)
		case "stop":
			e.halt(last, "Pressed again, which stops it")
			e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: "The run that went on was halted", Outcome: journal.Sent})
			return nil
		case "restart":
			// What the first run found stays, so nothing is left behind.
			bases = last.bases
			e.halt(last, "Pressed again, which starts it over")
			e.dismissOffer(last.ID)
		case "queue":
			if len(last.queue) >= maxQueued {
				return fmt.Errorf("%d presses of %s wait their turn already", maxQueued, mac.Source.Name)
			}
			last.queue = append(last.queue, in)
			last.Queued = len(last.queue)
			e.publishRun(last)
			e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: "It waits until the run before it has ended"})
			return nil
		case "both":
			if len(running) >= maxBeside {
				return fmt.Errorf("%s runs %d times already", mac.Source.Name, maxBeside)
			}
		}
	}
	if reason := e.unsendable(in, mac); reason != "" && !mac.Source.Partly {
		return fmt.Errorf("nothing was started: %s", strings.TrimSuffix(reason, "."))
	}
	e.beginRun(in, c, m, mac, bases, nil)
	return nil
}

// RunMacro runs a macro for somebody who asks for it outside of a control. refused says
// why it does not begin; empty: it has.
func (e *Engine) RunMacro(in Input, id string) (refused string) {
	_ = e.call(func() error {
		e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput, Text: "Asked for in Macros",
			Origin: &journal.Origin{ControllerName: "Macros", Gesture: "run", Via: in.Via, Actor: in.Actor}})
		name := "a macro"
		if m := e.program.Macros[id]; m != nil {
			name = m.Source.Name
		}
		e.log(journal.Event{Entry: in.Entry, At: time.Now(), Title: "Run " + name, Device: program.Self.Name})
		if err := e.startRun(in, nil, nil, id); err != nil {
			refused = "This cannot be done: " + err.Error() + "."
			e.refuse(in, nil, time.Now(), refused)
		}
		return nil
	})
	return refused
}

// unsendable says why a step of a macro could not be sent now, or "".
func (e *Engine) unsendable(in Input, m *program.Macro) (reason string) {
	m.EachStep(func(n *macro.Node, r *program.Response) {
		if r == nil || reason != "" {
			return
		}
		if r.Bound != nil && r.Bound.Gone(e.table) {
			reason = fmt.Sprintf("what %s is about is not there any more.", e.title(r))
		} else if why := e.unreachable(in, "", r); why != "" {
			reason = continued(why)
			e.notSent(r.Device)
		}
	})
	return reason
}

// continued makes a sentence the rest of one.
func continued(s string) string {
	if strings.HasPrefix(s, "This ") || strings.HasPrefix(s, "There ") || strings.HasPrefix(s, "Choose ") {
		return strings.ToLower(s[:1]) + s[1:]
	}
	return s
}

// beginRun begins a run; queue are the presses that wait until it has ended.
func (e *Engine) beginRun(in Input, c *program.Controller, m *program.Mapping, mac *program.Macro, bases macro.Baselines, queue []Input) {
	now := time.Now()
	st := runWorld{e.factsOf(mac), e}
	plan := macro.Compile(mac.Tree, st.Still())
	r := &run{macro: mac, in: in, from: c, mapping: m, began: now, bases: bases, queue: queue, landed: map[string][]time.Time{},
		RunRow: RunRow{ID: in.Entry, Macro: mac.Source.ID, Name: mac.Source.Name, Started: now, LengthMs: plan.Length.Milliseconds(), Open: plan.Open, Queued: len(queue),
			Steps: []RunStep{}, Together: []RunTogether{}, Left: []string{}}}
	if c != nil {
		r.Controller = c.ID
	}
	if r.bases == nil {
		r.bases = macro.Baselines{}
		r.bases.Capture([]int{0}, mac.Changes, e.find(mac.Changes, nil))
	}
	for _, g := range plan.Groups {
		r.Together = append(r.Together, RunTogether{Step: g.Step, PredictedUs: g.Skew.Microseconds()})
	}
	if mac.Source.LimitMs > 0 {
		r.limit = now.Add(time.Duration(mac.Source.LimitMs) * time.Millisecond)
	}
	r.runner = macro.Start(mac.Tree, st, now)
	e.runs = append(e.runs, r)
	e.keepRestorable(&restorable{entry: in.Entry, at: now, title: mac.Source.Name, macro: mac.Source.ID, bases: r.bases})
	e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDispatch, Text: "The run begins"})
	for _, o := range e.runs {
		if o != r && o.State == macro.Going && slices.ContainsFunc(o.macro.Changes, func(k reading.Key) bool { return slices.Contains(mac.Changes, k) }) {
			r.Left = append(r.Left, o.Name+" runs as well and changes the same things.")
			e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: o.Name + " runs as well and changes the same things"})
		}
	}
	e.publishRunning(mac.Source.ID)
	e.publishRun(r)
	e.macroDid(r, show.Begins, "has begun")
	e.dueRuns(now)
}

// runsOf lists the runs of a macro that still dispatch.
func (e *Engine) runsOf(id string) (out []*run) {
	for _, r := range e.runs {
		if r.Macro == id && r.State == macro.Going {
			out = append(out, r)
		}
	}
	return out
}

// dueRuns does what runs have due.
func (e *Engine) dueRuns(now time.Time) {
	e.takeHalts()
	e.precise, e.waiters = time.Time{}, false
	e.dueDelayed(now)
	was := e.during
	defer func() { e.during = was }()
	for _, r := range slices.Clone(e.runs) {
		e.doing, e.during = doing{run: r}, r.in.occasion
		if !r.limit.IsZero() && !now.Before(r.limit) && r.State == macro.Going {
			e.failRun(r, fmt.Sprintf("It took longer than its limit of %s.", time.Duration(r.macro.Source.LimitMs)*time.Millisecond))
		}
		for due := r.runner.Due(now); len(due) > 0; due = r.runner.Due(now) {
			for _, o := range due {
				e.takeHalts()
				e.order(r, o)
			}
		}
		e.advanceRun(r)
	}
	e.doing, e.during = doing{}, was
	e.dueFades(now)
}

// advanceRun sees how a run stands after something happened to it.
func (e *Engine) advanceRun(r *run) {
	if w := r.runner.Waiting(); w != nil {
		e.waiters = true
		r.wait(w.ID)
	} else {
		r.wait("")
	}
	if at, going := r.runner.Next(); going {
		e.armStep(at)
		if !r.limit.IsZero() {
			e.armStep(r.limit)
		}
	} else if r.State == macro.Going {
		switch r.runner.State() {
		case macro.Failed:
			e.failRun(r, r.runner.Reason)
		case macro.Ended:
			e.settleRun(r)
		}
	} else {
		e.settleRun(r)
	}
	if r.dirty {
		e.publishRun(r)
	}
}

func (r *run) wait(step string) {
	if r.WaitsAt != step {
		r.WaitsAt, r.dirty = step, true
	}
}

// settleRun ends a run that has dispatched all it will, once its fades and commands
// have ended.
func (e *Engine) settleRun(r *run) {
	if r.waiting > 0 || r.Ended || e.fading(r) || e.hasDelayed(r) {
		return
	}
	if r.State == macro.Going {
		r.State = macro.Ended
	}
	r.Ended, r.dirty = true, true
	now := time.Now()
	outcome := map[string]journal.Outcome{macro.Ended: journal.Confirmed, macro.Halted: journal.Halted, macro.Failed: journal.Failed}[r.State]
	e.log(journal.Event{Entry: r.ID, At: now, Stage: journal.StageConfirm, Text: "The run has " + r.State, Outcome: outcome, Reason: r.Reason, Confirms: r.State == macro.Ended})
	r.TookMs = now.Sub(r.began).Milliseconds()
	if !e.offered(r.ID) {
		e.fulfilled(r.ID)
	}
	e.publishRun(r)
	e.runs = slices.DeleteFunc(e.runs, func(o *run) bool { return o == r })
	e.publishRunning(r.Macro)
	e.macroEnded(r)
	if len(r.queue) > 0 {
		e.ended = append(e.ended, r)
	}
}

// startWaiting begins what has waited for runs that have ended, once whatever ended
// them is over: a link that is lost, for one.
func (e *Engine) startWaiting() {
	for len(e.ended) > 0 {
		r := e.ended[0]
		e.ended = e.ended[1:]
		e.nextInQueue(r)
	}
}

// nextInQueue begins the run of the press that has waited longest, as things stand by
// now; one that cannot begin says why, and lets the one after it have its turn.
func (e *Engine) nextInQueue(r *run) {
	for i, in := range r.queue {
		why := ""
		mac := e.program.Macros[r.Macro]
		switch {
		case mac == nil:
			why = "The macro does not exist any more."
		case mac.Err != nil:
			why = mac.Err.Error()
		case !mac.Source.Partly:
			if reason := e.unsendable(in, mac); reason != "" {
				why = "Nothing was started: " + reason
			}
		}
		if why == "" {
			e.beginRun(in, r.from, r.mapping, mac, nil, r.queue[i+1:])
			return
		}
		e.refuse(in, r.mapping, time.Now(), why)
	}
}

// failRun ends a run because something went wrong.
func (e *Engine) failRun(r *run, reason string) {
	if r.State != macro.Going {
		return
	}
	r.runner.Fail(reason)
	r.State, r.dirty = macro.Failed, true
	r.Reason = reason + e.endFades(r)
	e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDecision, Text: "The run stops: " + reason, Reason: reason})
	if r.mapping != nil {
		e.stream.push(Refusal{r.mapping.Source.ID, "", r.Name + " stopped: " + reason, time.Now()})
	}
	if r.macro.Source.OnError == "put-back" {
		e.putBack(r.bases, []int{0}, r, -1, r.in)
	} else {
		e.offerLeftOver(r)
	}
	e.settleRun(r)
}

// halt ends a run at once: nothing more is dispatched, fades stop where they are.
func (e *Engine) halt(r *run, by string) {
	if r.State != macro.Going {
		return
	}
	r.runner.Halt()
	r.State, r.Reason, r.dirty = macro.Halted, by+".", true
	for _, in := range r.queue {
		e.refuse(in, nil, time.Now(), "The run before it was halted.")
	}
	r.queue, r.Queued = nil, 0
	r.Reason += e.endFades(r)
	e.delayed = slices.DeleteFunc(e.delayed, func(l delayedSend) bool { return l.run == r })
	e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDecision, Text: by})
	e.offerLeftOver(r)
	e.settleRun(r)
}

// haltWhere halts the runs that a test picks, and says how many.
func (e *Engine) haltWhere(by string, picks func(*run) bool) int {
	n := 0
	for _, r := range slices.Clone(e.runs) {
		if r.State == macro.Going && picks(r) {
			e.halt(r, by)
			n++
		}
	}
	return n
}
