package panel

import (
	"errors"
	"fmt"
	"net"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

// ServeOSC serves a connection of OSC with SLIP framing until it ends: /follow has everything told and follows, /ask tells one value. Nonsense is
// answered and ends nothing.
func (c *Core) ServeOSC(conn net.Conn) {
	out := NewOutbox(func(b []byte) error { _, err := conn.Write(b); return err }, func() { _ = conn.Close() })
	defer out.Close()
	send := func(due time.Time, msgs []device.Message) {
		for _, m := range msgs {
			if p, err := osc.Encode(m); err == nil {
				out.Send(due, osc.AppendFrame(nil, p))
			}
		}
	}
	var following *Follower
	defer func() { c.Leave(following) }()
	frames := osc.NewFrameReader(conn)
	for {
		frame, err := frames.Next()
		var msgs []device.Message
		switch {
		case errors.Is(err, osc.ErrOversized), errors.Is(err, osc.ErrBadEscape):
		case err != nil:
			return
		default:
			msgs, err = osc.Decode(frame)
		}
		if err != nil && !c.Faults().Silent {
			send(c.Due(), refusal("", err))
		}
		for _, m := range msgs {
			if m.Address == "/follow" {
				c.Leave(following)
				following = c.FollowAll(send)
				continue
			}
			if answer := c.answer(m); answer != nil {
				send(c.Due(), answer)
			}
		}
	}
}

// refusal says what is refused, and why.
func refusal(of string, err error) []device.Message {
	return []device.Message{{Address: "/error", Args: []any{err.Error(), of}}}
}

// answer carries out a message and returns what it is answered with, if
// anything.
func (c *Core) answer(m device.Message) []device.Message {
	if m.Address != "/ask" {
		if heard, err := c.Handle(m); heard && err != nil {
			return refusal(m.Address, err)
		}
		return nil
	}
	address := ""
	if len(m.Args) > 0 {
		address, _ = m.Args[0].(string)
	}
	heard, values := c.Asked(address)
	if heard && (len(values) != 1 || address == "") {
		return refusal(m.Address, fmt.Errorf("%q is not known here", address))
	}
	return values
}
