package program

import (
	"math"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Dial is a compiled turn or slide: which parameter of the action it changes.
type Dial struct {
	Param    device.ParamSpec
	Range    input.Dial
	Slider   input.Slider
	Whole    bool
	Choice   bool        // it steps through choices
	Relative bool        // the action moves by so much, such as a jog: there is no value to start from
	Key      reading.Key // the reading that has the value
	HasKey   bool
	// Tolerance is how far what the device says may be from what was asked for.
	Tolerance float64
}

// Share is where a value stands in the range of the dial, from 0 to 1; of a slider, it
// is where its cap stands.
func (d *Dial) Share(v reading.Value, slider bool) float64 {
	span := d.Range.Max - d.Range.Min
	if span <= 0 || d.Relative {
		return 0
	}
	n, _ := reading.Number(v)
	share := min(max((n-d.Range.Min)/span, 0), 1)
	if slider && d.Slider.Inverted {
		return 1 - share
	}
	return share
}

// Continuous tells whether a gesture comes with an amount that a parameter follows.
func Continuous(gesture string) bool {
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
	out := &Dial{Param: p, Whole: p.Type == "int", Choice: !p.IsNumber()}
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
	out.Relative = (len(affects) == 0 || b.Moves()) && lo < 0 && hi > 0
	step := spec.Step
	if step == 0 && out.Relative {
		step = 1
	}
	if step == 0 {
		step = (hi - lo) / 100
		if p.Type == "db" {
			step = 0.5
		}
		if out.Whole {
			step = math.Max(1, math.Round(step))
		}
	}
	out.Range = input.Dial{Step: step, Min: lo, Max: hi, Wrap: spec.Wrap, Acceleration: spec.Acceleration}
	out.Slider = input.Slider{Min: lo, Max: hi, Jump: spec.Jump, Inverted: spec.Inverted}
	if len(affects) > 0 {
		out.Key, out.HasKey = affects[0], true
		if def := d.Type.Reading(out.Key.Path); def != nil {
			out.Tolerance = def.Tolerance
		}
	}
	return out
}

// OwnStep is the step by which an action is turned that nobody has said anything about.
func OwnStep(d *Device, b *device.Bound) float64 {
	if own := compileDial(d, b, nil); own != nil {
		return own.Range.Step
	}
	return 0
}

// compileTalk finds the two halves of a talk: the explicit actions of a toggle,
// the first of which opens.
func (n *Program) compileTalk(r *Response, d *Device) {
	if len(r.Bound.Action.Instead) < 2 {
		return
	}
	half := func(action string) *Response {
		c := r.Call
		c.Action = action
		return n.CompileCall(c)
	}
	r.Opens, r.Closes = half(r.Bound.Action.Instead[0]), half(r.Bound.Action.Instead[1])
}
