// Package engine runs a show: inputs in, commands out, readings back.
//
// One goroutine, the engine's own, holds everything that lives: readings, what
// is held down, commands under way. It reads an immutable compiled show and
// writes a numbered stream of changes. A second goroutine, the mirror, follows
// that stream: it works out faces, feeds live clients and answers questions, so
// that neither a slow client nor a curious one delays a press. Each device has
// a writer of its own (package link).
package engine

import (
	"cmp"
	"errors"
	"maps"
	"runtime"
	"sync"
	"time"

	"synaptor/internal/program"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// Recorder takes in what the journal is to know. It must not block.
type Recorder interface{ Record(journal.Event) }

// Config is what an engine needs.
type Config struct {
	Drivers link.Drivers
	Journal Recorder
	Self    Outside // may be nil
	// Live is what lived when Synaptor ran last.
	Live LiveState
}

// LiveState is what lives and survives a restart.
type LiveState struct {
	Zones    []KeptZone        `json:"zones"`
	Profiles map[string]string `json:"profiles"`
	// Turns has the branch that each turns took last, by step.
	Turns map[string]string `json:"turns,omitempty"`
	// Runs are those that went on, with what they had changed.
	Runs []KeptRun `json:"runs,omitempty"`
}

// KeptRun is a run that went on when Synaptor ended.
type KeptRun struct {
	Entry   string       `json:"entry"`
	Title   string       `json:"title"`
	Macro   string       `json:"macro"`
	At      time.Time    `json:"at"`
	Changed []macro.Kept `json:"changed"`
}

// KeptZone is where a zone of a controller stood.
type KeptZone struct {
	Controller string      `json:"controller"`
	Zone       string      `json:"zone"`
	Profile    string      `json:"profile,omitempty"` // missing: the one in force
	Pages      input.Pages `json:"pages"`
}

// Engine is a running engine.
type Engine struct {
	cfg    Config
	inputs chan Input
	events chan any
	stream *Changes
	quit   chan struct{}
	done   chan struct{}
	links  sync.WaitGroup // links that are being closed

	// Owned by the engine's goroutine.
	program     *program.Program
	table       *reading.Table
	devices     map[string]*deviceState
	controls    map[string]*held
	commands    map[uint64]*command
	zones       map[zoneKey]*input.Pages
	profiles    map[string]string // in force, by controller; others have their own
	guards      map[string]*guard // by mapping
	dials       map[string]*dialState
	runs        []*run
	fades       []*fade
	delayed     []delayedSend
	restorables []*restorable     // presses and runs that can be put back, oldest first
	branches    map[string]string // the branch that each turns took last, by step
	precise     time.Time         // when the next step is due; zero: none
	waiters     bool              // a run waits for a condition
	recheck     bool              // a reading changed that one may wait for
	recording   *recording
	lastID      uint64
	timer       *time.Timer
	armed       time.Time // when the timer wakes; zero: it is not set
}

// Input is something a hand, a foot or the network did.
type Input struct {
	Entry      string // the journal entry, from journal.NextID
	At         time.Time
	Controller string // id
	Control    string
	Edge       input.Edge // a touch; or
	Gesture    string     // a finished gesture, from the network
	Amount     float64    // of a turn, a slide or a swipe
	Link       string     // tells apart who holds a control
	Via        string     // panel, patch, http, osc
	Actor      string
	Page       string // a page's id; empty for the page in force
	// Try is an action that is tried without a control.
	Try *program.Response
}

// deviceState is what lives of a device.
type deviceState struct {
	link    *link.Link
	gen     int
	where   where // what the link was opened for
	wire    *link.Wire
	pings   []chan time.Time
	state   link.State
	heard   time.Time
	all     reading.Latency
	stats   reading.Stats // of all
	actions map[string]*latency
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

// held is what lives of a control.
type held struct {
	input.Control
	mapping *program.Mapping // what got the press; the release goes there too
	in      Input            // the touch that went down
	zone    string
}

// New starts an engine with an empty show.
func New(cfg Config, first *program.Program) *Engine {
	e := &Engine{cfg: cfg, inputs: make(chan Input, 1024), events: make(chan any, 4096), stream: newChanges(), quit: make(chan struct{}),
		done: make(chan struct{}), program: first, table: reading.NewTable(), devices: map[string]*deviceState{}, controls: map[string]*held{},
		commands: map[uint64]*command{}, zones: map[zoneKey]*input.Pages{}, profiles: map[string]string{},
		guards: map[string]*guard{}, branches: maps.Clone(cfg.Live.Turns), dials: map[string]*dialState{}, timer: time.NewTimer(time.Hour)}
	for _, z := range cfg.Live.Zones {
		e.zones[zoneKey{z.Controller, z.Zone, cmp.Or(z.Profile, cfg.Live.Profiles[z.Controller])}] = &z.Pages
	}
	for c, p := range cfg.Live.Profiles {
		e.profiles[c] = p
	}
	if e.branches == nil {
		e.branches = map[string]string{}
	}
	e.offerKept(cfg.Live.Runs)
	go e.run()
	e.Use(first)
	return e
}

// Close ends the engine and its links.
func (e *Engine) Close() {
	close(e.quit)
	<-e.done
	e.links.Wait()
}

// Input hands in an input.
func (e *Engine) Input(in Input) {
	select {
	case e.inputs <- in:
	case <-e.quit:
	}
}

// Use puts a new compiled show in force.
func (e *Engine) Use(s *program.Program) { e.post(s) }

// ReleaseAll lets go of everything that a link holds, because it was lost.
func (e *Engine) ReleaseAll(link string) { e.post(releaseAll{link}) }

// Changes is what the engine tells whoever follows it.
func (e *Engine) Changes() *Changes { return e.stream }

// Sync waits until the engine has taken in everything that was handed to it before.
func (e *Engine) Sync() { _ = e.call(func() error { return nil }) }

type releaseAll struct{ link string }

func (e *Engine) post(ev any) {
	select {
	case e.events <- ev:
	case <-e.quit:
	}
}

func (e *Engine) run() {
	defer close(e.done)
	for {
		if e.recheck {
			e.recheck = false
			e.dueRuns(time.Now())
		}
		if e.pace() {
			continue
		}
		// Inputs first: a flood of reports must not make a press wait.
		select {
		case in := <-e.inputs:
			e.input(in)
			continue
		default:
		}
		select {
		case in := <-e.inputs:
			e.input(in)
		case ev := <-e.events:
			e.event(ev)
		case <-e.timer.C:
			e.dueWork(time.Now())
		case <-e.quit:
			for _, rt := range e.devices {
				e.closeLink(rt)
			}
			return
		}
	}
}

// pace does what is due to the point while the next step of a run is near: it looks at
// the clock and takes in what comes meanwhile, since timers are too late. false means
// that no step is near.
func (e *Engine) pace() bool {
	if e.precise.IsZero() {
		return false
	}
	now := time.Now()
	if !now.Before(e.precise) {
		e.dueRuns(now)
		return true
	}
	if e.precise.Sub(now) > wakeEarly {
		return false
	}
	select {
	case in := <-e.inputs:
		e.input(in)
	case ev := <-e.events:
		e.event(ev)
	case <-e.quit:
		return false
	default:
		if e.precise.Sub(now) > lookOnly {
			runtime.Gosched()
		}
	}
	return true
}

func (e *Engine) event(ev any) {
	switch ev := ev.(type) {
	case *program.Program:
		e.swap(ev)
	case releaseAll:
		e.releaseAll(ev.link)
	case linkChanged:
		if rt := e.current(ev.state.Device, ev.gen); rt != nil {
			e.linkChanged(rt, ev.state)
		}
	case reported:
		if rt := e.current(ev.device, ev.gen); rt != nil {
			e.reported(rt, ev)
		}
	case written:
		e.written(ev)
	case dropped:
		e.dropped(ev)
	case refused:
		e.refused(ev)
	case answered:
		e.answered(ev)
	case raised:
		if e.current(ev.device, ev.gen) != nil {
			e.stream.push(EventsRaised{ev.device, ev.at, ev.events})
		}
	case ping:
		e.ping(ev)
	case callRequest:
		ev.done <- ev.do()
	case linkRequest:
		if rt := e.devices[ev.device]; rt != nil && rt.link != nil {
			ev.do(rt.link)
		}
	}
}

// swap puts a new show in force: links are opened, moved and closed; what is
// held keeps the mapping it began with.
func (e *Engine) swap(s *program.Program) {
	e.program = s
	defer e.settleZones()
	for id, rt := range e.devices {
		if d := s.Devices[id]; d == nil || d.Type == nil {
			e.closeLink(rt)
			e.lose(id, "the device was removed")
			e.table.Forget(id)
			delete(e.devices, id)
			e.stream.push(DeviceGone{id})
		}
	}
	e.stream.push(Swapped{s})
	for id, d := range s.Devices {
		if d.Type == nil || id == program.SelfID {
			continue
		}
		rt := e.devices[id]
		if rt == nil {
			rt = &deviceState{actions: map[string]*latency{}, wire: &link.Wire{}}
			e.devices[id] = rt
			e.stream.push(DeviceAdded{id, rt.wire})
			e.seed(d)
		}
		if d.Parked {
			e.park(rt, d)
			continue
		}
		at := where{d.Address(), d.User, d.Secret, d.Secure, d.Type}
		if rt.where == at && rt.link != nil {
			continue
		}
		if rt.link != nil {
			e.closeLink(rt)
			e.lose(id, "the device was moved to another address")
		}
		e.openLink(rt, d, at)
	}
}

// seed fills in what was last heard of a device, so that its names are there
// before it answers.
func (e *Engine) seed(d *program.Device) {
	for _, r := range d.Known {
		k := reading.Key{Device: d.ID, Path: r.Path}
		if d.Type.Reading(r.Path) != nil && e.table.Seed(k, r.Value) {
			e.changed(k, "")
		}
	}
}

// park takes the link away and keeps what is known.
func (e *Engine) park(rt *deviceState, d *program.Device) {
	if rt.link != nil {
		e.closeLink(rt)
		rt.where = where{}
		e.lose(d.ID, "the device was parked")
	}
	if rt.state.Phase != link.Parked {
		rt.gen++
		rt.state = link.State{Device: d.ID, Phase: link.Parked, Since: time.Now()}
		e.stream.push(LinkState{rt.state, rt.heard})
	}
}

func (e *Engine) openLink(rt *deviceState, d *program.Device, at where) {
	rt.gen++
	rt.where = at
	rt.state = link.State{Device: d.ID, Phase: link.Connecting, Since: time.Now()}
	to := link.Target{Host: d.Host, Port: d.Port, Secure: d.Secure, Link: &d.Type.Sheet.Link, User: d.User, Password: d.Password()}
	if login := to.Link.Login; login != nil && to.User == "" {
		to.User = login.User
	}
	rt.wire.Mask(to.Password)
	rt.link = link.Open(link.Config{Device: d.ID, Name: d.Name, Target: to, Type: d.Type,
		Driver: e.cfg.Drivers.For(d.Type), Sink: sink{e, rt.gen}, Wire: rt.wire})
}

// Reconnect has the link of a device try again at once.
func (e *Engine) Reconnect(device string) { e.post(linkRequest{device, (*link.Link).Reconnect}) }

// Probe has the link of a device ask whether it is there.
func (e *Engine) Probe(device string) { e.post(linkRequest{device, (*link.Link).Probe}) }

// Ping has the link of a device ask whether it is there, and returns how long
// it took to say anything. It fails when that takes longer than the limit.
func (e *Engine) Ping(device string, limit time.Duration) (time.Duration, error) {
	answered := make(chan time.Time, 1)
	start := time.Now()
	e.post(ping{device, answered})
	select {
	case at := <-answered:
		return at.Sub(start), nil
	case <-time.After(limit):
		return 0, errSilent
	case <-e.quit:
		return 0, errSilent
	}
}

var errSilent = errors.New("the device did not answer in time")

// ping is somebody who waits for the next word of a device.
type ping struct {
	device string
	heard  chan time.Time
}

// ping asks a device; its next report answers.
func (e *Engine) ping(p ping) {
	rt := e.devices[p.device]
	if rt == nil || rt.link == nil {
		return
	}
	rt.pings = append(rt.pings, p.heard)
	rt.link.Probe()
}

// heardFrom tells those who wait for a device that it is there.
func (rt *deviceState) heardFrom(at time.Time) {
	for _, c := range rt.pings {
		c <- at // each has room for one
	}
	rt.pings = nil
}

type linkRequest struct {
	device string
	do     func(*link.Link)
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
