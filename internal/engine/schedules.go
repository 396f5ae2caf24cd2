package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// schedule finds out when a schedule comes next; what it has missed while Synaptor was off is noted, and not caught up.
func (e *Engine) schedule(st *reflexState, now time.Time) {
	on := st.of.Source.On
	if on.Kind != reflex.OnSchedule || !st.next.IsZero() {
		return
	}
	if seen := e.cfg.Live.Seen; !seen.IsZero() && e.startAt.IsZero() {
		if missed, any := on.Schedule.Next(seen, e.program.TimeZone); any && missed.Before(e.began) {
			e.noteMissed(st, missed)
		}
	}
	st.next, _ = on.Schedule.Next(now, e.program.TimeZone)
	e.armReflex(st.next, !st.next.IsZero())
}

// noteMissed writes down that a schedule came while Synaptor was off.
func (e *Engine) noteMissed(st *reflexState, at time.Time) {
	why := fmt.Sprintf("It was missed at %s, while Synaptor was off.", at.In(e.program.TimeZone).Format("15:04 on 2 January"))
	id := journal.NextID()
	e.log(journal.Event{Entry: id, At: time.Now(), Stage: journal.StageInput, Text: st.of.Source.On.Schedule.Words(), Title: st.of.Source.Name, Device: program.Self.Name,
		Origin: &journal.Origin{ControllerName: "Reflexes", Control: st.of.Source.Name, Gesture: reflex.OnSchedule, Via: "reflex", Actor: "Reflex " + st.of.Source.Name}})
	e.log(journal.Event{Entry: id, At: time.Now(), Stage: journal.StageDecision, Text: why, Outcome: journal.Refused, Reason: why})
	st.row.Held, st.row.HeldAt = why, time.Now()
}

// farBack is how far the clock may be set back until schedules are worked out anew. Before that they wait until the time comes that they have been waiting
// for, so that none comes twice.
const farBack = 3 * time.Hour

// dueSchedule has a schedule fire whose time has come. What a jump of the clock has passed over is offered.
func (e *Engine) dueSchedule(st *reflexState, now time.Time, jumped time.Duration) {
	if st.of.Source.On.Kind != reflex.OnSchedule {
		return
	}
	if jumped < -farBack {
		st.next = time.Time{}
	}
	if st.next.IsZero() || now.Before(st.next) {
		e.schedule(st, now)
		e.armReflex(st.next, !st.next.IsZero())
		return
	}
	on, at := st.of.Source.On, st.next
	h := happening{occasion{event: map[string]any{"at": at.In(e.program.TimeZone).Format("15:04:05")}}, st.of, at, "It is " + at.In(e.program.TimeZone).Format("15:04:05")}
	skipped := e.switches.Skips[st.of.Source.ID].Equal(at)
	st.next, _ = on.Schedule.Next(now, e.program.TimeZone)
	e.armReflex(st.next, !st.next.IsZero())
	e.stream.push(Happened{at, show.On{Kind: reflex.OnSchedule, Schedule: on.Schedule}, h.text, h.event})
	switch {
	case skipped:
		delete(e.switches.Skips, st.of.Source.ID)
		e.stream.push(SwitchesChanged{e.switches.clone()})
		e.holdBack(st, h, "It was skipped this once.")
	case jumped > 0:
		h.text = fmt.Sprintf("The clock has jumped over %s", at.In(e.program.TimeZone).Format("15:04:05"))
		e.offer(h)
	default:
		e.happens(h)
	}
	e.publishReflex(st)
}

// seenEvery is how often it is kept that Synaptor was there, so that what was missed is known.
const seenEvery = time.Minute

// keepSeen keeps the time, where a schedule needs it, and looks at the clock that often.
func (e *Engine) keepSeen(now time.Time) {
	if len(e.program.Reflexes.By[program.What{Kind: reflex.OnSchedule}]) == 0 {
		return
	}
	if now.Sub(e.seen).Abs() >= seenEvery {
		e.seen = now
		e.stream.push(Seen{now.Round(0)})
	}
	e.armReflex(now.Add(seenEvery), true)
}

// Seen says that Synaptor was there at a time.
type Seen struct{ At time.Time }

// offer keeps an event for somebody to decide.
func (e *Engine) offer(h happening) {
	st := e.reflexState(h.reflex)
	if e.offBecause(h.reflex) != "" {
		return
	}
	st.offered = &h
	e.publishReflex(st)
}

// TakeOffer has a reflex fire that was offered, or leaves it.
type TakeOffer struct {
	Request
	Reflex string // id
	Leave  bool
}

func (a TakeOffer) carryOut(e *Engine) {
	st := e.reflexes[a.Reflex]
	if st == nil || st.offered == nil {
		return
	}
	h := *st.offered
	st.offered = nil
	if !a.Leave {
		h.text += ", taken up by " + a.Actor
		e.happens(h)
	}
	e.publishReflex(st)
}

// TryReflex has a reflex take up an event that somebody made.
type TryReflex struct {
	Request
	Reflex string // id
	Fields map[string]any
}

func (a TryReflex) carryOut(e *Engine) {
	if r := e.program.Reflex(a.Reflex); r != nil {
		e.happens(happening{occasion{event: a.Fields}, r, a.At, "Tried by " + a.Actor})
	}
}

// SkipOnce has a schedule passed over the next time, or not after all.
type SkipOnce struct {
	Request
	Reflex string // id
	Not    bool
}

func (a SkipOnce) carryOut(e *Engine) {
	st := e.reflexes[a.Reflex]
	if st == nil || st.next.IsZero() {
		return
	}
	if a.Not {
		delete(e.switches.Skips, a.Reflex)
	} else {
		e.switches.Skips[a.Reflex] = st.next
	}
	e.stream.push(SwitchesChanged{e.switches.clone()})
	e.publishReflex(st)
}
