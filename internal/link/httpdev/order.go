package httpdev

import (
	"maps"
	"time"

	"synaptor/internal/link"
)

// apart is how long a request waits for the answer of the one before it to the same address: two
// connections keep no order by themselves.
const apart = 100 * time.Millisecond

// going is a request on its way.
type going struct {
	command uint64
	began   time.Time
	ended   chan struct{}
}

// begin notes that the requests of a job begin. Where one to the same address is on its way, it notes
// nothing: ended is closed when that has its answer, and wait is how long to wait for it.
func (c *conn) begin(j link.Job) (wait time.Duration, ended <-chan struct{}) {
	c.mu.Lock()
	defer c.mu.Unlock()
	now, msgs := time.Now(), link.Unpack(j.Payload)
	for _, m := range msgs {
		if g := c.going[m.Address]; g != nil && now.Sub(g.began) < apart {
			return apart - now.Sub(g.began), g.ended
		}
	}
	g := &going{j.Command, now, make(chan struct{})}
	for _, m := range msgs {
		c.going[m.Address] = g
	}
	return 0, nil
}

// ended notes that the requests of a job have their answers, or never begin.
func (c *conn) ended(j link.Job) {
	if j.Command == 0 {
		return
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, m := range link.Unpack(j.Payload) {
		if g := c.going[m.Address]; g != nil && g.command == j.Command {
			close(g.ended)
			maps.DeleteFunc(c.going, func(_ string, o *going) bool { return o == g })
			return
		}
	}
}
