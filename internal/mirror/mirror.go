// Package mirror shows others what lives in the engine. It follows the engine's changes
// in a goroutine of its own, works out the faces that somebody looks at, and publishes
// what live clients see. View gives what lives at a moment, as something that never
// changes: documents, findings and rehearsals work on that, each in the goroutine of
// whoever asks.
package mirror

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// refusalShown is how long a refusal stays on a face after the finger has left.
const refusalShown = 3 * time.Second

// gatherFor is how long changes are gathered before faces are worked out: what a press
// expects and what the device then says are often one change for those who look, and the
// command has left the machine before twenty clients are told.
const gatherFor = 500 * time.Microsecond

// Config is what a mirror needs.
type Config struct {
	Changes *engine.Changes
	// Sync waits until the engine has taken in what was handed to it before.
	Sync    func()
	Journal engine.Recorder
	Hub     *feed.Hub
	// Live is what lived when Synaptor ran last.
	Live engine.LiveState
	// Keep stores what is known of a device, for the time before it answers, and
	// KeepLive what lives. They must not wait for a disk. Both may be nil.
	Keep     func(device string, known []device.Report)
	KeepLive func(engine.LiveState)
	// History takes in what has been; it must not wait for a disk. It may be nil.
	History History
	// Pictures gives those of the library, SignIns those that end; both may be nil.
	Pictures func() map[string]bool
	SignIns  func() []preflight.SignIn
	// Used counts how often the journal says that each mapping was used; it may be nil.
	Used func() (map[string]int, error)
}

// Mirror follows an engine.
type Mirror struct {
	cfg     Config
	jobs    chan func()
	quit    chan struct{}
	done    chan struct{}
	inspect *inspector
	night   rehearsing

	// Owned by the mirror's goroutine.
	gather    *time.Timer // when changes that are gathered are taken in
	gathering bool
	now       View
	replica   *reading.Replica
	heard     map[string]time.Time // by device
	faces     map[string]face.Face // by mapping; those that somebody looks at
	refusals  map[string]refusal   // by mapping
	tried     map[string]tried     // by mapping
	// deps has, by reading, the mappings that somebody looks at; the faces of
	// the others are worked out when somebody does. runners has, by macro, those of
	// them that run it.
	deps    map[reading.Key][]*program.Mapping
	runners map[string][]*program.Mapping
	touched map[*program.Mapping][]string // faces to work out, with the entries that caused it
	status  statusLine
	overlay overlayPage
	notSent map[string]int             // by device that is away: presses and steps that were not sent
	recent  map[string][]time.Duration // latency samples by device
	usual   map[string]time.Duration   // the latency of each device that macros were looked through with
	events  map[string][]EventRow      // the last ones of each device, newest first
	summary map[string]string          // what each device has
	ended   map[string]time.Time       // when runs have ended, by id
	live    engine.LiveState
	past    []engine.Happened      // what has happened, the newest last
	verdict []engine.Judged        // what became of it
	numbers map[reading.Key]number // that keep changing
	watched map[reading.Key]bool   // the readings that are recorded
	unsaved bool                   // live has changed
	unkept  map[string]time.Time   // devices with something new to keep, since when
	// going are runs that go on, left what is to be decided: both survive a restart.
	going, left []engine.KeptRun
}

// refusal is why the last press of a mapping was refused.
type refusal struct {
	text  string
	held  string
	until time.Time // zero while the finger is on it
}

// New starts a mirror of an engine that began with a program.
func New(first *program.Program, cfg Config) (*Mirror, error) {
	font, err := face.NewFont()
	if err != nil {
		return nil, err
	}
	m := &Mirror{
		cfg:      cfg,
		jobs:     make(chan func()),
		quit:     make(chan struct{}),
		done:     make(chan struct{}),
		gather:   time.NewTimer(time.Hour),
		replica:  reading.NewReplica(),
		heard:    map[string]time.Time{},
		faces:    map[string]face.Face{},
		refusals: map[string]refusal{},
		tried:    map[string]tried{},
		deps:     map[reading.Key][]*program.Mapping{},
		runners:  map[string][]*program.Mapping{},
		touched:  map[*program.Mapping][]string{},
		recent:   map[string][]time.Duration{},
		usual:    map[string]time.Duration{},
		events:   map[string][]EventRow{},
		summary:  map[string]string{},
		ended:    map[string]time.Time{},
		unkept:   map[string]time.Time{},
		numbers:  map[reading.Key]number{},
		live: engine.LiveState{Zones: slices.Clone(cfg.Live.Zones), Profiles: map[string]string{},
			Switches: cfg.Live.Switches, Timers: cfg.Live.Timers, Overlays: cfg.Live.Overlays, Holds: cfg.Live.Holds, Seen: cfg.Live.Seen},
	}
	m.now = View{Program: first, readings: m.replica, font: font}
	for step, branch := range cfg.Live.Turns {
		m.now.turns.set(step, branch)
	}
	m.publishOverlays()
	m.inspect = newInspector(m)
	m.cfg.Hub.OnFollow(func() { m.do(m.watchShown) })
	go m.run()
	go m.inspect.run()
	return m, nil
}

