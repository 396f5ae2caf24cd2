package panel

import (
	"net"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link/lines"
)

// Talk is how a stand-in that speaks in text lines understands and says things.
type Talk struct {
	// Read turns a line into a message to carry out; ok is false when it makes
	// no sense.
	Read func(line string) (m device.Message, ok bool)
	// Say gives the line that reports a value, "" when none does.
	Say func(m device.Message) string
	// Answers says whether a line is a question about everything, or about the
	// model; everything else is carried out.
	Everything, Model string
}

// ServeLines serves a connection of text lines until it ends. Nonsense is
// answered with ERR and ends nothing.
func (c *Core) ServeLines(conn net.Conn, t Talk) {
	out := NewOutbox(func(b []byte) error { _, err := conn.Write(b); return err }, func() { _ = conn.Close() })
	defer out.Close()
	send := func(due time.Time, line string) {
		if line != "" {
			out.Send(due, []byte(line+"\n"))
		}
	}
	tell := func(due time.Time, msgs []device.Message) {
		for _, m := range msgs {
			send(due, t.Say(m))
		}
	}
	var following *Follower
	defer func() { c.Leave(following) }()
	r := lines.NewReader(conn)
	for {
		line, err := r.Next()
		switch {
		case err == lines.ErrLong || err == lines.ErrText:
			if !c.Faults().Silent {
				send(c.Due(), "ERR "+err.Error())
			}
			continue
		case err != nil:
			return
		case line == t.Everything:
			c.Leave(following)
			following = c.FollowAll(tell)
			continue
		case line == t.Model:
			if heard, msgs := c.Asked("/model"); heard {
				tell(c.Due(), msgs)
			}
			continue
		}
		m, ok := t.Read(line)
		if !ok {
			if !c.Faults().Silent {
				send(c.Due(), "ERR "+line+": this makes no sense here")
			}
			continue
		}
		if heard, err := c.Handle(m); heard && err != nil {
			send(c.Due(), "ERR "+line+": "+err.Error())
		}
	}
}
