// Package engine runs a show: inputs in, commands out, readings back.
//
// New starts an engine with a compiled program; Use puts another one in force. Input
// hands in what a hand, a foot or the network did; Halt, and Ask with a ShowPage, a
// UseProfile or a Try, what somebody asked for without a control. Changes is the
// numbered stream of what happened, for whoever follows it (package mirror).
//
// One goroutine, the engine's own, holds everything that lives: readings, what is held
// down, commands under way, runs. It reads an immutable program and waits for no lock,
// no disk and no client. reach is its only way to a device, whose link (package link)
// writes at once or has a queue of its own. contain ends what it was doing when it
// fails, and nothing else.
package engine

import (
	"cmp"
	"maps"
	"sync"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/core/input"
	"synaptor/internal/core/markers"
	"synaptor/internal/core/overlay"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// Recorder takes in what the journal is to know. It must not block.
type Recorder interface{ Record(journal.Event) }

// Config is what an engine needs.
type Config struct {
	Drivers link.Drivers
	Journal Recorder
	Outside Outside // may be nil
	// Pacing says how the engine waits for a step that is near; the default is Exact.
	Pacing Pacing
	// Intents take in what runs are about to change; may be nil.
	Intents Intents
	// Live is what lived when Synaptor ran last.
	Live LiveState
	// Unclean says that Synaptor was cut off when it ran last.
	Unclean bool
	// Access decides what may leave; nil: everything.
	Access *access.Keeper
	// Markers take in what somebody wants to find again; nil: nobody does. They must not wait.
	Markers Markers
}

// Markers take in points in time: what was done by an entry, and how long before that it points.
type Markers interface {
	Mark(kind, text, by, entry string, at time.Time, lead time.Duration) markers.Marker
}

// Pacing says how the engine waits for a step that is near.
type Pacing int

// The ways to wait.
const (
	// Exact looks at the clock all the time, since timers are up to a millisecond late.
	Exact Pacing = iota
	// Sleep trusts the timer: for tests whose time is testing/synctest's.
	Sleep
)

// Engine is a running engine.
type Engine struct {
	cfg    Config
	inputs chan arrival
	halts  chan Halt
	events chan any
	stream *Changes
	quit   chan struct{}
	done   chan struct{}
	links  sync.WaitGroup // links that are being closed

	// Owned by the engine's goroutine.
	program     *program.Program
	table       *reading.Table
	asked       reading.Asked
	devices     map[string]*deviceState
	controls    map[string]*held
	commands    map[uint64]*command
	zones       map[zoneKey]*input.Pages
	told        map[string]any    // readings of Synaptor itself that come from outside, by path
	profiles    map[string]string // in force, by controller; others have their own
	guards      map[string]*guard // by mapping
	dials       map[string]*dialState
	runs        []*run
	ended       []*run // runs that have ended while presses waited for that
	fades       []*fade
	delayed     []delayedSend
	closings    []*repeat            // that are sent again
	restorables []*restorable        // presses and runs that can be put back, oldest first
	offering    map[reading.Key]bool // what is offered to be put back is about
	reoffer     bool                 // one of those has changed
	branches    map[string]string    // the branch that each turns took last, by step
	precise     time.Time            // when the next step is due; zero: none
	waiters     bool                 // a run waits for a condition
	recheck     bool                 // a reading changed that one may wait for
	recording   *recording
	met         map[*program.Response][]needed // what the needs of actions were met by
	reflexes    map[string]*reflexState
	reflexDue   time.Time   // when the next of them is to be asked; zero: none is
	happenings  []happening // that reflexes are to be asked about, the oldest first
	during      occasion    // what a response is being carried out for
	switches    Switches
	timers      map[string]reflex.Timer  // by id
	overlays    map[string]overlay.State // by id
	signals     map[string]*signal       // by their keys
	holdings    map[reading.Key]*reflex.Holding
	clock       reflex.Clock
	began       time.Time // when the engine was made
	seen        time.Time // when that was last kept
	startAt     time.Time // when the reflexes of the start were told; zero: not yet
	safety      safety
	counting    counting
	starting    []happening // that wait for their devices
	lastID      uint64
	lastSent    time.Time
	doing       doing
	failures    map[string][]time.Time // that were contained, by cause
	barred      map[any]bool           // macros and mappings that failed too often
	timer       *time.Timer
	armed       time.Time // when the timer wakes; zero: it is not set
}

// held is what lives of a control.
type held struct {
	input.Control
	mapping *program.Mapping // what got the press; the release goes there too
	in      Input            // the touch that went down
	zone    string
	talk    *openTalk // what a talk of this control has opened; nil: nothing is open
}

// What waits at most before whoever hands it in has to.
const (
	//limit:count inputs that wait | whoever sends more waits
	maxInputs = 1024
	//limit:count halts that wait | whoever sends more waits
	maxHalts = 64
	//limit:count events that wait | whoever has more waits
	maxEvents = 4096
)

// New starts an engine with a program.
func New(cfg Config, first *program.Program) *Engine {
	e := &Engine{
		cfg:      cfg,
		inputs:   make(chan arrival, maxInputs),
		halts:    make(chan Halt, maxHalts),
		events:   make(chan any, maxEvents),
		stream:   newChanges(),
		quit:     make(chan struct{}),
		done:     make(chan struct{}),
		program:  first,
		table:    reading.NewTable(),
		devices:  map[string]*deviceState{},
		controls: map[string]*held{},
		commands: map[uint64]*command{},
		zones:    map[zoneKey]*input.Pages{},
		told:     map[string]any{},
		reflexes: map[string]*reflexState{},
		switches: cfg.Live.Switches.clone(),
		timers:   maps.Clone(cfg.Live.Timers),
		overlays: maps.Clone(cfg.Live.Overlays),
		signals:  map[string]*signal{},
		holdings: map[reading.Key]*reflex.Holding{},
		began:    time.Now(),
		safety:   safety{since: map[reading.Key]time.Time{}},
		profiles: map[string]string{},
		guards:   map[string]*guard{},
		dials:    map[string]*dialState{},
		branches: maps.Clone(cfg.Live.Turns),
		failures: map[string][]time.Time{},
		barred:   map[any]bool{},
		met:      map[*program.Response][]needed{},
		timer:    time.NewTimer(time.Hour),
	}
	for _, z := range cfg.Live.Zones {
		e.zones[zoneKey{z.Controller, z.Zone, cmp.Or(z.Profile, cfg.Live.Profiles[z.Controller])}] = &z.Pages
	}
	for c, p := range cfg.Live.Profiles {
		e.profiles[c] = p
	}
	for _, h := range cfg.Live.Holds {
		e.holdings[h.Key] = &h.Holding
	}
	if e.timers == nil {
		e.timers = map[string]reflex.Timer{}
	}
	if e.overlays == nil {
		e.overlays = map[string]overlay.State{}
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
