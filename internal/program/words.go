package program

import (
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Title is what a reading is called, without its device.
func (n *Program) Title(k reading.Key, w expr.World) string {
	if d := n.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.TitleOf(k.Device, k.Path, w)
	}
	return k.Path
}

// Called is what a reading is called, with its device.
func (n *Program) Called(k reading.Key, w expr.World) string {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil {
		return k.Path
	}
	return d.Name + ": " + d.Type.TitleOf(k.Device, k.Path, w)
}

// Word is a value of a reading as a person knows it.
func (n *Program) Word(k reading.Key, v reading.Value, w expr.World) string {
	if d := n.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.Word(k, v, w)
	}
	return expr.Text(v)
}

// Setter compiles what sets a reading to a value; with nil it only tells whether
// there is anything.
func (n *Program) Setter(k reading.Key, v reading.Value, w expr.World) (*Response, bool) {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil {
		return nil, false
	}
	action, params, ok := d.Type.Setter(d.ID, k.Path, v, w)
	if !ok || v == nil {
		return nil, ok
	}
	r := n.CompileCall(show.Call{Device: d.ID, DeviceName: d.Name, Action: action, Params: params})
	return r, r.Problem == ""
}

// Outright gives the action that says outright which state a toggle brings: on for true
// and off for false, or with nil the one that it would bring now; "" where there is none
// or nobody knows.
func (n *Program) Outright(r *Response, value *bool, w expr.World) string {
	if r.Bound == nil || len(r.Bound.Action.Instead) < 2 {
		return ""
	}
	effects := r.Bound.Effects(w)
	if len(effects) == 0 {
		return ""
	}
	for i, action := range r.Bound.Action.Instead {
		if value != nil {
			if *value == (i == 0) {
				return action
			}
			continue
		}
		b, err := r.Type.Bind(r.Device, action, r.Bound.Params, n.FrameRate(n.Devices[r.Device]))
		if err != nil {
			continue
		}
		if e := b.Effects(w); len(e) > 0 && reading.Equal(e[0].Value, effects[0].Value, 0) {
			return action
		}
	}
	return ""
}
