package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// raise tells of something that has happened: it is passed on, and the reflexes that wait for it have their turn. fits says which of them mean it; nil: all.
func (e *Engine) raise(what program.What, on show.On, at time.Time, text string, o occasion, fits func(show.On) bool) {
	e.stream.push(Happened{at, on, text, o.event})
	for _, r := range e.program.Reflexes.By[what] {
		if fits == nil || fits(r.Source.On) {
			e.happens(happening{o, r, at, text})
		}
	}
}

// sees tells the reflexes that wait for a reading what it was and is. What nobody knew before, as after a start or while a device tells all it has, is
// nothing that happens.
func (e *Engine) sees(k reading.Key, was reading.Reading, by led) {
	list, follow := e.program.Reflexes.By[program.OfReading(k)], e.program.Reflexes.Follows[k]
	if len(list) == 0 && len(follow) == 0 {
		return
	}
	now, at := e.table.Reading(k), time.Now()
	known := was.Quality != reading.Unknown && now.Quality != reading.Unknown
	if rt := e.devices[k.Device]; rt != nil && rt.state.Phase != link.Up {
		known = false
	}
	for _, r := range list {
		st := e.reflexState(r)
		if !known {
			st.Watch.Forget()
			continue
		}
		if st.Watch.See(was.Value, now.Value, at) {
			e.happens(e.ofReading(r, was.Value, at, by))
		}
		e.armReflex(st.Watch.Next())
	}
	if known {
		for _, r := range follow {
			e.follow(r)
		}
	}
}

func (e *Engine) ofReading(r *program.Reflex, was reading.Value, at time.Time, by led) happening {
	k := reading.Key{Device: r.Source.On.Device, Path: r.Source.On.Path}
	now := e.table.Reading(k).Value
	return happening{occasion{map[string]any{"value": now, "was": was}, by}, r, at,
		fmt.Sprintf("%s is %s", e.program.Called(k, e.table), e.program.Word(k, now, e.table))}
}

// forgets has reflexes begin anew that wait for readings of a device that is away.
func (e *Engine) forgets(device string) {
	for what, list := range e.program.Reflexes.By {
		if what.Kind != reflex.OnReading || what.Of != device {
			continue
		}
		for _, r := range list {
			e.reflexState(r).Watch.Forget()
		}
	}
}

// linked tells the reflexes that wait for a link that it has come or gone. The first time after a start is not a return, and parking is a hand's doing. After
// an unclean end the first time is offered.
func (e *Engine) linked(rt *deviceState, id string, was, now link.Phase) {
	edge, word, first := "", "", !rt.came
	switch {
	case now == link.Up && was != link.Up && (!first || e.cfg.Unclean):
		edge, word = show.Comes, "answers again"
	case away(now) && now != link.Parked && !away(was) && rt.came:
		edge, word = show.Goes, "does not answer any more"
	}
	if now == link.Up {
		rt.came = true
		e.followAll(id)
		e.dueStart(time.Now())
	}
	if edge == "" {
		return
	}
	name := e.program.Devices[id].Name
	o := occasion{event: map[string]any{"device": name}}
	if first && edge == show.Comes {
		for _, r := range e.program.Reflexes.By[program.What{Kind: reflex.OnLink, Of: id}] {
			if r.Source.On.Edge == edge {
				e.offer(happening{o, r, time.Now(), name + " answers, after Synaptor was cut off"})
			}
		}
		return
	}
	e.raise(program.What{Kind: reflex.OnLink, Of: id}, show.On{Kind: reflex.OnLink, Device: id, Edge: edge}, time.Now(), name+" "+word, o,
		func(on show.On) bool { return on.Edge == edge })
}

// hears tells the reflexes that wait for a device's own events of them.
func (e *Engine) hears(id string, at time.Time, events []device.Event) {
	for _, ev := range events {
		fields := map[string]any{}
		for name, value := range ev.Fields {
			fields[name] = value
		}
		e.raise(program.What{Kind: reflex.OnDevice, Of: id, Which: ev.ID}, show.On{Kind: reflex.OnDevice, Device: id, Event: ev.ID}, at, ev.Title, occasion{event: fields}, nil)
	}
}

// gestured tells the reflexes that wait for a gesture of a control of it.
func (e *Engine) gestured(in Input, c *program.Controller, ev input.Event) {
	on := show.On{Kind: reflex.OnGesture, Controller: c.ID, Control: in.Control, Gesture: ev.Gesture}
	what := program.What{Kind: reflex.OnGesture, Of: c.ID}
	if len(e.program.Reflexes.By[what]) == 0 {
		return // the journal has all gestures
	}
	o := occasion{event: map[string]any{"control": in.Control, "gesture": ev.Gesture, "amount": ev.Amount, "who": in.Actor}, led: led{entry: in.Entry}}
	e.raise(what, on, in.At, fmt.Sprintf("%s of %s got a %s", in.Control, c.Name, ev.Gesture), o,
		func(w show.On) bool {
			return w.Gesture == ev.Gesture && (w.Control == "" || w.Control == in.Control)
		})
}

