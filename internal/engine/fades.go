package engine

import (
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// fadeRate is how often a second a fade is sent to a device that has no frame rate.
const fadeRate = 25

// fade is a number on its way.
type fade struct {
	run   *run  // nil: a reflex that holds something has begun it
	in    Input // whose fade it is
	step  int   // of the run's steps
	order macro.Order
	resp  *program.Response
	param device.ParamSpec
	line  *device.Ramp
	began time.Time
	every time.Duration
	next  time.Time
	title string
	key   reading.Key
	end   reading.Value // what the reading will be
	trail macro.Trail
}

// startFade begins a fade: the device's own where it can, else one in steps from
// where the number is.
func (e *Engine) startFade(r *run, o macro.Order, at int) {
	resp := r.macro.Actions[o.Step.ID]
	in := r.in
	in.At = time.Now()
	title := e.title(resp)
	if reason := e.refusal(in, "", resp); reason != "" {
		e.stepUnsent(r, at, title, reason)
		return
	}
	if own := resp.Bound.Action.Fade; own != "" {
		e.doStep(r, o, at, e.withParam(resp, own, strconv.FormatInt(o.Over.Milliseconds(), 10)))
		return
	}
	f, why := e.beginFade(&fade{run: r, in: r.in, step: at, order: o, resp: resp, title: title})
	if f == nil {
		e.stepUnsent(r, at, title, why)
	}
}

// beginFade begins a fade in steps, from where the number is; why says why it does not.
func (e *Engine) beginFade(f *fade) (begun *fade, why string) {
	resp, o := f.resp, f.order
	i := slices.IndexFunc(resp.Bound.Action.Params, device.ParamSpec.IsNumber)
	affects := resp.Bound.Affects()
	if i < 0 || len(affects) == 0 {
		return nil, "This action has no number that could be faded."
	}
	f.in.At = time.Now()
	param := resp.Bound.Action.Params[i]
	d := e.program.Devices[resp.Device]
	e.sendBefore(d.ID)
	line := d.Type.Ramp(affects[0].Path, e.table.Reading(affects[0]), resp.Bound.Params[param.ID], o.Step.Curve)
	if line == nil {
		return nil, "Nobody knows where it stands, so it cannot be faded from there."
	}
	rate := d.Device.FrameRate
	if rate <= 0 {
		rate = fadeRate
	}
	f.param, f.line, f.key, f.began, f.every = param, line, affects[0], o.At, time.Duration(float64(time.Second)/rate)
	// The device may still say where it was before what is on its way to it.
	before, known := reading.Number(e.table.Reading(f.key).Value)
	if !known {
		before = line.At(0)
	}
	f.trail = macro.NewTrail(before, slackOf(d, f.key))
	f.trail.Sent(f.in.At, line.At(0))
	e.log(journal.Event{Entry: f.in.Entry, At: f.in.At, Stage: journal.StageDispatch, Text: f.title + ": the fade begins"})
	for _, eff := range resp.Bound.Effects(e.sent()) {
		if eff.Key == f.key {
			f.end = eff.Value
		}
	}
	e.takeOverFades(f.key, nil, f.title)
	e.fades = append(e.fades, f)
	e.stepFade(f, f.in.At) // at once: what the next steps find, a put back above all, is that it has begun
	return f, ""
}

// fadeEnds ends a fade that cannot go on.
func (e *Engine) fadeEnds(f *fade, reason string) {
	e.endFade(f)
	if f.run != nil {
		e.stepUnsent(f.run, f.step, f.title, reason)
		return
	}
	e.refuse(f.in, nil, time.Now(), reason)
}

// slackOf is how far what a device reports may be from what it was sent.
func slackOf(d *program.Device, k reading.Key) float64 {
	least := 0.01
	if def := d.Type.Reading(k.Path); def != nil {
		if def.Type == "int" {
			least = 1
		}
		return max(least, 2*def.Tolerance)
	}
	return least
}

// withParam is a response with one parameter changed; its problem says where it cannot
// be.
func (e *Engine) withParam(r *program.Response, param, value string) *program.Response {
	c := *r
	if c.Payload = nil; c.Problem != "" {
		return &c
	}
	params := maps.Clone(r.Bound.Params)
	params[param] = value
	c.Call.Params = params
	var err error
	if c.Bound, err = r.Type.BindPassing(r.Device, r.Call.Action, params, e.program.FrameRate(e.program.Devices[r.Device])); err != nil {
		c.Problem = err.Error()
	}
	return &c
}

// share is how far a fade is with its next step: it moves with its first one, so that it begins
// when it is to, and is there with its last one at its end.
func (f *fade) share(now time.Time) float64 {
	if f.order.Over <= 0 {
		return 1
	}
	return math.Min(1, float64(now.Sub(f.began)+f.every)/float64(f.order.Over+f.every))
}

// stepFade sends where a fade is now. Its last value is the one that was asked for.
func (e *Engine) stepFade(f *fade, now time.Time) {
	share := f.share(now)
	done := share >= 1
	value := f.line.At(share)
	if f.param.Type == "int" {
		value = math.Round(value)
	}
	rounded := math.Round(value*100) / 100
	if rounded == 0 {
		rounded = 0 // and not minus nothing
	}
	text := device.ValueText(rounded)
	if done {
		text = f.resp.Bound.Params[f.param.ID]
		e.endFade(f)
	} else {
		f.next = now.Add(f.every)
		if end := f.began.Add(f.order.Over); f.next.After(end) {
			f.next = end
		}
		e.armStep(f.next)
	}
	in := f.in
	in.At = now
	f.trail.Sent(now, rounded)
	resp := e.withParam(f.resp, f.param.ID, text)
	if reason := e.refusal(in, "", resp); reason != "" {
		e.fadeEnds(f, reason)
		return
	}
	by := cause{run: f.run, step: f.step, runs: f.order.Runs, title: f.title, quiet: !done, fade: f, aside: f.run == nil && !done}
	if f.run != nil {
		by.bases = f.run.bases
	}
	cmd, err := e.dispatch(in, by, resp)
	if err != nil {
		e.fadeEnds(f, err.Error())
		return
	}
	e.logDispatch(cmd, resp)
}

// dueFades sends the next step of every fade whose time has come.
func (e *Engine) dueFades(now time.Time) {
	was := e.during
	defer func() { e.during = was }()
	for _, f := range slices.Clone(e.fades) {
		if now.Before(f.next) {
			e.armStep(f.next)
			continue
		}
		if e.takeHalts(); !slices.Contains(e.fades, f) {
			continue
		}
		e.doing = doing{run: f.run}
		e.during = f.in.occasion
		e.stepFade(f, now)
		if f.run != nil {
			e.advanceRun(f.run)
		}
	}
}

func (e *Engine) endFade(f *fade) {
	e.fades = slices.DeleteFunc(e.fades, func(o *fade) bool { return o == f })
}

// endFades stops the fades of a run where they are. It says which go on, because their devices do them
// by themselves and cannot stop.
func (e *Engine) endFades(r *run) (goOn string) {
	e.fades = slices.DeleteFunc(e.fades, func(f *fade) bool { return f.run == r })
	for _, c := range e.commands {
		if c.run != r || c.ramp == nil || c.matched {
			continue
		}
		if why := e.stopRamp(c); why != "" {
			text := c.title + " goes on to its end: " + why + "."
			e.log(journal.Event{Entry: r.ID, At: time.Now(), Stage: journal.StageDecision, Text: text})
			r.Left, goOn = append(r.Left, text), goOn+" "+text
		}
	}
	return goOn
}

// stopRamp has a device stop a fade that it does by itself, as its sheet says; why says where it does not.
func (e *Engine) stopRamp(c *command) (why string) {
	action := c.ramp.Bound.Action
	resp := c.ramp
	switch now := e.table.Reading(c.affects[0]).Value; action.Stop {
	case "":
		return "its device has no way to stop it"
	case "present":
		i := slices.IndexFunc(action.Params, func(p device.ParamSpec) bool { return p.IsNumber() && p.ID != action.Fade })
		if i < 0 || now == nil {
			return "nobody knows where it is"
		}
		resp = e.withParam(e.withParam(resp, action.Fade, "0"), action.Params[i].ID, device.ValueText(now))
	default:
		call := c.ramp.Call
		call.Action, call.Params = action.Stop, c.ramp.Bound.Params
		resp = e.program.CompileCall(call)
	}
	in := c.run.in
	in.At = time.Now()
	title := "Stop: " + e.title(c.ramp)
	if reason := e.unreachable(in, "", resp); reason != "" {
		return strings.TrimSuffix(continued(reason), ".")
	}
	cmd, err := e.dispatch(in, cause{title: title, aside: true, runs: c.runs, bases: c.bases}, resp)
	if err != nil {
		return err.Error()
	}
	e.logDispatch(cmd, resp)
	return ""
}

// movedBy tells whether a fade of a run, or of one within it, moves a reading.
func (e *Engine) movedBy(bases macro.Baselines, run int) func(reading.Key) bool {
	return func(k reading.Key) bool {
		return slices.ContainsFunc(e.fades, func(f *fade) bool {
			return f.key == k && f.run != nil && f.run.bases[0] == bases[0] && slices.Contains(f.order.Runs, run)
		})
	}
}

// inFade tells whether a reading is in a fade.
func (e *Engine) inFade(k reading.Key) bool {
	return slices.ContainsFunc(e.fades, func(f *fade) bool { return f.key == k })
}

func (e *Engine) fading(r *run) bool {
	return slices.ContainsFunc(e.fades, func(f *fade) bool { return f.run == r })
}

// takeOverFades ends the fades of a reading, since something else sets it now: a reading has one writer,
// the youngest. by says who; but is a fade that goes on.
func (e *Engine) takeOverFades(k reading.Key, but *fade, by string) {
	for _, f := range slices.Clone(e.fades) {
		if f.key != k || f == but {
			continue
		}
		e.endFade(f)
		text := f.title + " was taken over by " + by + "."
		if f.run == nil {
			e.log(journal.Event{Entry: f.in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: text, Outcome: journal.Overtaken, Reason: text})
			continue
		}
		e.log(journal.Event{Entry: f.run.ID, At: time.Now(), Stage: journal.StageDecision, Text: text})
		row := &f.run.Steps[f.step]
		row.State, row.Reason = "done", text
		f.run.Left, f.run.dirty = append(f.run.Left, text), true
		e.recheck = true // its run may have ended with it
	}
}

// overtakeFades ends the fades of what a command changes that is none of their steps.
func (e *Engine) overtakeFades(c *command) {
	if len(e.fades) == 0 {
		return
	}
	by := c.title
	if by == "" {
		by = "a press"
		if m := e.program.Mappings[c.mapping]; m != nil {
			by = m.Source.Title()
		}
	}
	for _, k := range c.affects {
		e.takeOverFades(k, c.fade, by)
	}
}

// handOnFades ends the fades of a reading that a hand on the device has taken.
func (e *Engine) handOnFades(rt *deviceState, k reading.Key, v reading.Value, at time.Time, settled []reading.Settled) {
	if len(e.fades) == 0 || slices.ContainsFunc(settled, func(s reading.Settled) bool { return s.Outcome == reading.Matched }) {
		return
	}
	for _, f := range e.fades {
		if f.key == k && f.trail.Off(v, at, rt.stats.P99) {
			e.takeOverFades(k, nil, "a hand on "+e.program.Devices[k.Device].Name)
			return
		}
	}
}
