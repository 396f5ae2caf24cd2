package witness

import (
	"errors"
	"io"
	"math/rand/v2"
	"net"
	"sync"
	"time"
)

// Cable lies between Synaptor and a device: it can be pulled, and what the device says can come late. The
// witness is not behind it, so it goes on hearing.
type Cable struct {
	Addr string

	to     string
	end    func() error
	wg     sync.WaitGroup
	mu     sync.Mutex
	open   map[net.Conn]bool
	out    bool
	late   time.Duration
	jitter time.Duration
}

// Lay lays a cable to a device at an address, "tcp" or "udp".
func Lay(network, to string) (*Cable, error) {
	c := &Cable{to: to, open: map[net.Conn]bool{}}
	if network == "udp" {
		p, err := net.ListenPacket("udp", "127.0.0.1:0")
		if err != nil {
			return nil, err
		}
		c.end, c.Addr = p.Close, p.LocalAddr().String()
		c.wg.Go(func() { c.carryPackets(p) })
		return c, nil
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	c.end, c.Addr = l.Close, l.Addr().String()
	c.wg.Go(func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			c.wg.Go(func() { c.carry(in) })
		}
	})
	return c, nil
}

// Slow has what the device says come later, in the same order.
func (c *Cable) Slow(late, jitter time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.late, c.jitter = late, jitter
}

// Pull takes the cable out: what is connected ends, and nothing comes through. Its address is kept, for somebody else
// could take it.
func (c *Cable) Pull() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.out = true
	for conn := range c.open {
		_ = conn.Close()
		delete(c.open, conn)
	}
}

// Plug puts it in again.
func (c *Cable) Plug() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.out = false
}

// Close takes it away.
func (c *Cable) Close() {
	c.Pull()
	_ = c.end()
	c.wg.Wait()
}

// keep notes a connection, so that it ends when the cable is pulled; false: it is out.
func (c *Cable) keep(conn net.Conn) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.out {
		_ = conn.Close()
		return false
	}
	c.open[conn] = true
	return true
}

func (c *Cable) has(conn net.Conn) bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.open[conn]
}

func (c *Cable) drop(conn net.Conn) {
	_ = conn.Close()
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.open, conn)
}

func (c *Cable) carry(in net.Conn) {
	out, err := net.Dial("tcp", c.to)
	if err != nil {
		_ = in.Close()
		return
	}
	if !c.keep(in) || !c.keep(out) {
		_, _ = in.Close(), out.Close()
		return
	}
	c.wg.Go(func() {
		_, _ = io.Copy(out, in)
		c.drop(out)
	})
	c.later(func(buf []byte) (int, error) { return out.Read(buf) }, func(b []byte) error { _, err := in.Write(b); return err })
	c.drop(in)
	c.drop(out)
}

func (c *Cable) carryPackets(p net.PacketConn) {
	devices := map[string]net.Conn{}
	defer func() {
		for _, d := range devices {
			c.drop(d)
		}
	}()
	buf := make([]byte, 65536)
	for {
		n, from, err := p.ReadFrom(buf)
		if errors.Is(err, net.ErrClosed) {
			return
		}
		if err != nil {
			continue // the other side has gone
		}
		d := devices[from.String()]
		if d == nil || !c.has(d) {
			if d, err = net.Dial("udp", c.to); err != nil || !c.keep(d) {
				delete(devices, from.String())
				continue
			}
			devices[from.String()] = d
			c.wg.Go(func() {
				c.later(func(buf []byte) (int, error) { return d.Read(buf) }, func(b []byte) error { _, err := p.WriteTo(b, from); return err })
			})
		}
		_, _ = d.Write(buf[:n]) // a datagram may be lost
	}
}

// later passes on what the device says, in order, each so much later as the cable is slow.
func (c *Cable) later(read func([]byte) (int, error), write func([]byte) error) {
	type part struct {
		due  time.Time
		data []byte
	}
	parts := make(chan part, 4096)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for p := range parts {
			time.Sleep(time.Until(p.due))
			if write(p.data) != nil {
				break
			}
		}
		for range parts { // nobody listens any more
		}
	}()
	buf := make([]byte, 65536)
	for {
		n, err := read(buf)
		if n > 0 {
			c.mu.Lock()
			due := time.Now().Add(c.late)
			if c.jitter > 0 {
				due = due.Add(rand.N(c.jitter))
			}
			c.mu.Unlock()
			parts <- part{due, append([]byte(nil), buf[:n]...)}
		}
		if err != nil {
			close(parts)
			<-done
			return
		}
	}
}
