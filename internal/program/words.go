package program

import (
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

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
	if d == nil || d.Type == nil || d.ID == SelfID {
		return nil, false
	}
	action, params, ok := d.Type.Setter(d.ID, k.Path, v, w)
	if !ok || v == nil {
		return nil, ok
	}
	r := n.CompileCall(show.Call{Device: d.ID, DeviceName: d.Name, Action: action, Params: params})
	return r, r.Problem == ""
}
