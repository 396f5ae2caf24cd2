package engine

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// TimersChanged says where timers stand, by id: they survive a restart.
type TimersChanged struct{ All map[string]reflex.Timer }

// onTimer does something to a timer of the show.
func (e *Engine) onTimer(id string, do func(src *show.Timer, t *reflex.Timer, now time.Time) (string, error)) (string, error) {
	src := e.program.Show.Timer(id)
	if src == nil {
		return "", errors.New("this timer is gone")
	}
	t, now := e.timers[id], time.Now().Round(0)
	text, err := do(src, &t, now)
	if err != nil {
		return "", err
	}
	e.timers[id] = t
	e.stream.push(TimersChanged{maps.Clone(e.timers)})
	e.publishTimer(src, time.Now(), e.reportOwn)
	return fmt.Sprintf("The timer %s %s", src.Name, text), nil
}

// startTimer starts a timer, which begins anew where it has ended.
func (e *Engine) startTimer(src *show.Timer, t *reflex.Timer, now time.Time) string {
	if src.Kind != reflex.Up && src.Kind != reflex.To && !t.Runs() && e.shows(src, *t, now) == 0 {
		t.Reset(now)
	}
	if src.Kind == reflex.To {
		t.Until, _ = reflex.Schedule{At: src.At}.Next(now, e.program.TimeZone)
	}
	t.Start(now)
	return "runs"
}

// timerAction carries out an action of a timer.
func (e *Engine) timerAction(r *program.Response) (string, error) {
	params := r.Bound.Params
	return e.onTimer(params["timer"], func(src *show.Timer, t *reflex.Timer, now time.Time) (string, error) {
		switch action := r.Call.Action; {
		case action == "timer-stand":
			given, err := e.given(r)
			if err != nil {
				return "", err
			}
			return given[1], t.Stand(given[1])
		case action == "timer-reset":
			t.Reset(now)
			t.Length = 0
			if src.Kind == reflex.To {
				t.Since, t.Until = time.Time{}, time.Time{}
			}
			return "begins anew", nil
		case action == "timer-set":
			s, _ := strconv.ParseFloat(params["seconds"], 64)
			t.Length = time.Duration(s) * time.Second
			t.Reset(now)
			return "is set to " + reflex.Shown(t.Length, reflex.Down, false), nil
		case action == "timer-stop", action == "timer" && t.Runs():
			t.Stop(now)
			return "stands still", nil
		}
		return e.startTimer(src, t, now), nil
	})
}

// shows is what a timer shows at a time.
func (e *Engine) shows(src *show.Timer, t reflex.Timer, now time.Time) time.Duration {
	return t.At(src.Kind, time.Duration(src.Seconds)*time.Second, now)
}

// publishTimer says where a timer stands as readings of Synaptor; one that has come to its end stands still.
func (e *Engine) publishTimer(src *show.Timer, at time.Time, say func(path string, v any)) {
	t := e.timers[src.ID]
	now := at.Round(0)
	left := e.shows(src, t, now)
	ended := src.Kind != reflex.Up && t.Runs() && left == 0
	if ended {
		t.Stop(now)
		e.timers[src.ID] = t
		e.stream.push(TimersChanged{maps.Clone(e.timers)})
	}
	seconds := int(left / time.Second)
	if src.Kind != reflex.Up {
		seconds = int((left + time.Second - 1) / time.Second)
	}
	path := "timer/" + src.ID
	say(path+"/name", src.Name)
	say(path+"/seconds", seconds)
	say(path+"/text", reflex.Shown(left, src.Kind, src.Coarse))
	say(path+"/ended", src.Kind != reflex.Up && left == 0 && (t.Passed > 0 || ended || !t.Until.IsZero()))
	say(path+"/running", t.Runs())
	say(path+"/stood", t.Stood())
	if t.Runs() {
		rest := left % time.Second
		if src.Kind == reflex.Up {
			rest = time.Second - rest
		}
		e.armReflex(at.Add(cmp.Or(rest, time.Second)), true)
	}
}

// dueTimers moves the timers on that run.
func (e *Engine) dueTimers(now time.Time) {
	for _, src := range e.program.Show.Timers() {
		if e.timers[src.ID].Runs() {
			e.publishTimer(src, now, e.reportOwn)
		}
	}
}

// publishTimers says where all timers stand; those of other shows are kept, as far as there is room.
func (e *Engine) publishTimers(say func(path string, v any)) {
	if len(e.timers) > maxForeign {
		maps.DeleteFunc(e.timers, func(id string, _ reflex.Timer) bool { return e.program.Show.Timer(id) == nil })
	}
	for _, src := range e.program.Show.Timers() {
		e.publishTimer(src, time.Now(), say)
	}
}

// signal is what is known of a signal.
type signal struct {
	name  string
	count int
}

// maxSignals is how many signals have readings.
//
//limit:count signals that Synaptor has readings of | nowhere; others start reflexes all the same
const maxSignals = 200

// Signal sends a signal, with what it brings along.
type Signal struct {
	Request
	Name   string
	Fields map[string]any
}

func (a Signal) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	e.openOwn(a.Request, "Signal "+a.Name, originOf("Signals", "signal", a.Request))
	e.confirmOwn(a.Request, e.sendSignal(a.Name, a.Fields, a.Actor, nil))
}

// sendSignal has the reflexes fire that wait for a signal.
func (e *Engine) sendSignal(name string, fields map[string]any, actor string, chain []string) string {
	key := show.SignalKey(name)
	s := e.signals[key]
	if s == nil && len(e.signals) < maxSignals {
		s = &signal{name: name}
		e.signals[key] = s
	}
	if s != nil {
		s.count++
		e.publishSignal(key, e.reportOwn)
	}
	event := map[string]any{}
	maps.Copy(event, fields)
	event["signal"], event["who"] = name, actor
	e.raise(program.What{Kind: reflex.OnSignal, Of: key}, show.On{Kind: reflex.OnSignal, Signal: name}, time.Now(), "The signal "+name+" has come", occasion{event, led{chain, e.doing.entry}}, nil)
	switch n := len(e.program.Reflexes.By[program.What{Kind: reflex.OnSignal, Of: key}]); n {
	case 0:
		return "The signal " + name + " is sent; no reflex waits for it"
	case 1:
		return "The signal " + name + " is sent; a reflex waits for it"
	default:
		return fmt.Sprintf("The signal %s is sent; %d reflexes wait for it", name, n)
	}
}

func (e *Engine) publishSignal(key string, say func(path string, v any)) {
	say("signal/"+key+"/name", e.signals[key].name)
	say("signal/"+key+"/count", e.signals[key].count)
}

// publishSignals says how often signals have come: those that reflexes wait for, and those that came.
func (e *Engine) publishSignals(say func(path string, v any)) {
	for what, list := range e.program.Reflexes.By {
		if what.Kind == reflex.OnSignal && e.signals[what.Of] == nil && len(e.signals) < maxSignals {
			e.signals[what.Of] = &signal{name: list[0].Source.On.Signal}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(e.signals)) {
		e.publishSignal(key, say)
	}
}
