// Package socket makes TCP connections that deliver nothing late: what the
// kernel holds for longer than a command may wait is thrown away with the
// connection.
package socket

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"syscall"
	"time"
)

// Conn is a connection that delivers nothing late.
type Conn struct {
	*net.TCPConn
	raw   syscall.RawConn
	watch *watch // nil: the kernel does it
}

// Dial connects to a host and port. The connection ends, with what is still
// held of it, when data stays unacknowledged for longer than stale.
func Dial(ctx context.Context, host string, port int, stale time.Duration) (*Conn, error) {
	var d net.Dialer
	c, err := d.DialContext(ctx, "tcp", net.JoinHostPort(host, strconv.Itoa(port)))
	if err != nil {
		return nil, err
	}
	if err := NotOwn(c); err != nil {
		return nil, err
	}
	hard, err := harden(c.(*net.TCPConn), stale)
	if err != nil {
		_ = c.Close()
		return nil, err
	}
	return hard, nil
}

// harden makes a connection drop what it still holds when data stays unacknowledged for longer than stale, and when it is closed.
func harden(tcp *net.TCPConn, stale time.Duration) (*Conn, error) {
	raw, err := tcp.SyscallConn()
	if err != nil {
		return nil, fmt.Errorf("reach the socket: %w", err)
	}
	c := &Conn{TCPConn: tcp, raw: raw}
	did, err := dropLate(raw, stale)
	if err != nil {
		return nil, fmt.Errorf("set the user time-out: %w", err)
	}
	if !did {
		c.watch = newWatch(stale, tcp)
	}
	return c, errors.Join(tcp.SetNoDelay(true), tcp.SetLinger(0))
}

// Read implements net.Conn.
func (c *Conn) Read(b []byte) (int, error) {
	n, err := c.TCPConn.Read(b)
	if c.watch != nil && n > 0 {
		c.watch.heard()
	}
	return n, err
}

// Write implements net.Conn.
func (c *Conn) Write(b []byte) (int, error) {
	if c.watch != nil {
		c.watch.wrote()
	}
	return c.TCPConn.Write(b)
}

// TryWrite writes if that needs no waiting; ok is false where it would, or where this system cannot tell. A peer that takes only
// a part counts as lost: it has not read for far longer than any deadline.
func (c *Conn) TryWrite(payload []byte) (ok bool, err error) {
	ok, err = tryStream(c.raw, payload)
	if ok && c.watch != nil {
		c.watch.wrote()
	}
	return ok, err
}

// Close implements net.Conn; it resets the connection.
func (c *Conn) Close() error {
	if c.watch != nil {
		c.watch.heard()
	}
	return c.TCPConn.Close()
}
