package osc

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"syscall"
	"time"

	goosc "github.com/hypebeast/go-osc/osc"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
)

// UDP speaks OSC in datagrams. A datagram that is lost is lost: nothing is sent
// again, so nothing is late.
type UDP struct{}

// Encode implements link.Driver: one datagram, a bundle where there are several
// messages.
func (UDP) Encode(msgs ...device.Message) ([]byte, error) {
	if len(msgs) == 1 {
		return Encode(msgs[0])
	}
	b := goosc.NewBundle(time.Time{}) // to be carried out at once
	for _, m := range msgs {
		msg, err := toMessage(m)
		if err != nil {
			return nil, err
		}
		if err := b.Append(msg); err != nil {
			return nil, fmt.Errorf("encode OSC: %w", err)
		}
	}
	raw, err := b.MarshalBinary()
	if err != nil {
		return nil, fmt.Errorf("encode OSC: %w", err)
	}
	if len(raw) > MaxPacket {
		return nil, ErrOversized
	}
	return raw, nil
}

// Show implements link.Driver.
func (UDP) Show(payload []byte) []string { return show(payload) }

// Dial implements link.Driver. The socket is connected, so that the kernel
// tells when nobody listens at the other end.
func (UDP) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	var d net.Dialer
	c, err := d.DialContext(ctx, "udp", net.JoinHostPort(to.Host, strconv.Itoa(to.Port)))
	if err != nil {
		return nil, err
	}
	if err := socket.NotOwn(c); err != nil {
		return nil, err
	}
	udp := c.(*net.UDPConn)
	raw, err := udp.SyscallConn()
	if err != nil {
		_ = c.Close()
		return nil, err
	}
	return &datagrams{udp: udp, raw: raw, buf: make([]byte, MaxPacket+1)}, nil
}

type datagrams struct {
	udp *net.UDPConn
	raw syscall.RawConn
	buf []byte
}

// Read implements link.Conn.
func (c *datagrams) Read() (link.Batch, error) {
	n, err := c.udp.Read(c.buf)
	if err != nil {
		return link.Batch{}, err
	}
	msgs, err := Decode(c.buf[:n])
	if err != nil {
		return link.Batch{}, &link.BadInput{Err: err}
	}
	return link.Batch{Messages: msgs}, nil
}

// Write implements link.Conn.
func (c *datagrams) Write(payload []byte, _ uint64, deadline time.Time) error {
	if err := c.udp.SetWriteDeadline(deadline); err != nil {
		return err
	}
	_, err := c.udp.Write(payload)
	return errors.Join(err, c.udp.SetWriteDeadline(time.Time{}))
}

// TryWrite implements link.Conn.
func (c *datagrams) TryWrite(payload []byte, _ uint64) (ok bool, err error) {
	return socket.TrySend(c.raw, payload)
}

// Close implements link.Conn.
func (c *datagrams) Close() error { return c.udp.Close() }
