package osc

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strconv"
	"syscall"
	"time"

	"golang.org/x/sys/unix"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// TCP speaks OSC over TCP with SLIP framing.
type TCP struct{}

// Encode implements link.Driver: a frame for each message.
func (TCP) Encode(msgs ...device.Message) ([]byte, error) {
	var out []byte
	for _, m := range msgs {
		p, err := Encode(m)
		if err != nil {
			return nil, err
		}
		out = AppendFrame(out, p)
	}
	return out, nil
}

// Dial implements link.Driver. What the kernel holds for longer than stale is
// thrown away with the connection, so that nothing arrives late.
func (TCP) Dial(ctx context.Context, host string, port int, stale time.Duration) (link.Conn, error) {
	var d net.Dialer
	c, err := d.DialContext(ctx, "tcp", net.JoinHostPort(host, strconv.Itoa(port)))
	if err != nil {
		return nil, err
	}
	tcp := c.(*net.TCPConn)
	if err := harden(tcp, stale); err != nil {
		_ = c.Close()
		return nil, err
	}
	raw, err := tcp.SyscallConn()
	if err != nil {
		_ = c.Close()
		return nil, err
	}
	return &conn{tcp: tcp, raw: raw, frames: NewFrameReader(tcp)}, nil
}

// harden makes the kernel drop the connection, with what it still holds, when
// data stays unacknowledged for longer than stale, and when it is closed.
func harden(c *net.TCPConn, stale time.Duration) error {
	raw, err := c.SyscallConn()
	if err != nil {
		return fmt.Errorf("set the user time-out: %w", err)
	}
	var opt error
	err = raw.Control(func(fd uintptr) {
		opt = unix.SetsockoptInt(int(fd), unix.IPPROTO_TCP, unix.TCP_USER_TIMEOUT, int(stale.Milliseconds()))
	})
	if err := errors.Join(err, opt); err != nil {
		return fmt.Errorf("set the user time-out: %w", err)
	}
	return errors.Join(c.SetNoDelay(true), c.SetLinger(0))
}

type conn struct {
	tcp    *net.TCPConn
	raw    syscall.RawConn
	frames *FrameReader
}

// Read implements link.Conn.
func (c *conn) Read() ([]device.Message, error) {
	frame, err := c.frames.Next()
	switch {
	case errors.Is(err, ErrOversized), errors.Is(err, ErrBadEscape):
		return nil, &link.BadInput{Err: err}
	case err != nil:
		return nil, err
	}
	msgs, err := Decode(frame)
	if err != nil {
		return nil, &link.BadInput{Err: err}
	}
	return msgs, nil
}

// Write implements link.Conn.
func (c *conn) Write(payload []byte, deadline time.Time) error {
	if err := c.tcp.SetWriteDeadline(deadline); err != nil {
		return err
	}
	_, err := c.tcp.Write(payload)
	return errors.Join(err, c.tcp.SetWriteDeadline(time.Time{}))
}

// TryWrite implements link.Conn. A device that takes only a part counts as
// lost: it has not read for far longer than any deadline.
func (c *conn) TryWrite(payload []byte) (ok bool, err error) {
	var n int
	var sys error
	err = c.raw.Write(func(fd uintptr) bool {
		n, sys = unix.Write(int(fd), payload)
		return true // never wait
	})
	switch {
	case err != nil:
		return false, err
	case errors.Is(sys, unix.EAGAIN):
		return false, nil
	case sys != nil:
		return false, sys
	case n < len(payload):
		return false, io.ErrShortWrite
	}
	return true, nil
}

// Close implements link.Conn; it resets the connection.
func (c *conn) Close() error { return c.tcp.Close() }
