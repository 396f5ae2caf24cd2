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
	"maps"
	"sync"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
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
	Self    Outside // may be nil
	// Pacing says how the engine waits for a step that is near; the default is Exact.
	Pacing Pacing
	// Live is what lived when Synaptor ran last.
	Live LiveState
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
	devices     map[string]*deviceState
	controls    map[string]*held
	commands    map[uint64]*command
	zones       map[zoneKey]*input.Pages
	profiles    map[string]string // in force, by controller; others have their own
	guards      map[string]*guard // by mapping
	dials       map[string]*dialState
	runs        []*run
	ended       []*run // runs that have ended while presses waited for that
	fades       []*fade
	delayed     []delayedSend
	restorables []*restorable     // presses and runs that can be put back, oldest first
	branches    map[string]string // the branch that each turns took last, by step
	precise     time.Time         // when the next step is due; zero: none
	waiters     bool              // a run waits for a condition
	recheck     bool              // a reading changed that one may wait for
	recording   *recording
	lastID      uint64
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
}

// New starts an engine with an empty show.
func New(cfg Config, first *program.Program) *Engine {
	e := &Engine{cfg: cfg, inputs: make(chan arrival, 1024), halts: make(chan Halt, 64), events: make(chan any, 4096), stream: newChanges(), quit: make(chan struct{}),
		done: make(chan struct{}), program: first, table: reading.NewTable(), devices: map[string]*deviceState{}, controls: map[string]*held{},
		commands: map[uint64]*command{}, zones: map[zoneKey]*input.Pages{}, profiles: map[string]string{},
		failures: map[string][]time.Time{}, barred: map[any]bool{}, guards: map[string]*guard{}, branches: maps.Clone(cfg.Live.Turns), dials: map[string]*dialState{}, timer: time.NewTimer(time.Hour)}
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
