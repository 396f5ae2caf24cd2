// Package local drives the functions of the computer itself. Which computer
// that is, the real one behind its allow-list or the bench's simulated one, is
// given to the driver.
package local

import (
	"context"
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// Computer has functions that can be called and things it reports.
type Computer interface {
	// Do carries out a function: its address and its arguments. heard is false
	// when it gives no answer.
	Do(device.Message) (heard bool, err error)
	// Ask gives one value again, so that the link knows that it is there.
	Ask(address string) []device.Message
	// Follow reports everything once, then every change, until stop is called;
	// ended is called when the computer goes away by itself. It fails when the
	// computer cannot be used, with a sentence.
	Follow(tell func(...device.Message), ended func(error)) (stop func(), err error)
}

// askAddress asks for a value.
const askAddress = "/ask"

// Driver drives a computer. Without one its links say that it is switched off.
type Driver struct{ Computer Computer }

// Off is why there is no link while the functions of this computer are off.
const Off = link.Problem("The functions of this computer are switched off. To use them, write the file local.json in the data folder; docs/local.md says how.")

// Encode implements link.Driver.
func (Driver) Encode(msgs ...device.Message) ([]byte, error) { return link.Pack(msgs) }

// Show implements link.Driver.
func (Driver) Show(payload []byte) []string { return link.ShowPacked(payload) }

// Dial implements link.Driver.
func (d Driver) Dial(context.Context, link.Target) (link.Conn, error) {
	if d.Computer == nil {
		return nil, Off
	}
	c := &conn{computer: d.Computer, inbox: link.NewInbox(), handover: link.NewHandover()}
	stop, err := d.Computer.Follow(func(msgs ...device.Message) { c.inbox.Put(link.Batch{Messages: msgs}) }, c.inbox.Fail)
	if err != nil {
		return nil, err
	}
	c.stop = stop
	go c.inbox.Serve("local", c.work)
	return c, nil
}

type conn struct {
	computer Computer
	inbox    *link.Inbox
	handover link.Handover
	stop     func()
}

func (c *conn) work() {
	for {
		select {
		case j := <-c.handover.Jobs():
			c.carryOut(j)
		case <-c.inbox.Quit():
			return
		}
	}
}

func (c *conn) carryOut(j link.Job) {
	a := link.Answer{Command: j.Command, OK: true}
	for _, m := range numbers(link.Unpack(j.Payload)) {
		if m.Address == askAddress && len(m.Args) == 1 {
			if msgs := c.computer.Ask(fmt.Sprint(m.Args[0])); len(msgs) > 0 {
				c.inbox.Put(link.Batch{Messages: msgs})
			}
			continue
		}
		heard, err := c.computer.Do(m)
		if !heard {
			return
		}
		if err != nil {
			a.OK, a.Text = false, err.Error()
			break
		}
	}
	if j.Command != 0 {
		c.inbox.Put(link.Batch{Answers: []link.Answer{a}})
	} else if !a.OK {
		c.inbox.Bad(link.Problem(a.Text))
	}
}

// numbers gives whole numbers, which JSON does not tell apart, back their type.
func numbers(msgs []device.Message) []device.Message {
	for _, m := range msgs {
		for i, a := range m.Args {
			if f, ok := a.(float64); ok && f == float64(int(f)) {
				m.Args[i] = int(f)
			}
		}
	}
	return msgs
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) { return c.inbox.Read() }

// Write implements link.Conn.
func (c *conn) Write(payload []byte, command uint64, deadline time.Time) error {
	return c.handover.Until(link.Job{Payload: payload, Command: command}, deadline, c.inbox.Quit())
}

// TryWrite implements link.Conn.
func (c *conn) TryWrite(payload []byte, command uint64) (ok bool, err error) {
	return c.handover.Try(link.Job{Payload: payload, Command: command}), nil
}

// Close implements link.Conn.
func (c *conn) Close() error {
	c.inbox.Close()
	c.stop()
	return nil
}
