package httpdev

import (
	"net/http"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// apart is how long a request waits for the answer of the one before it to the same address: two
// connections keep no order by themselves.
const apart = 100 * time.Millisecond

// going are the requests to an address that are on their way.
type going struct {
	last  link.Job // the one that began last
	began time.Time
	ended chan struct{} // closed when that has its answer
	open  int           // how many have none
	// crossed says that one began before the one ahead of it had its answer: nobody knows which of them the
	// device takes last.
	crossed bool
}

// begin notes that the requests of a job begin. Where one to the same address is on its way, it notes
// nothing: ended is closed when that has its answer, and wait is how long to wait for it.
func (c *conn) begin(j link.Job) (wait time.Duration, ended <-chan struct{}) {
	c.mu.Lock()
	defer c.mu.Unlock()
	now, msgs := time.Now(), addresses(j)
	for address := range msgs {
		if g := c.going[address]; g != nil && g.ended != nil && now.Sub(g.began) < apart {
			return apart - now.Sub(g.began), g.ended
		}
	}
	for address := range msgs {
		g := c.going[address]
		if g == nil {
			g = &going{}
			c.going[address] = g
		}
		g.last, g.began, g.ended = j, now, make(chan struct{})
		g.open++
		g.crossed = g.crossed || g.open > 1
	}
	return 0, nil
}

// ended notes that the requests of a job have their answers, or never begin. Where requests to an address have crossed and
// none is on its way any more, again is the last of them, to be made once more: a PUT may be, as often as one likes
// (RFC 9110, 9.2.2), and then it is what the device has taken last. It is on its way until it has ended too.
func (c *conn) ended(j link.Job) (again *link.Job) {
	if j.Command == 0 {
		return nil
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	for address := range addresses(j) {
		g := c.going[address]
		if g == nil {
			continue
		}
		if g.last.Command == j.Command && g.ended != nil {
			close(g.ended)
			g.ended = nil
		}
		if g.open--; g.open > 0 {
			continue
		}
		if !g.crossed || !repeatable(g.last) {
			delete(c.going, address)
			continue
		}
		last := g.last
		again = &last
		g.began, g.ended, g.open, g.crossed = time.Now(), make(chan struct{}), 1, false
	}
	return again
}

// addresses are those of a job, each once.
func addresses(j link.Job) map[string]bool {
	out := map[string]bool{}
	for _, m := range link.Unpack(j.Payload) {
		out[m.Address] = true
	}
	return out
}

// repeatable tells whether all that a job asks for can be asked for once more without doing more.
func repeatable(j link.Job) bool {
	return !slices.ContainsFunc(link.Unpack(j.Payload), func(m device.Message) bool { return m.Verb != http.MethodPut })
}
