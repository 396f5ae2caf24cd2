// Package socket makes TCP connections that deliver nothing late: what the
// kernel holds for longer than a command may wait is thrown away with the
// connection.
package socket

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
)

// Dial connects to a host and port; see Harden for stale.
func Dial(ctx context.Context, host string, port int, stale time.Duration) (*net.TCPConn, error) {
	var d net.Dialer
	c, err := d.DialContext(ctx, "tcp", net.JoinHostPort(host, strconv.Itoa(port)))
	if err != nil {
		return nil, err
	}
	if err := NotOwn(c); err != nil {
		return nil, err
	}
	tcp := c.(*net.TCPConn)
	if err := Harden(tcp, stale); err != nil {
		_ = c.Close()
		return nil, err
	}
	return tcp, nil
}

// Harden makes the kernel drop a connection, with what it still holds, when
// data stays unacknowledged for longer than stale, and when it is closed.
func Harden(c *net.TCPConn, stale time.Duration) error {
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

// TryWrite writes to a stream if that needs no waiting. A peer that takes only
// a part counts as lost: it has not read for far longer than any deadline.
func TryWrite(c syscall.RawConn, payload []byte) (ok bool, err error) {
	var n int
	var sys error
	err = c.Write(func(fd uintptr) bool {
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