// macroDid tells the reflexes that wait for a macro that it has begun or ended.
func (e *Engine) macroDid(r *run, edge, word string) {
	on := show.On{Kind: reflex.OnMacro, Macro: r.Macro, Edge: edge}
	o := occasion{map[string]any{"macro": r.Name, "who": r.in.Actor, "reason": r.Reason}, led{r.in.chain, r.ID}}
	does := func(w show.On) bool { return w.Edge == edge }
	e.raise(program.What{Kind: reflex.OnMacro, Of: r.Macro}, on, time.Now(), r.Name+" "+word, o, does)
	for _, x := range e.program.Reflexes.By[program.What{Kind: reflex.OnMacro}] { // that wait for any
		if does(x.Source.On) {
			e.happens(happening{o, x, time.Now(), r.Name + " " + word})
		}
	}
}

// macroEnded tells how a run has ended.
func (e *Engine) macroEnded(r *run) {
	switch r.State {
	case macro.Failed:
		e.macroDid(r, show.Fails, "has failed")
	case macro.Halted:
		e.macroDid(r, show.Halts, "was halted")
	default:
		e.macroDid(r, show.Ends, "has ended")
	}
}

// timecode tells the reflexes that wait for a point in time code that it was passed.
func (e *Engine) timecode(was, now any) {
	before, _ := was.(string)
	after, _ := now.(string)
	for _, r := range e.program.Reflexes.By[program.What{Kind: reflex.OnTimecode}] {
		if reflex.Passes(before, after, r.Source.On.Timecode) {
			e.happens(happening{occasion{event: map[string]any{"timecode": after}}, r, time.Now(), "Time code has passed " + r.Source.On.Timecode})
		}
	}
}

// PanelDid tells that a panel was paired, or is lost.
func (e *Engine) PanelDid(name string, paired bool) { e.post(panelDid{name, paired}) }

type panelDid struct {
	name   string
	paired bool
}

func (e *Engine) panelDid(p panelDid) {
	edge, word := show.Goes, "is lost"
	if p.paired {
		edge, word = show.Comes, "was paired"
	}
	e.raise(program.What{Kind: reflex.OnPanel}, show.On{Kind: reflex.OnPanel, Edge: edge}, time.Now(), p.name+" "+word,
		occasion{event: map[string]any{"panel": p.name}}, func(on show.On) bool { return on.Edge == edge })
}

// startWithin is how long a start waits for the devices that a reflex needs.
const startWithin = 15 * time.Second

// started tells the reflexes that wait for a start of it, once; those whose devices do not answer yet wait for them.
func (e *Engine) started() {
	if e.startAt.IsZero() {
		e.startAt = time.Now()
		on := show.On{Kind: reflex.OnStart, Edge: show.Clean}
		if e.cfg.Unclean {
			on.Edge = show.Unclean
		}
		e.stream.push(Happened{e.startAt, on, "Synaptor has started", map[string]any{"clean": !e.cfg.Unclean}})
		for _, r := range e.program.Reflexes.By[program.What{Kind: reflex.OnStart}] {
			if edge := r.Source.On.Edge; edge == "" || (edge == show.Unclean) == e.cfg.Unclean {
				e.starting = append(e.starting, happening{occasion{event: map[string]any{"clean": !e.cfg.Unclean}}, r, e.startAt, "Synaptor has started"})
			}
		}
	}
	e.dueStart(time.Now())
}

// dueStart has the reflexes of the start fire whose devices answer, or after a while.
func (e *Engine) dueStart(now time.Time) {
	var waits []happening
	for _, h := range e.starting {
		switch {
		case e.cfg.Unclean:
			e.offer(h)
		case e.canStart(h.reflex) || now.Sub(e.startAt) >= startWithin:
			e.happens(h)
		default:
			waits = append(waits, h)
		}
	}
	if e.starting = waits; len(waits) > 0 {
		e.armReflex(e.startAt.Add(startWithin), true)
	}
}

// canStart tells whether all devices that a reflex drives answer.
func (e *Engine) canStart(r *program.Reflex) bool {
	need := []string{r.Then.Device}
	if mac := e.program.RunsMacro(r.Then); mac != nil {
		need = mac.Devices
	}
	for _, id := range need {
		if rt := e.devices[id]; id != program.SelfID && rt != nil && rt.state.Phase != link.Up && rt.state.Phase != link.Parked {
			return false
		}
	}
	return true
}
