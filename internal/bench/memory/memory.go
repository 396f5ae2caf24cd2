// Package memory has simulated devices that are reached without a socket, for tests
// whose time is testing/synctest's. They run the same machines as the bench and speak
// OSC's messages, unencoded: Driver stands in for the drivers of OSC.
package memory

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net"
	"slices"
	"strconv"
	"sync"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// Driver reaches devices of this process. It implements link.Driver.
type Driver struct {
	mu      sync.Mutex
	devices map[string]*Device // by host and port
}

// NewDriver returns a driver that reaches nothing yet.
func NewDriver() *Driver { return &Driver{devices: map[string]*Device{}} }

// Add puts a machine at an address, which is a host and a port.
func (d *Driver) Add(address string, tick time.Duration, machine func() panel.Machine) *Device {
	dev := &Device{open: map[*conn]bool{}}
	dev.Core = panel.NewCore(address, address, tick, machine, nil)
	if err := dev.Start(dev); err != nil {
		panic(err) // a socket that is none cannot fail
	}
	d.mu.Lock()
	d.devices[address] = dev
	d.mu.Unlock()
	return dev
}

// Close ends all devices.
func (d *Driver) Close() {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, dev := range d.devices {
		dev.Cut()
		dev.Core.Close()
	}
}

// Encode implements link.Driver.
func (d *Driver) Encode(msgs ...device.Message) ([]byte, error) {
	for i := range msgs {
		msgs[i].Args = slices.Clone(msgs[i].Args)
		for j, a := range msgs[i].Args {
			if f, ok := a.(float64); ok && math.IsInf(f, -1) {
				msgs[i].Args[j] = silence // JSON has no word for it, as OSC has
			}
		}
	}
	return link.Pack(msgs)
}

// silence stands for minus infinity.
const silence = "-inf"

// Show implements link.Driver.
func (d *Driver) Show(payload []byte) []string { return link.ShowPacked(payload) }

// Dial implements link.Driver.
func (d *Driver) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	d.mu.Lock()
	dev := d.devices[net.JoinHostPort(to.Host, strconv.Itoa(to.Port))]
	d.mu.Unlock()
	if dev == nil {
		return nil, fmt.Errorf("nobody is at %s:%d", to.Host, to.Port)
	}
	return dev.connect(ctx)
}

// Got is a message that reached a device.
type Got struct {
	At      time.Time
	Command uint64 // its number; 0: it was none of a press or a run
	Message device.Message
}

// Device is a simulated device. Its front panel and faults are panel.Core's.
type Device struct {
	*panel.Core
	mu     sync.Mutex
	open   map[*conn]bool
	cut    bool
	got    []Got
	jammed bool
	every  int // of so many tries to write, one would have to wait; 0: none
	tries  int
	hangs  bool
	unread []func() // what was written while it hangs
}

// Open implements panel.Socket.
func (d *Device) Open() error {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.cut = false
	return nil
}

// Cut implements panel.Socket.
func (d *Device) Cut() {
	d.mu.Lock()
	d.cut = true
	open := d.open
	d.open = map[*conn]bool{}
	d.mu.Unlock()
	for c := range open {
		c.Fail(errors.New("the cable was pulled"))
	}
}

// Addr implements panel.Socket: it is nowhere.
func (d *Device) Addr() string { return "" }

// Jam has the device take nothing, or everything again: what is written waits.
func (d *Device) Jam(jammed bool) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.jammed = jammed
}

// Hesitate has one of so many tries to write to the device wait; 0: none.
func (d *Device) Hesitate(every int) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.every = every
}

// Hang has the device take in what is written and do nothing, or go on: then it does all of it.
func (d *Device) Hang(hangs bool) {
	d.mu.Lock()
	d.hangs = hangs
	unread := d.unread
	d.unread = nil
	d.mu.Unlock()
	for _, do := range unread {
		do()
	}
}

// Got lists what reached the device and was no question, oldest first.
func (d *Device) Got() []Got {
	d.mu.Lock()
	defer d.mu.Unlock()
	return slices.Clone(d.got)
}

// Tell has the device say something of its own accord.
func (d *Device) Tell(address string, args ...any) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for c := range d.open {
		c.out.Put(d.Due(), []device.Message{{Address: address, Args: args}})
	}
}

func (d *Device) connect(ctx context.Context) (link.Conn, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.cut {
		return nil, errors.New("connection refused")
	}
	c := &conn{Inbox: link.NewInbox(), device: d}
	c.out = panel.NewQueue(func(msgs []device.Message) { c.Put(link.Batch{Messages: msgs}) })
	d.open[c] = true
	return c, nil
}

// conn is a connection to a device. It implements link.Conn.
type conn struct {
	*link.Inbox
	device    *Device
	out       *panel.Queue
	following *panel.Follower
	once      sync.Once
}

// Write implements link.Conn.
func (c *conn) Write(payload []byte, command uint64, deadline time.Time) error {
	for {
		if ok, err := c.TryWrite(payload, command); ok || err != nil {
			return err
		}
		select {
		case <-c.Quit():
			return errors.New("the connection was closed")
		case <-time.After(time.Millisecond):
		}
		if !time.Now().Before(deadline) {
			return link.ErrLate
		}
	}
}

// TryWrite implements link.Conn.
func (c *conn) TryWrite(payload []byte, command uint64) (ok bool, err error) {
	d := c.device
	d.mu.Lock()
	jammed, cut, hangs := d.jammed, d.cut, d.hangs
	if d.tries++; d.every > 0 && d.tries%d.every == 0 {
		jammed = true
	}
	d.mu.Unlock()
	if cut {
		return false, errors.New("the cable was pulled")
	}
	if jammed {
		return false, nil
	}
	for _, m := range link.Unpack(payload) {
		d.mu.Lock()
		if m.Address != "/follow" && m.Address != "/ask" {
			d.got = append(d.got, Got{time.Now(), command, m})
		}
		if hangs {
			d.unread = append(d.unread, func() { c.take(m) })
		}
		d.mu.Unlock()
		if !hangs {
			c.take(m)
		}
	}
	return true, nil
}

// take carries out a message as the bench's switcher and mixer do.
func (c *conn) take(m device.Message) {
	d := c.device
	switch m.Address {
	case "/follow":
		d.Leave(c.following)
		c.following = d.FollowAll(c.out.Put)
	case "/ask":
		address, _ := m.Args[0].(string)
		if heard, values := d.Asked(address); heard {
			c.out.Put(d.Due(), values)
		}
	default:
		if heard, err := d.Handle(whole(m)); heard && err != nil {
			c.out.Put(d.Due(), []device.Message{{Address: "/error", Args: []any{err.Error(), m.Address}}})
		}
	}
}

// whole gives back the integers that JSON has made floats of, and silence.
func whole(m device.Message) device.Message {
	m.Args = slices.Clone(m.Args)
	for i, a := range m.Args {
		if f, ok := a.(float64); ok && f == float64(int(f)) {
			m.Args[i] = int(f)
		}
		if a == silence {
			m.Args[i] = math.Inf(-1)
		}
	}
	return m
}

// Close implements link.Conn.
func (c *conn) Close() error {
	c.once.Do(func() {
		c.device.Leave(c.following)
		c.device.mu.Lock()
		delete(c.device.open, c)
		c.device.mu.Unlock()
		c.out.Close()
		c.Inbox.Close()
	})
	return nil
}
