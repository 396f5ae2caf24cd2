package engine

import (
	"math"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// mergeEvery is how often a parameter that is turned is sent at most.
const mergeEvery = 10 * time.Millisecond

// maxBound is how many values of a control are kept ready.
//
//limit:count values of a dial that are kept ready | nowhere
const maxBound = 500

// dialState is what lives of a control that is turned.
type dialState struct {
	merge  input.Merge
	slider input.Slider
	value  float64       // last asked for
	text   string        // the choice that was
	sent   reading.Value // what the device is to report once it has been done; nil: nothing was sent
	at     time.Time
	turned time.Time
	in     Input // the last one; its entry is that of the turn or the slide
	// commands counts what has left for it.
	commands int
	from     *program.Controller
	m        *program.Mapping
	r        *program.Response
	bound    map[string]*device.Bound // the action with its parameter, by value
}

// turnDial takes in a turn or a slide: the new value is sent at once where the last
// one is long enough ago, else soon.
func (e *Engine) turnDial(in Input, c *program.Controller, h *held, r *program.Response, ev input.Event) {
	key, m := controlKey(in), h.mapping
	st := e.dials[key]
	if st == nil || st.r != r {
		st = &dialState{merge: input.Merge{Every: mergeEvery}, slider: r.Dial.Slider, bound: map[string]*device.Bound{}}
		e.dials[key] = st
	}
	e.joinTouch(st, in)
	st.from, st.m, st.r = c, m, r
	if verdict := e.guarded(st.in, c, h, r, ev.Gesture, in.At); verdict != input.Fire {
		if verdict == input.Kept && !st.in.joined {
			e.openTouch(st)
			e.endTouch(st.in, journal.Guarded, "It goes on with the turn that the guard has kept back.")
		}
		st.in.joined = true
		return
	}
	if why := e.turnedValue(st, r.Dial, ev, in.At); why != "" {
		e.turnedNothing(st, why)
		return
	}
	st.at = in.At
	if st.merge.Now(in.At) {
		e.sendDial(st)
		return
	}
	e.openTouch(st)
	if next, due := st.merge.Next(); due {
		e.arm(next)
	}
}

// joinTouch has an input go on with the turn or the slide under way, in the journal entry of
// that, or begin another one. What is announced has an entry of its own: where one still waited to
// be sent, this one leaves instead.
func (e *Engine) joinTouch(st *dialState, in Input) {
	was := st.in
	if _, due := st.merge.Next(); due && was.Announced {
		e.endTouch(was, journal.Overtaken, "A later turn left instead of it.")
	}
	goesOn := was.Entry != "" && input.GoesOn(was.At, in.At) && in.Gesture == was.Gesture && in.Link == was.Link
	if goesOn && !in.Announced && !was.Announced {
		in.Entry, in.joined = was.Entry, true
	} else {
		st.commands = 0
	}
	st.in = in
}

// openTouch notes in the journal that a turn or a slide began, where that has not been done.
func (e *Engine) openTouch(st *dialState) {
	e.logInput(st.in, st.from, st.in.Gesture)
	st.in.joined = true
}

// endTouch ends the entry of a turn or a slide of which nothing left.
func (e *Engine) endTouch(in Input, outcome journal.Outcome, why string) {
	e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: why, Outcome: outcome, Reason: why})
}

// turnedNothing says why a turn or a slide sets no value.
func (e *Engine) turnedNothing(st *dialState, why string) {
	if st.in.joined {
		return // it was said when it began, or something has left since
	}
	e.openTouch(st)
	if st.r.Dial.Choice {
		e.refuse(st.in, st.m, time.Now(), why)
		return
	}
	e.endTouch(st.in, journal.Guarded, why)
}

// runsPerTurn is how often a turn starts a macro at most.
const runsPerTurn = 250 * time.Millisecond

// turnedTooFast tells whether a control started a macro a moment ago.
func (e *Engine) turnedTooFast(in Input) bool {
	key := controlKey(in)
	st := e.dials[key]
	if st == nil {
		st = &dialState{}
		e.dials[key] = st
	}
	if in.At.Sub(st.at) < runsPerTurn {
		return true
	}
	st.at = in.At
	return false
}

