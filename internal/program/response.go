package program

import (
	"cmp"
	"fmt"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Response is a compiled response.
type Response struct {
	Call   show.Call
	Device string       // id
	Name   string       // the device's name
	Type   *device.Type // that it was compiled with
	Bound  *device.Bound
	// Dial is set for turns and slides.
	Dial *Dial
	// Opens and Closes are the two halves of a talk.
	Opens, Closes *Response
	// Payload is what to write when it is the same at every press.
	Payload []byte
	// Asks is what is to be typed when it is pressed, as people say it; empty: nothing is.
	Asks      string
	silencers []silencer
	// Problem says why it can never be sent; nothing else is set then.
	Problem string
}

func (n *Program) compileResponse(r show.Response) *Response {
	resp := &Response{Call: r.Action, Device: r.Action.Device}
	d := n.Devices[r.Action.Device]
	switch {
	case d == nil:
		resp.Problem = fmt.Sprintf("%s is no longer in the rig.", cmp.Or(r.Action.DeviceName, "The device"))
		return resp
	case d.Type == nil:
		resp.Problem = fmt.Sprintf("There is no device sheet for %s (%s).", d.Name, d.Device.Type)
		return resp
	}
	resp.Name, resp.Type = d.Name, d.Type
	b, err := d.Type.Bind(d.ID, r.Action.Action, r.Action.Params, n.FrameRate(d))
	if err != nil {
		resp.Problem = err.Error()
		return resp
	}
	resp.Bound, resp.Asks, resp.silencers = b, asks(b, r.Action.Params), silencers(d.Type, b)
	if Continuous(r.Gesture) && (d.ID != SelfID || r.Action.Action != "run") {
		resp.Dial = compileDial(d, b, r.Dial)
		return resp
	}
	if r.Gesture == input.Talk {
		n.compileTalk(resp, d)
	}
	if b.Constant() && d.ID != SelfID {
		resp.Payload, err = n.Encode(d, b, expr.Nothing{})
		if err != nil {
			resp.Problem = fmt.Sprintf("This cannot be sent to %s: %v.", d.Name, err)
		}
	}
	return resp
}

// asks is the title of the first text that is typed at the press.
func asks(b *device.Bound, params map[string]string) string {
	for _, p := range b.Action.Params {
		if p.Type == "text" && strings.Contains(params[p.ID], expr.Typed) {
			return p.Title
		}
	}
	return ""
}

// Asks is what is to be typed when a response is pressed, itself or in its macro; empty: nothing is. A response may be nil.
func (n *Program) Asks(r *Response) string {
	if m := n.RunsMacro(r); m != nil {
		return m.Asks
	}
	if r == nil {
		return ""
	}
	return r.Asks
}

// Silent is what nobody hears of what a response sets, as things stand in a world, by its name: a level that is muted; empty: nothing. A response may be nil.
func (n *Program) Silent(r *Response, w device.Known) string {
	if r == nil {
		return ""
	}
	for _, k := range r.silencers {
		if w.Reading(k.by).Value == true {
			return r.Type.SourceName(r.Device, k.of.Path, w)
		}
	}
	return ""
}

// silencer is a reading that is on while nobody hears another one.
type silencer struct{ of, by reading.Key }

func silencers(t *device.Type, b *device.Bound) (out []silencer) {
	for _, k := range b.Affects() {
		if by, has := t.SilencedBy(k.Path); has {
			out = append(out, silencer{k, reading.Key{Device: k.Device, Path: by}})
		}
	}
	return out
}

// CompileCall compiles an action that no mapping holds: one that is tried, a step
// of a macro, or what puts a reading back.
func (n *Program) CompileCall(c show.Call) *Response {
	return n.compileResponse(show.Response{Action: c})
}

// FrameRate is the frame rate of a device, which may be nil, else the show's.
func (n *Program) FrameRate(d *Device) float64 {
	if d != nil && d.FrameRate > 0 {
		return d.FrameRate
	}
	return n.Show.Settings().FrameRate
}

// Encode gives the bytes of an action's messages as things stand in a world.
func (n *Program) Encode(d *Device, b *device.Bound, w expr.World) ([]byte, error) {
	msgs, err := b.Messages(w)
	if err != nil {
		return nil, err
	}
	return n.sources.Encode(d.Type, msgs...)
}

// EncodeMessage gives the bytes of one message to a device.
func (n *Program) EncodeMessage(d *Device, m device.Message) ([]byte, error) {
	return n.sources.Encode(d.Type, m)
}
