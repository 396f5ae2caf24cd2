package osc

import (
	"bytes"
	"context"
	"errors"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
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

// Show implements link.Driver.
func (TCP) Show(payload []byte) []string {
	var out []string
	r := NewFrameReader(bytes.NewReader(payload))
	for {
		frame, err := r.Next()
		if err != nil {
			return out
		}
		out = append(out, show(frame)...)
	}
}

// show gives the messages of a packet as a person reads them.
func show(packet []byte) []string {
	msgs, err := Decode(packet)
	if err != nil {
		return []string{err.Error()}
	}
	out := make([]string, len(msgs))
	for i, m := range msgs {
		out[i] = m.String()
	}
	return out
}

// Dial implements link.Driver. What the kernel holds for longer than stale is
// thrown away with the connection, so that nothing arrives late.
func (TCP) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	tcp, err := socket.Dial(ctx, to.Host, to.Port, to.Stale)
	if err != nil {
		return nil, err
	}
	return &conn{tcp: tcp, frames: NewFrameReader(tcp)}, nil
}

type conn struct {
	tcp    *socket.Conn
	frames *FrameReader
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) {
	frame, err := c.frames.Next()
	switch {
	case errors.Is(err, ErrOversized), errors.Is(err, ErrBadEscape):
		return link.Batch{}, &link.BadInput{Err: err}
	case err != nil:
		return link.Batch{}, err
	}
	msgs, err := Decode(frame)
	if err != nil {
		return link.Batch{}, &link.BadInput{Err: err}
	}
	return link.Batch{Messages: msgs}, nil
}

// Write implements link.Conn.
func (c *conn) Write(payload []byte, _ uint64, deadline time.Time) error {
	if err := c.tcp.SetWriteDeadline(deadline); err != nil {
		return err
	}
	_, err := c.tcp.Write(payload)
	return errors.Join(err, c.tcp.SetWriteDeadline(time.Time{}))
}

// TryWrite implements link.Conn.
func (c *conn) TryWrite(payload []byte, _ uint64) (ok bool, err error) {
	return c.tcp.TryWrite(payload)
}

// Close implements link.Conn; it resets the connection.
func (c *conn) Close() error { return c.tcp.Close() }
