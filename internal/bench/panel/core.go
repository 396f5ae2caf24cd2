package panel

import (
	"slices"
	"sync"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/incident"
)

// Machine is the simulation behind a stand-in. It has no socket and no clock of
// its own; Core calls it with its lock held.
type Machine interface {
	// Values is its state.
	Values() *Values
	// Do carries out a message and returns what changed. An error is the
	// sentence that the client is told.
	Do(m device.Message, now time.Time) ([]device.Message, error)
	// Tick moves what moves by itself and reports whether anything still does.
	Tick(now time.Time) (changed []device.Message, running bool)
}

// Eventful is a machine to which things happen that are no state.
type Eventful interface {
	// Happened gives what has happened since it was asked last.
	Happened() []Happening
}

// Happening is something that clients are told of once.
type Happening struct {
	Name   string
	Fields map[string]any
}

// Socket is the network side of a stand-in.
type Socket interface {
	// Open listens, at the same address as before.
	Open() error
	// Cut closes the socket and every connection.
	Cut()
	// Addr is the address, also while it is cut.
	Addr() string
}

// Core runs a machine: it carries out messages, keeps followers up to date and
// moves time on.
type Core struct {
	id, title string
	make      func() Machine
	socket    Socket
	every     time.Duration
	changed   func() // called after every change, without locks held

	mu        sync.Mutex
	machine   Machine
	faults    faults.Faults
	recent    Recent
	followers map[*Follower]bool
	events    *Events // of a stand-in that has a stream of them; else nil
	ticking   bool
	stopped   bool
	free      func() // lets the port go that is held while the socket is cut; nil: none is
	wg        sync.WaitGroup
}

// Follower is told of changes.
type Follower struct {
	tell func(due time.Time, msgs []device.Message)
}

// restartTakes is how long a device that lost its power is away.
const restartTakes = 600 * time.Millisecond

// NewCore makes a core for machines that tick at an interval. It is used with
// Start once its socket is known.
func NewCore(id, title string, every time.Duration, makeMachine func() Machine, changed func()) *Core {
	if changed == nil {
		changed = func() {}
	}
	return &Core{id: id, title: title, make: makeMachine, machine: makeMachine(), every: every, changed: changed, followers: map[*Follower]bool{}}
}

// Start opens the socket.
func (c *Core) Start(s Socket) error {
	c.socket = s
	if err := s.Open(); err != nil {
		return err
	}
	c.mu.Lock()
	c.run()
	c.mu.Unlock()
	return nil
}

// ID implements StandIn.
func (c *Core) ID() string { return c.id }

// Title implements StandIn.
func (c *Core) Title() string { return c.title }

// View implements StandIn.
func (c *Core) View() View {
	c.mu.Lock()
	defer c.mu.Unlock()
	return View{Values: c.machine.Values().Shown(), Clients: len(c.followers), Faults: c.faults, Recent: append([]string{}, c.recent...)}
}

// Faults gives the faults as they are set.
func (c *Core) Faults() faults.Faults {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.faults
}

// Handle carries out a message that a client sent. heard is false when a fault
// kept it from being heard: nothing must be answered then.
func (c *Core) Handle(m device.Message) (heard bool, err error) {
	if d := c.Faults().ActDelay(); d > 0 {
		time.Sleep(d)
	}
	c.mu.Lock()
	if c.faults.Silent || c.faults.Lost() {
		c.mu.Unlock()
		return false, nil
	}
	c.recent.Note(m.String())
	err = c.apply(m)
	c.mu.Unlock()
	c.changed()
	return true, err
}

// Asked tells whether a question is heard, and gives what it is answered with:
// one value, or all of them for an empty address.
func (c *Core) Asked(address string) (heard bool, msgs []device.Message) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.faults.Silent {
		return false, nil
	}
	if address == "" {
		return true, c.machine.Values().All()
	}
	if v, ok := c.machine.Values().Get(address); ok {
		return true, []device.Message{{Address: address, Args: []any{v}}}
	}
	return true, nil
}

// Due is when an answer that is given now leaves.
func (c *Core) Due() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return time.Now().Add(c.faults.Delay())
}

// Operate implements StandIn.
func (c *Core) Operate(m device.Message) error {
	c.mu.Lock()
	err := c.apply(m)
	c.mu.Unlock()
	c.changed()
	return err
}

// apply changes the state and tells every follower; the lock is held.
func (c *Core) apply(m device.Message) error {
	changes, err := c.machine.Do(m, time.Now())
	if err != nil {
		return err
	}
	c.tell(changes)
	c.happen()
	c.run()
	return nil
}