// turnedValue works out the new value from the present one; why says where there is none.
func (e *Engine) turnedValue(st *dialState, d *program.Dial, ev input.Event, now time.Time) (why string) {
	if d.Choice {
		if st.text = e.stepChoice(st, d, int(ev.Amount)); st.text == "" {
			return "There is nothing to choose from."
		}
		return ""
	}
	if d.Relative && ev.Gesture != input.Slide {
		// Steps that come before the last ones have left add up.
		st.value = min(max(st.value+ev.Amount*d.Range.Step, d.Range.Min), d.Range.Max)
		return ""
	}
	present := e.presentNumber(st, d)
	if ev.Gesture == input.Slide {
		v, met := st.slider.Move(ev.Amount, present)
		if st.value = v; !met {
			st.value = present
			return "It waits until it meets the value of " + st.r.Name + "."
		}
		return ""
	}
	speed := 0.0
	if gap := now.Sub(st.turned).Seconds(); gap > 0 && gap < 1 {
		speed = math.Abs(ev.Amount) / gap
	}
	st.turned = now
	if st.value = d.Range.Turn(present, ev.Amount, speed, ev.Gesture == input.PushTurn); math.IsInf(st.value, -1) {
		return "It is silent already."
	}
	return ""
}

// presentNumber is where a turn starts from: what this control asked for last while nothing else has
// changed it, else what anybody asked for while that is on its way, else what the device says.
func (e *Engine) presentNumber(st *dialState, d *program.Dial) float64 {
	if _, waits := st.merge.Next(); waits || !d.HasKey && st.sent != nil {
		return st.value
	}
	v := e.sent().Reading(d.Key).Value
	if st.sent != nil && reading.Equal(v, st.sent, d.Tolerance) {
		return st.value // finer than what the device keeps
	}
	if n, ok := reading.Number(v); ok {
		return n
	}
	return d.Range.Min
}

// stepChoice goes on by so many choices from the present one.
func (e *Engine) stepChoice(st *dialState, d *program.Dial, by int) string {
	choices := st.r.Type.ParamChoices(st.r.Bound.Action, d.Param, st.r.Device, st.r.Call.Params, e.table)
	choices = slices.DeleteFunc(choices, func(c device.Choice) bool { return c.Gone })
	if len(choices) == 0 {
		return ""
	}
	present := st.text
	if _, waits := st.merge.Next(); !waits && d.HasKey {
		present = expr.Text(e.sent().Reading(d.Key).Value)
	}
	at := slices.IndexFunc(choices, func(c device.Choice) bool { return c.Value == present })
	return choices[input.StepChoice(len(choices), at, by, d.Range.Wrap)].Value
}

// sendDial sends the value that a control was turned to.
func (e *Engine) sendDial(st *dialState) {
	d := st.r.Dial
	text := st.text
	if !d.Choice {
		v := st.value
		if d.Whole {
			v = math.Round(v)
		}
		text = strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64)
		if d.Relative {
			if v == 0 {
				if e.openTouch(st); st.commands == 0 {
					e.endTouch(st.in, journal.Overtaken, "The turns took each other back.")
				}
				return
			}
			st.value = 0
		}
	}
	bound := st.bound[text]
	if bound == nil {
		params := map[string]string{}
		for k, v := range st.r.Call.Params {
			params[k] = v
		}
		params[d.Param.ID] = text
		var err error
		if bound, err = st.r.Type.BindPassing(st.r.Device, st.r.Call.Action, params, e.program.FrameRate(e.program.Devices[st.r.Device])); err != nil {
			e.openTouch(st)
			e.refuse(st.in, st.m, time.Now(), err.Error())
			return
		}
		if len(st.bound) > maxBound {
			clear(st.bound)
		}
		st.bound[text] = bound
	}
	r := *st.r
	r.Bound, r.Payload, r.Dial = bound, nil, nil
	st.in.again = st.commands > 0
	if st.sent = nil; e.carryOut(st.in, st.from, st.m, &r, st.in.Gesture, time.Now()) {
		if st.sent = any(st.value); d.HasKey {
			st.sent = e.sent().Reading(d.Key).Value
		}
	}
	st.in.joined = true
	st.commands++
}

// dueDials sends the last value of every control whose time has come.
func (e *Engine) dueDials(now time.Time) {
	for key, st := range e.dials {
		next, due := st.merge.Next()
		switch {
		case due && !now.Before(next):
			st.merge.Now(now)
			e.sendDial(st)
		case due:
			e.arm(next)
		case now.Sub(st.at) > time.Minute:
			delete(e.dials, key)
		}
	}
}
