package app

import (
	"errors"
	"fmt"
	"sync/atomic"

	"synaptor/internal/core/device"
	"synaptor/internal/link/local"
)

// computer has the functions of this computer: those of the bench's simulated one as soon as that runs, else the real
// ones where the data folder allows it. It implements local.Computer.
type computer struct {
	now atomic.Pointer[local.Computer]
}

func (c *computer) use(l local.Computer) { c.now.Store(&l) }

// get gives the one in use; local.Off where there is none.
func (c *computer) get() (local.Computer, error) {
	l := c.now.Load()
	if l == nil {
		return nil, local.Off
	}
	return *l, nil
}

// Do implements local.Computer.
func (c *computer) Do(m device.Message) (heard bool, err error) {
	l, err := c.get()
	if err != nil {
		return false, err
	}
	return l.Do(m)
}

// Ask implements local.Computer.
func (c *computer) Ask(address string) []device.Message {
	l, err := c.get()
	if err != nil {
		return nil
	}
	return l.Ask(address)
}

// Follow implements local.Computer.
func (c *computer) Follow(tell func(...device.Message), ended func(error)) (stop func(), err error) {
	l, err := c.get()
	if err != nil {
		return nil, err
	}
	return l.Follow(tell, ended)
}

// openComputer gives the functions of this computer.
func (a *App) openComputer(data string) (*computer, error) {
	c := &computer{}
	if a.Bench != nil {
		c.use(a.Bench.Workstation)
		return c, nil
	}
	r, err := local.Load(data)
	var bad *local.DamagedError
	if errors.As(err, &bad) {
		a.noteRepair(fmt.Sprintf("What Synaptor may do on this computer cannot be read, so it does nothing there: %v. Put %s right and start again.", bad.Err, bad.File))
		return c, nil
	}
	if r != nil && err == nil {
		c.use(r)
	}
	return c, err
}