// happen tells what has happened besides; the lock is held.
func (c *Core) happen() {
	m, has := c.machine.(Eventful)
	if !has {
		return
	}
	for _, h := range m.Happened() {
		if c.events != nil {
			c.events.raise(h.Name, h.Fields)
		}
	}
}

func (c *Core) tell(changes []device.Message) {
	if len(changes) == 0 || c.faults.Silent || c.faults.Lost() {
		return
	}
	due := time.Now().Add(c.faults.Delay())
	for f := range c.followers {
		f.tell(due, changes)
	}
}

// run starts the clock where something moves; the lock is held.
func (c *Core) run() {
	if c.ticking || c.stopped {
		return
	}
	changes, running := c.machine.Tick(time.Now())
	c.tell(changes)
	c.happen()
	if running {
		c.ticking = true
		c.wg.Add(1)
		go incident.Contain("bench", c.id, c.clock)
	}
}

func (c *Core) clock() {
	defer c.wg.Done()
	t := time.NewTicker(c.every)
	defer t.Stop()
	for range t.C {
		c.mu.Lock()
		changes, running := c.machine.Tick(time.Now())
		c.tell(changes)
		c.happen()
		end := !running || c.stopped
		if end {
			c.ticking = false
		}
		c.mu.Unlock()
		if len(changes) > 0 || end {
			c.changed()
		}
		if end {
			return
		}
	}
}

// Follow has a function called with every change from now on. It must not block
// and not call back.
func (c *Core) Follow(tell func(due time.Time, msgs []device.Message)) *Follower {
	f := &Follower{tell}
	c.mu.Lock()
	c.followers[f] = true
	c.mu.Unlock()
	c.changed()
	return f
}

// FollowAll is Follow that tells everything there is first.
func (c *Core) FollowAll(tell func(due time.Time, msgs []device.Message)) *Follower {
	f := &Follower{tell}
	c.mu.Lock()
	if !c.faults.Silent {
		tell(time.Now().Add(c.faults.Delay()), c.machine.Values().All())
	}
	c.followers[f] = true
	c.mu.Unlock()
	c.changed()
	return f
}

// Leave ends a Follow; a nil follower is none.
func (c *Core) Leave(f *Follower) {
	if f == nil {
		return
	}
	c.mu.Lock()
	delete(c.followers, f)
	c.mu.Unlock()
	c.changed()
}

// SetFaults implements StandIn. Cutting the link closes the socket; taking the
// fault back opens it again at the same address.
func (c *Core) SetFaults(f faults.Faults) error {
	c.mu.Lock()
	was := c.faults
	c.faults = f
	c.mu.Unlock()
	var err error
	switch {
	case f.Cut && !was.Cut:
		c.cut()
	case !f.Cut && was.Cut:
		err = c.reopen()
	}
	c.changed()
	return err
}

// cut closes the socket and holds its port: what stands in for a device is to
// come back where it was.
func (c *Core) cut() {
	c.socket.Cut()
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.free == nil && !c.stopped {
		c.free = hold(c.socket.Addr())
	}
}

// letGo lets the port go that is held.
func (c *Core) letGo() {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.free != nil {
		c.free()
	}
	c.free = nil
}

// reopen opens the socket again; the port may be held a moment longer, by
// connections that are being closed.
func (c *Core) reopen() (err error) {
	c.letGo()
	for range 50 {
		if err = c.socket.Open(); err == nil {
			return nil
		}
		time.Sleep(20 * time.Millisecond)
	}
	return err
}

// Restart implements StandIn.
func (c *Core) Restart() {
	c.cut()
	c.mu.Lock()
	c.machine = c.make()
	c.faults.Cut = false
	c.wg.Add(1)
	c.mu.Unlock()
	go incident.Contain("bench", c.id, func() {
		defer c.wg.Done()
		time.Sleep(restartTakes)
		c.mu.Lock()
		off := c.stopped || c.faults.Cut
		if !off {
			c.run()
		}
		c.mu.Unlock()
		if !off {
			_ = c.reopen() // a port that somebody took stays taken; the link says so
		}
		c.changed()
	})
	c.changed()
}

// Close implements StandIn.
func (c *Core) Close() {
	c.mu.Lock()
	c.stopped = true
	c.mu.Unlock()
	c.socket.Cut()
	c.letGo()
	c.wg.Wait()
}

// OneOf checks that a text is among others.
func OneOf(v any, options ...string) (string, bool) {
	s, ok := v.(string)
	return s, ok && slices.Contains(options, s)
}
