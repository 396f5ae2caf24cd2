package hands

import (
	"fmt"
	"time"

	"synaptor/internal/attach/hardware"
)

// confirmWithin is how long hardware is taken unless somebody says that all is well: so nobody locks out their only keyboard.
//
//limit:count time within which taking a keyboard is confirmed | in Rig; it is let go
const confirmWithin = 15 * time.Second

// NotHere says that hardware is not here.
type NotHere struct{}

// Error implements error.
func (NotHere) Error() string { return "This hardware is not here any more." }

// TryTake keeps hardware from other programs, for a while. It fails, in a sentence, where another program has it.
func (s *Service) TryTake(id string) error {
	p := s.port(id)
	if p == nil {
		return NotHere{}
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	switch {
	case p.plug.Grab == nil:
		return fmt.Errorf("%s cannot be kept from other programs", p.row.Name)
	case p.row.Link == "":
		return fmt.Errorf("%s is attached to no controller: it would be lost to everybody", p.row.Name)
	case p.grabbed:
		return nil
	}
	if err := p.plug.Grab(true); err != nil {
		return fmt.Errorf("%s cannot be taken, since another program has it: %w", p.row.Name, err)
	}
	p.grabbed = true
	until := time.Now().Add(confirmWithin)
	var timer *time.Timer
	timer = time.AfterFunc(confirmWithin, func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		if p.confirm != timer || p.gone {
			return
		}
		p.letGoOfGrab()
		p.change(func(r *hardware.Row) {
			r.Problem = fmt.Sprintf("It goes to other programs again: nobody said within %d seconds that all is well.", int(confirmWithin.Seconds()))
		})
	})
	p.confirm = timer
	p.change(func(r *hardware.Row) { r.Taken, r.TakenUntil, r.Problem = true, &until, "" })
	return nil
}

// Confirm says that all is well with hardware that was taken. link is that by which it is attached: it is to be taken from now on.
func (s *Service) Confirm(id string) (link string, err error) {
	p := s.port(id)
	if p == nil {
		return "", NotHere{}
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.confirm == nil {
		return "", fmt.Errorf("%s is not taken any more: nobody said in time that all is well", p.row.Name)
	}
	p.confirm.Stop()
	p.confirm = nil
	p.change(func(r *hardware.Row) { r.TakenUntil = nil })
	return p.row.Link, nil
}

// PassOn gives hardware back to other programs. link is that by which it is attached; empty: none.
func (s *Service) PassOn(id string) (link string, err error) {
	p := s.port(id)
	if p == nil {
		return "", NotHere{}
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.letGoOfGrab()
	return p.row.Link, nil
}

// letGoOfGrab gives it back; the lock is held.
func (p *Port) letGoOfGrab() {
	if p.confirm != nil {
		p.confirm.Stop()
		p.confirm = nil
	}
	if p.grabbed {
		_ = p.plug.Grab(false) // where that fails it is gone, and with it that it was taken
		p.grabbed = false
	}
	p.change(func(r *hardware.Row) { r.Taken, r.TakenUntil = false, nil })
}

// grabAsLinked has it taken as its link says; the lock is held.
func (p *Port) grabAsLinked() {
	want := p.link != nil && p.link.Take && !p.link.Off && p.plug.Grab != nil
	switch {
	case want && !p.grabbed:
		if err := p.plug.Grab(true); err != nil {
			p.change(func(r *hardware.Row) {
				r.Problem = "It goes to other programs too, since another one has it: " + err.Error() + "."
			})
			return
		}
		p.grabbed = true
		p.change(func(r *hardware.Row) { r.Taken = true })
	case !want && p.grabbed && p.confirm == nil:
		p.letGoOfGrab()
	}
}
