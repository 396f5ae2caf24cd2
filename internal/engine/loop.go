package engine

import (
	"runtime"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// arrival is what waits its turn among the inputs: a touch or a gesture, or something
// that was asked for without a control.
type arrival struct {
	in    Input
	asked asked // nil: in counts
}

// asked is what somebody asked for without a control. It is carried out in the engine's
// goroutine, in order with the inputs.
type asked interface{ carryOut(*Engine) }

// Input hands in an input.
func (e *Engine) Input(in Input) { e.arrive(arrival{in: in}) }

func (e *Engine) arrive(a arrival) {
	select {
	case e.inputs <- a:
	case <-e.quit:
	}
}

// Use puts a new compiled show in force.
func (e *Engine) Use(s *program.Program) { e.post(s) }

// ReleaseAll lets go of everything that a link holds, because it was lost: in order with the inputs, so that
// what is pressed after it is held.
func (e *Engine) ReleaseAll(link string) { e.arrive(arrival{asked: releaseAll{link}}) }

// Changes is what the engine tells whoever follows it.
func (e *Engine) Changes() *Changes { return e.stream }

// Sync waits until the engine has taken in everything that was handed to it before.
func (e *Engine) Sync() { _ = e.call(func() error { return nil }) }

type releaseAll struct{ link string }

func (a releaseAll) carryOut(e *Engine) {
	e.uncount(a.link)
	e.releaseAll(a.link)
}

// SayOwn sets a reading of Synaptor itself that comes from outside of the engine, such as time code.
func (e *Engine) SayOwn(path string, value any) { e.post(sayOwn{path, value}) }

type sayOwn struct {
	path  string
	value any
}

func (e *Engine) post(ev any) {
	select {
	case e.events <- ev:
	case <-e.quit:
	}
}

func (e *Engine) run() {
	defer close(e.done)
	for e.turn() {
	}
	for _, rt := range e.devices {
		e.closeLink(rt)
	}
}

// turn does one thing; false when the engine is to end. A panic ends what was being
// done and nothing else: see contain.
func (e *Engine) turn() (goOn bool) {
	e.doing = doing{}
	defer func() {
		if p := recover(); p != nil {
			e.contain(p)
			goOn = true
		}
	}()
	// Halts first, then what is due, then inputs: a flood of reports must not make a
	// press wait.
	if e.takeHalts() {
		return true
	}
	e.startWaiting()
	if e.reoffer {
		e.reoffer = false
		if e.tidyOffers() {
			e.publishLeftOver()
		}
	}
	if e.recheck {
		e.recheck = false
		e.dueRuns(time.Now())
	}
	if e.pace() {
		return true
	}
	select {
	case a := <-e.inputs:
		e.take(a)
		return true
	default:
	}
	if e.takeHappening() { // after presses
		return true
	}
	select {
	case h := <-e.halts:
		e.haltAsked(h)
	case a := <-e.inputs:
		e.take(a)
	case ev := <-e.events:
		e.event(ev)
	case <-e.timer.C:
		e.dueWork(time.Now())
	case <-e.quit:
		return false
	}
	return true
}

// takeHalts carries out the halts that have been handed in, and reports whether any was. Whoever
// dispatches for a run asks before each command, so none leaves after a halt has come.
func (e *Engine) takeHalts() (any bool) {
	for {
		select {
		case h := <-e.halts:
			was := e.doing
			e.haltAsked(h)
			e.doing, any = was, true
		default:
			return any
		}
	}
}

func (e *Engine) take(a arrival) {
	if a.asked != nil {
		a.asked.carryOut(e)
		return
	}
	if in := a.in; in.Signal != "" {
		Signal{Request{in.Entry, in.At, in.Via, in.Actor, in.By}, in.Signal, in.Fields}.carryOut(e)
		return
	}
	e.doing.entry, e.doing.control = a.in.Entry, controlKey(a.in)
	e.input(a.in)
}

// pace does what is due to the point while the next step of a run is near: it looks at
// the clock and takes in what comes meanwhile, since timers are too late. false means
// that no step is near.
func (e *Engine) pace() bool {
	if e.precise.IsZero() || e.cfg.Pacing == Sleep {
		return false
	}
	now := time.Now()
	if !now.Before(e.precise) {
		e.dueRuns(now)
		return true
	}
	if e.precise.Sub(now) > wakeEarly {
		return false
	}
	select {
	case a := <-e.inputs:
		e.take(a)
	case ev := <-e.events:
		e.event(ev)
	case <-e.quit:
		return false
	default:
		if e.precise.Sub(now) > lookOnly {
			runtime.Gosched()
		}
	}
	return true
}

func (e *Engine) event(ev any) {
	switch ev := ev.(type) {
	case *program.Program:
		e.use(ev)
	case sayOwn:
		was := e.told[ev.path]
		e.told[ev.path] = ev.value
		e.reportOwn(ev.path, ev.value)
		if ev.path == "timecode/now" {
			e.timecode(was, ev.value)
		}
	case panelDid:
		e.panelDid(ev)
	case claimsChanged:
		e.publishSelf()
	case linkChanged:
		if rt := e.current(ev.state.Device, ev.gen); rt != nil {
			e.doing.device = ev.state.Device
			e.linkChanged(rt, ev.state)
		}
	case reported:
		takenIn(ev.taken)
		if rt := e.current(ev.device, ev.gen); rt != nil {
			e.doing.device = ev.device
			e.reported(rt, ev)
		}
	case listed:
		if rt := e.current(ev.device, ev.gen); rt != nil {
			e.doing.device = ev.device
			e.listed(rt, ev)
		}
	case askedAll:
		e.table.Asked(reading.Key{Device: ev.device}, ev.at)
	case leaving:
		e.leaving(ev)
	case written:
		e.written(ev)
	case dropped:
		e.dropped(ev)
	case replied:
		e.doing.device = ev.device
		e.replied(ev)
	case answered:
		e.doing.device = ev.device
		e.answered(ev)
	case raised:
		takenIn(ev.taken)
		if e.current(ev.device, ev.gen) != nil {
			e.stream.push(EventsRaised{ev.device, ev.at, ev.events})
			e.hears(ev.device, ev.at, ev.events)
		}
	case ping:
		e.ping(ev)
	case callRequest:
		// Whoever waits is answered, whatever happens.
		defer close(ev.done)
		ev.done <- ev.do()
	case linkRequest:
		if rt := e.devices[ev.device]; rt != nil && rt.link != nil {
			ev.do(rt.link)
		}
	}
}
