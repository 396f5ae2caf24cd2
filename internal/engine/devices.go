package engine

import (
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// deviceState is what lives of a device.
type deviceState struct {
	link    *link.Link
	gen     int
	where   where // what the link was opened for
	wire    *link.Wire
	pings   []chan time.Time
	state   link.State
	came    bool // it has been up since Synaptor started
	heard   time.Time
	all     reading.Latency
	stats   reading.Stats // of all
	actions map[string]*latency
	shift   reading.Shift // of its commands, whatever their actions
	// owed are the commands that were written and are answered in their order.
	owed []uint64
	// awaySince is since when it does not answer that has been up; zero: it does.
	awaySince time.Time
	notSent   int             // since then
	differs   *returnedDevice // it has returned, and nobody has decided yet; nil: nothing differs
	// overfull says that it reports more readings than are kept.
	overfull bool
}

// where is what a link is opened for; it is made anew when any of it changes.
type where struct {
	address, user, secret string
	secure                bool
	typ                   *device.Type
}

// latency keeps the statistics of an action beside its samples.
type latency struct {
	reading.Latency
	stats reading.Stats
	at    time.Time // when they were worked out
	stale bool      // there are newer samples
}

// seed fills in what was last heard of a device, so that its names are there
// before it answers.
func (e *Engine) seed(d *program.Device) {
	for _, r := range d.Known {
		k := reading.Key{Device: d.ID, Path: r.Path}
		if d.Type.Reading(r.Path) != nil && e.table.Seed(k, r.Value) {
			e.changed(k, "", "")
		}
	}
}

func whereOf(d *program.Device) where { return where{d.Address(), d.User, d.Secret, d.Secure, d.Type} }

func (e *Engine) openLink(rt *deviceState, d *program.Device) {
	rt.gen++
	rt.where = whereOf(d)
	rt.state = link.State{Device: d.ID, Phase: link.Connecting, Since: time.Now()}
	to := link.Target{Host: d.Host, Port: d.Port, Secure: d.Secure, Link: &d.Type.Sheet.Link, User: d.User, Password: d.Password()}
	if login := to.Link.Login; login != nil && to.User == "" {
		to.User = login.User
	}
	rt.wire.Mask(to.Password)
	rt.link = link.Open(link.Config{Device: d.ID, Name: d.Name, Target: to, Type: d.Type,
		Driver: e.cfg.Drivers.For(d.Type), Sink: sink{e, rt.gen}, Wire: rt.wire})
}

// closeLink ends a link without waiting for it: it may be handing something to
// this very goroutine.
func (e *Engine) closeLink(rt *deviceState) {
	l := rt.link
	if l == nil {
		return
	}
	rt.link = nil
	e.links.Add(1)
	go func() {
		defer e.links.Done()
		l.Close()
	}()
}

func (e *Engine) current(id string, gen int) *deviceState {
	if rt := e.devices[id]; rt != nil && rt.gen == gen {
		return rt
	}
	return nil
}

// use puts a new program in force: links are opened, moved and closed; what is held
// keeps the mapping it began with. Phases change first, so that nothing which ends with
// a link can begin something else on it; only then are devices lost, and what waited
// for their commands begins.
func (e *Engine) use(s *program.Program) {
	e.releaseGone(s)
	e.program = s
	clear(e.met)
	lost := e.dropLinks()
	e.stream.push(Swapped{s})
	for _, l := range lost {
		e.lose(l.device, l.why)
		e.asked.ForgetDevice(l.device) // what comes back may be another one
		if rt := e.devices[l.device]; rt != nil {
			rt.awaySince, rt.notSent, rt.differs = time.Time{}, 0, nil
		}
		if e.devices[l.device] == nil {
			e.table.Forget(l.device)
			e.stream.push(DeviceGone{l.device})
		}
	}
	if len(lost) > 0 {
		e.publishReturned()
	}
	for id, d := range s.Devices {
		if d.Type != nil && id != program.SelfID {
			e.connect(d)
		}
	}
	e.tidy()
	e.settleZones()
	e.settleReflexes()
}

// lostDevice is a device whose link ends with an edit, and why.
type lostDevice struct{ device, why string }

// dropLinks takes the links away that the program in force has no more use for.
func (e *Engine) dropLinks() (lost []lostDevice) {
	for id, rt := range e.devices {
		d := e.program.Devices[id]
		why, phase := "", link.Connecting
		switch {
		case d == nil || d.Type == nil:
			why = "the device was removed"
			delete(e.devices, id)
		case d.Parked && rt.state.Phase != link.Parked:
			why, phase = "the device was parked", link.Parked
		case !d.Parked && rt.link != nil && rt.where != whereOf(d):
			why = "the device was moved to another address"
		default:
			continue
		}
		e.closeLink(rt)
		rt.gen++
		rt.where = where{}
		rt.state = link.State{Device: id, Phase: phase, Since: time.Now()}
		if phase == link.Parked {
			e.stream.push(LinkState{rt.state, rt.heard})
		}
		lost = append(lost, lostDevice{id, why})
	}
	return lost
}

// connect opens the link of a device, unless it is open or the device is parked.
func (e *Engine) connect(d *program.Device) {
	rt := e.devices[d.ID]
	if rt == nil {
		rt = &deviceState{actions: map[string]*latency{}, wire: &link.Wire{}}
		e.devices[d.ID] = rt
		e.stream.push(DeviceAdded{d.ID, rt.wire})
		e.seed(d)
		if d.Parked {
			rt.state = link.State{Device: d.ID, Phase: link.Parked, Since: time.Now()}
			e.stream.push(LinkState{rt.state, rt.heard})
		}
	}
	switch {
	case d.Parked || rt.link != nil:
	case d.PasswordErr == nil:
		e.openLink(rt, d)
	case rt.state.Phase != link.Locked:
		// It is not tried without: that would lock accounts, and say the wrong thing.
		rt.state = link.State{Device: d.ID, Phase: link.Locked, Since: time.Now(),
			Problem: fmt.Sprintf("The password of %s cannot be opened: %v. Enter it again.", d.Name, d.PasswordErr)}
		e.stream.push(LinkState{rt.state, rt.heard})
	}
}

// releaseGone lets go of what is held on controllers that a new program has no more:
// what was pressed there gets its release while its mapping is still known.
func (e *Engine) releaseGone(s *program.Program) {
	for key, h := range e.controls {
		if c := s.Controllers[h.in.Controller]; c != nil && c.Layout != nil {
			continue
		}
		for _, holder := range h.Holders() {
			e.input(cancelled(h.in, holder, "lost link"))
		}
		if h.talk != nil {
			e.closeTalk(cancelled(h.in, "", "lost link"), e.program.Controllers[h.in.Controller], h, time.Now())
		}
		delete(e.controls, key)
	}
}