// Close stores what is left and ends the mirror.
func (m *Mirror) Close() {
	m.inspect.close()
	m.night.work.Wait()
	close(m.quit)
	<-m.done
}

// View gives what lives now, as far as the engine has told of it.
func (m *Mirror) View() (v *View) {
	m.do(func() { v = m.now.share(m.replica.Version()) })
	if v == nil { // the mirror has ended
		v = &View{Program: m.now.Program, readings: reading.NewReplica(), font: m.now.font}
	}
	return v
}

// Current is View once everything that was handed to the engine before has arrived.
func (m *Mirror) Current() *View {
	m.cfg.Sync()
	return m.View()
}

// do has the mirror's goroutine do something short, after all changes that wait.
func (m *Mirror) do(f func()) {
	done := make(chan struct{})
	select {
	case m.jobs <- func() { defer close(done); f() }:
		<-done
	case <-m.done:
	}
}

func (m *Mirror) run() {
	defer close(m.done)
	tick := time.NewTicker(100 * time.Millisecond)
	defer tick.Stop()
	for goOn := true; goOn; {
		incident.Contain("mirror", "", func() { goOn = m.turn(tick.C) })
	}
}

// turn does one thing; false when the mirror is to end.
func (m *Mirror) turn(tick <-chan time.Time) bool {
	select {
	case <-m.cfg.Changes.Wake:
		if !m.gathering {
			m.gathering = true
			m.gather.Reset(gatherFor)
		}
	case <-m.gather.C:
		m.gathering = false
		m.follow()
	case job := <-m.jobs:
		m.follow()
		job()
	case now := <-tick:
		m.endMoments(now)
		m.keepKnown(now)
		m.recordNumbers(now)
		m.saveLive()
	case <-m.quit:
		m.follow()
		m.keepKnown(time.Now().Add(keepAfter))
		m.saveLive()
		return false
	}
	return true
}

// watchShown finds out which mappings somebody looks at (a controller shows their
// page, or a live client follows it) and shows those that were not shown yet.
func (m *Mirror) watchShown() {
	inForce := m.cfg.Hub.Topics()
	for _, row := range m.now.pages.all {
		inForce["standing:"+row.Profile] = true
		for _, shown := range row.Zones {
			for _, p := range shown {
				inForce["page:"+p] = true
			}
		}
	}
	shown := map[string]*program.Mapping{}
	for topic := range inForce {
		for _, c := range m.now.Program.Under(topic) {
			shown[c.Source.ID] = c
		}
	}
	maps.DeleteFunc(m.faces, func(id string, _ face.Face) bool { return shown[id] == nil })
	clear(m.deps)
	clear(m.runners)
	for id, c := range shown {
		for _, k := range c.Deps {
			m.deps[k] = append(m.deps[k], c)
		}
		for _, r := range c.Responses {
			if mac := m.now.Program.RunsMacro(r); mac != nil {
				m.runners[mac.Source.ID] = append(m.runners[mac.Source.ID], c)
			}
		}
		if _, has := m.faces[id]; !has {
			m.refreshFace(c, nil)
		}
	}
}

// refreshFace works out a face and publishes it if it changed; the entries that
// brought it about learn when it did.
func (m *Mirror) refreshFace(c *program.Mapping, entries []string) {
	id := c.Source.ID
	f := m.now.face(c)
	if t, ok := m.tried[id]; ok {
		if g, ok := m.now.FaceIn(c, t.state); ok {
			f, f.Forced = g, true
		}
	}
	f.Refusal = m.refusals[id].text
	old, had := m.faces[id]
	m.faces[id] = f
	if had && f.Equal(old) {
		return
	}
	m.cfg.Hub.Publish("face/"+id, c.Topics, f)
	now := time.Now()
	for _, entry := range entries {
		m.cfg.Journal.Record(journal.Event{Entry: entry, At: now, Stage: journal.StageFace, Text: f.Label + ": " + f.Words})
	}
}

// endMoments ends what a face shows for a moment only.
func (m *Mirror) endMoments(now time.Time) {
	for id, t := range m.tried {
		if now.After(t.until) {
			delete(m.tried, id)
			m.refreshOf(id)
		}
	}
	m.forgetRuns(now)
	for id, r := range m.refusals {
		if !r.until.IsZero() && now.After(r.until) {
			delete(m.refusals, id)
			m.refreshOf(id)
		}
	}
	for id, mv := range m.now.moved.all {
		if now.Sub(mv.at) > noticedFor {
			m.now.moved.delete(id)
			m.inspect.wake()
		}
	}
}

func (m *Mirror) refreshOf(id string) {
	if c := m.now.Program.Mappings[id]; c != nil {
		m.refreshFace(c, nil)
	}
}

// saveLive hands what lives to be stored where it changed.
func (m *Mirror) saveLive() {
	if !m.unsaved || m.cfg.KeepLive == nil {
		return
	}
	m.unsaved = false
	l := m.live
	l.Zones, l.Profiles, l.Turns = slices.Clone(l.Zones), maps.Clone(l.Profiles), maps.Clone(m.now.turns.all)
	m.cfg.KeepLive(l)
}
