package engine

import (
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// doing is what the engine is busy with, for the case that it fails there.
type doing struct {
	entry   string // of the journal
	control string // that was touched
	device  string // whose word was taken in
	driven  string // the device that was sent something last
	run     *run
	mapping *program.Mapping
}

// What one cause may fail before it is taken out of the show.
const (
	//limit:count failures of one cause within a minute; then it is parked | in the journal
	maxFailures = 3
	//limit:count time in which failures count together | in the journal
	failureLimit = time.Minute
)

const failedInside = "Something went wrong inside Synaptor. It was contained and noted; nothing else has stopped."

// contain ends what the engine was doing when it panicked: the entry has failed, what
// the control held is released, the run ends, and the device is asked for its
// state again. What fails three times within a minute is parked. It is the last net and
// no repair.
func (e *Engine) contain(p any) {
	d := e.doing
	incident.Report("engine", d.cause(), p)
	// Each part for itself: what is broken may break its own clearing up.
	part := func(f func()) { incident.Contain("engine", "clearing up after "+d.cause(), f) }
	if d.run != nil {
		if !incident.Contain("engine", "ending "+d.cause(), func() { e.failRun(d.run, failedInside) }) {
			part(func() { e.dropRun(d.run) })
		}
	} else if d.entry != "" {
		part(func() {
			for id, c := range e.commands {
				if c.entry == d.entry {
					delete(e.commands, id) // what the device says of it is no end of a press that failed
				}
			}
			e.log(journal.Event{Entry: d.entry, At: time.Now(), Stage: journal.StageDecision, Text: failedInside, Outcome: journal.Failed, Reason: failedInside})
		})
	}
	if h := e.controls[d.control]; h != nil {
		part(func() {
			for _, holder := range h.Holders() {
				e.input(cancelled(h.in, holder, "lost link"))
			}
		})
		if h.talk == nil { // what is open still belongs to it
			delete(e.controls, d.control)
		}
	}
	for _, id := range []string{d.device, d.driven} {
		if rt := e.devices[id]; rt != nil && rt.link != nil {
			rt.link.Refresh()
		}
	}
	part(func() { e.countFailure(d) })
	// What was due at the same time has not had its turn.
	e.recheck, e.armed = true, time.Time{}
	e.arm(time.Now().Add(time.Millisecond))
}

// cause says what the engine was busy with.
func (d doing) cause() string {
	switch {
	case d.run != nil:
		return "the macro " + d.run.Name
	case d.device != "":
		return "the device " + d.device
	case d.mapping != nil:
		return "the key " + d.mapping.Source.Title()
	}
	return d.control
}

// countFailure parks what has failed too often: a device has its link taken away, a
// macro or a key is refused until it is edited.
func (e *Engine) countFailure(d doing) {
	now, key := time.Now(), d.cause()
	recent := slices.DeleteFunc(e.failures[key], func(at time.Time) bool { return now.Sub(at) > failureLimit })
	e.failures[key] = append(recent, now)
	if len(e.failures[key]) < maxFailures {
		return
	}
	delete(e.failures, key)
	switch {
	case d.run != nil:
		e.barred[d.run.macro] = true
	case d.device != "":
		if e.cfg.Outside != nil {
			e.cfg.Outside.Park(d.device, true)
		}
	case d.mapping != nil:
		e.barred[d.mapping] = true
	}
}

// dropRun forgets a run that could not be ended.
func (e *Engine) dropRun(r *run) {
	r.State, r.Ended, r.Reason = macro.Failed, true, failedInside
	e.runs = slices.DeleteFunc(e.runs, func(o *run) bool { return o == r })
	e.endFades(r)
	e.delayed = slices.DeleteFunc(e.delayed, func(l delayedSend) bool { return l.run == r })
	e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDecision, Text: failedInside, Outcome: journal.Failed, Reason: failedInside})
}

// barredBecause says why a macro or a mapping is not carried out any more; "" where it
// is. An edit of it compiles it anew and lets it in again.
func (e *Engine) barredBecause(what any) string {
	if e.barred[what] {
		return "This went wrong inside Synaptor three times within a minute and is left alone until it is edited."
	}
	return ""
}
