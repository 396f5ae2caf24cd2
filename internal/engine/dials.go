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
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// Dial is a compiled turn or slide: which parameter of the action it changes.
type Dial struct {
	param    device.ParamSpec
	dial     input.Dial
	slider   input.Slider
	whole    bool
	choice   bool        // it steps through choices
	by       bool        // the action moves by so much, such as a jog: there is no value to start from
	key      reading.Key // the reading that has the value
	hasKey   bool
	compiled map[string]*device.Bound // by value; owned by the engine
}

// mergeEvery is how often a parameter that is turned is sent at most.
const mergeEvery = 10 * time.Millisecond

// dialMemory is how long a value that was sent counts as the present one, until
// the device reports it.
const dialMemory = time.Second

// dialState is what lives of a control that is turned.
type dialState struct {
	merge  input.Merge
	slider input.Slider
	value  float64
	text   string // of a choice
	at     time.Time
	turned time.Time
	in     Input
	from   *Controller
	m      *Mapping
	r      *Response
}

func needsDial(gesture string) bool {
	switch gesture {
	case input.Turn, input.PushTurn, input.Slide:
		return true
	}
	return false
}

// compileDial finds the parameter that a turn changes: the one that is named,
// else the first number, else the first choice. It is nil where there is none.
func compileDial(d *Device, b *device.Bound, spec *show.Dial) *Dial {
	if spec == nil {
		spec = &show.Dial{}
	}
	pick := func(fits func(device.ParamSpec) bool) (device.ParamSpec, bool) {
		i := slices.IndexFunc(b.Action.Params, fits)
		if i < 0 {
			return device.ParamSpec{}, false
		}
		return b.Action.Params[i], true
	}
	p, ok := pick(func(p device.ParamSpec) bool { return p.ID == spec.Param })
	if !ok {
		p, ok = pick(device.ParamSpec.IsNumber)
	}
	if !ok {
		p, ok = pick(func(p device.ParamSpec) bool { return p.Of != "" || len(p.Options) > 0 })
	}
	if !ok {
		return nil
	}
	out := &Dial{param: p, whole: p.Type == "int", choice: !p.IsNumber(), compiled: map[string]*device.Bound{}}
	lo, hi := 0.0, 100.0
	if p.Min != nil {
		lo = *p.Min
	}
	if p.Max != nil {
		hi = *p.Max
	}
	if spec.Min != nil {
		lo = *spec.Min
	}
	if spec.Max != nil {
		hi = *spec.Max
	}
	affects := b.Affects()
	out.by = (len(affects) == 0 || b.Moves()) && lo < 0 && hi > 0
	step := spec.Step
	if step == 0 && out.by {
		step = 1
	}
	if step == 0 {
		step = (hi - lo) / 100
		if p.Type == "db" {
			step = 0.5
		}
		if out.whole {
			step = math.Max(1, math.Round(step))
		}
	}
	out.dial = input.Dial{Step: step, Min: lo, Max: hi, Wrap: spec.Wrap, Acceleration: spec.Acceleration}
	out.slider = input.Slider{Min: lo, Max: hi, Jump: spec.Jump, Inverted: spec.Inverted}
	if len(affects) > 0 {
		out.key, out.hasKey = affects[0], true
	}
	return out
}

// compileTalk finds the two halves of a talk: the explicit actions of a toggle,
// the first of which opens.
func (n *Snapshot) compileTalk(r *Response, d *Device, drivers Drivers) {
	if len(r.Bound.Action.Instead) < 2 {
		return
	}
	half := func(action string) *Response {
		c := r.Call
		c.Action = action
		return n.compileResponse(show.Response{Gesture: "half", Action: c}, drivers)
	}
	r.Opens, r.Closes = half(r.Bound.Action.Instead[0]), half(r.Bound.Action.Instead[1])
}

// turn takes in a turn or a slide: the new value is sent at once where the last
// one is long enough ago, else soon.
func (e *Engine) turn(in Input, c *Controller, m *Mapping, r *Response, ev input.Event) {
	key := in.Controller + "/" + in.Control
	st := e.dials[key]
	if st == nil || st.r != r {
		st = &dialState{merge: input.Merge{Every: mergeEvery}, slider: r.Dial.slider}
		e.dials[key] = st
	}
	st.in, st.from, st.m, st.r = in, c, m, r
	if !e.turned(st, r.Dial, ev, in.At) {
		return
	}
	st.at = in.At
	if st.merge.Now(in.At) {
		e.sendDial(st)
		return
	}
	if next, due := st.merge.Next(); due {
		e.arm(next)
	}
}

