package engine

import (
	"maps"
	"math"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// fadeRate is how often a second a fade is sent to a device that has no frame rate.
const fadeRate = 25

// fade is a number on its way.
type fade struct {
	run   *run
	step  int // of the run's steps
	order macro.Order
	resp  *program.Response
	param device.ParamSpec
	line  *device.Ramp
	began time.Time
	every time.Duration
	next  time.Time
	title string
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
	i := slices.IndexFunc(resp.Bound.Action.Params, device.ParamSpec.IsNumber)
	affects := resp.Bound.Affects()
	if i < 0 || len(affects) == 0 {
		e.stepUnsent(r, at, title, "This action has no number that could be faded.")
		return
	}
	param := resp.Bound.Action.Params[i]
	d := e.program.Devices[resp.Device]
	line := d.Type.Ramp(affects[0].Path, e.table.Reading(affects[0]), resp.Bound.Params[param.ID], o.Step.Curve)
	if line == nil {
		e.stepUnsent(r, at, title, "Nobody knows where it stands, so it cannot be faded from there.")
		return
	}
	rate := d.Device.FrameRate
	if rate <= 0 {
		rate = fadeRate
	}
	f := &fade{run: r, step: at, order: o, resp: resp, param: param, line: line, began: o.At, every: time.Duration(float64(time.Second) / rate), title: title}
	e.log(journal.Event{Entry: r.ID, At: in.At, Stage: journal.StageDispatch, Text: title + ": the fade begins"})
	e.fades = append(e.fades, f)
	f.next = f.began
	e.armStep(f.next)
}

// withParam is a response with one parameter changed; its problem says where it cannot
// be.
func (e *Engine) withParam(r *program.Response, param, value string) *program.Response {
	c := *r
	c.Payload = nil
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
	in := f.run.in
	in.At = now
	resp := e.withParam(f.resp, f.param.ID, text)
	if reason := e.refusal(in, "", resp); reason != "" {
		e.endFade(f)
		e.stepUnsent(f.run, f.step, f.title, reason)
		return
	}
	cmd, err := e.dispatch(in, cause{run: f.run, step: f.step, runs: f.order.Runs, bases: f.run.bases, title: f.title, quiet: !done}, resp)
	if err != nil {
		e.endFade(f)
		e.stepUnsent(f.run, f.step, f.title, err.Error())
		return
	}
	e.logDispatch(cmd, resp)
}

// dueFades sends the next step of every fade whose time has come.
func (e *Engine) dueFades(now time.Time) {
	for _, f := range slices.Clone(e.fades) {
		if now.Before(f.next) {
			e.armStep(f.next)
			continue
		}
		if e.takeHalts(); !slices.Contains(e.fades, f) {
			continue
		}
		e.doing = doing{run: f.run}
		e.stepFade(f, now)
		e.advanceRun(f.run)
	}
}

func (e *Engine) endFade(f *fade) {
	e.fades = slices.DeleteFunc(e.fades, func(o *fade) bool { return o == f })
}

// endFades stops the fades of a run where they are.
func (e *Engine) endFades(r *run) {
	e.fades = slices.DeleteFunc(e.fades, func(f *fade) bool { return f.run == r })
}

func (e *Engine) fading(r *run) bool {
	return slices.ContainsFunc(e.fades, func(f *fade) bool { return f.run == r })
}