// runsPerTurn is how often a turn starts a macro at most.
const runsPerTurn = 250 * time.Millisecond

// turnedTooFast tells whether a control started a macro a moment ago.
func (e *Engine) turnedTooFast(in Input) bool {
	key := in.Controller + "/" + in.Control
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

// turned works out the new value; false when a slider has not met it yet.
func (e *Engine) turned(st *dialState, d *Dial, ev input.Event, now time.Time) bool {
	if d.choice {
		st.text = e.stepChoice(st, d, int(ev.Amount))
		return st.text != ""
	}
	if d.by && ev.Gesture != input.Slide {
		// Steps that come before the last ones have left add up.
		st.value = min(max(st.value+ev.Amount*d.dial.Step, d.dial.Min), d.dial.Max)
		return true
	}
	present := st.value
	if st.at.IsZero() || now.Sub(st.at) > dialMemory {
		present = d.dial.Min
		if d.hasKey {
			r := e.table.Get(d.key)
			v := r.Value
			if r.Quality == reading.Pending {
				v = r.Expected
			}
			switch n := v.(type) {
			case float64:
				present = n
			case int:
				present = float64(n)
			}
		}
	}
	if ev.Gesture == input.Slide {
		v, ok := st.slider.Move(ev.Amount, present)
		st.value = v
		return ok
	}
	speed := 0.0
	if gap := now.Sub(st.turned).Seconds(); gap > 0 && gap < 1 {
		speed = math.Abs(ev.Amount) / gap
	}
	st.turned = now
	st.value = d.dial.Turn(present, ev.Amount, speed, ev.Gesture == input.PushTurn)
	return true
}

// stepChoice goes on by so many choices from the present one.
func (e *Engine) stepChoice(st *dialState, d *Dial, by int) string {
	t := e.snap.Devices[st.r.Device].Type
	choices := t.ParamChoices(st.r.Bound.Action, d.param, st.r.Device, st.r.Call.Params, world{e.table})
	choices = slices.DeleteFunc(choices, func(c device.Choice) bool { return c.Gone })
	if len(choices) == 0 {
		return ""
	}
	present := st.text
	if present == "" && d.hasKey {
		present = expr.Text(e.table.Get(d.key).Value)
	}
	at := slices.IndexFunc(choices, func(c device.Choice) bool { return c.Value == present })
	return choices[min(max(at+by, 0), len(choices)-1)].Value
}

// sendDial sends the value that a control was turned to.
func (e *Engine) sendDial(st *dialState) {
	d := st.r.Dial
	text := st.text
	if !d.choice {
		v := st.value
		if d.whole {
			v = math.Round(v)
		}
		text = strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64)
		if d.by {
			if v == 0 {
				return
			}
			st.value = 0
		}
	}
	bound := d.compiled[text]
	if bound == nil {
		params := map[string]string{}
		for k, v := range st.r.Call.Params {
			params[k] = v
		}
		params[d.param.ID] = text
		dev := e.snap.Devices[st.r.Device]
		if dev == nil || dev.Type == nil {
			return
		}
		var err error
		if bound, err = dev.Type.Bind(dev.ID, st.r.Call.Action, params, e.snap.FrameRate(dev)); err != nil {
			e.begin(st.in, st.from, st.in.Gesture)
			e.refuse(st.in, st.m, time.Now(), err.Error())
			return
		}
		if len(d.compiled) > 500 {
			clear(d.compiled)
		}
		d.compiled[text] = bound
	}
	r := *st.r
	r.Bound, r.Payload, r.Dial = bound, nil, nil
	e.carryOut(st.in, st.from, st.m, &r, input.Turn, time.Now())
}

// dueDials sends the last value of every control whose time has come.
func (e *Engine) dueDials(now time.Time) {
	for key, st := range e.dials {
		next, due := st.merge.Next()
		switch {
		case due && !now.Before(next):
			st.merge.Now(now)
			st.in.Entry = journal.NextID()
			e.sendDial(st)
		case due:
			e.arm(next)
		case now.Sub(st.at) > time.Minute:
			delete(e.dials, key)
		}
	}
}
