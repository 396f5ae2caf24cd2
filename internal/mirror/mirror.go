package mirror

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/engine"
	"synaptor/internal/program"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/reading"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// refusalShown is how long a refusal stays on a face after the finger has left.
const refusalShown = 3 * time.Second

// Mirror follows the engine's changes. It keeps its own copy of the readings,
// works out the faces and publishes what live clients see.
type Mirror struct {
	stream  *engine.Changes
	hub     *feed.Hub
	sync    func()
	journal engine.Recorder
	queries chan func(*View)
	quit    chan struct{}
	done    chan struct{}

	program *program.Program
	table   *reading.Table
	links   map[string]link.State
	heard   map[string]time.Time
	latency map[string]map[string]reading.Stats // by device, then action; "" is all
	faces   map[string]Face
	// deps has, by reading, the mappings that somebody looks at; the faces of
	// the others are worked out when somebody does.
	deps     map[reading.Key][]*program.Mapping
	fits     map[fitKey]face.Fitted
	refusals map[string]shownRefusal // by mapping
	tried    map[string]triedState   // by mapping
	font     *face.Font
	status   *statusLine
	wires    map[string]*link.Wire
	recent   map[string][]time.Duration // latency samples by device
	events   map[string][]EventRow      // the last ones of each device, newest first
	summary  map[string]string          // what each device has
	// keep stores what is known of a device, for the time before it answers; the
	// devices in unkept have something new.
	keep   func(device string, known []device.Report)
	pages  map[string]ControllerRow       // by controller
	guards map[string]engine.GuardChanged // by mapping
	live   engine.LiveState
	// unsaved is when the live state changed; zero: it is stored.
	unsaved     time.Time
	keepLive    func(engine.LiveState)
	unkept      map[string]time.Time
	inspector   *inspector
	going, left []engine.KeptRun              // what survives a restart: runs that go on, and what is to be decided
	runs        []engine.RunRow               // those that go on and those of the last minutes, oldest first
	runners     map[string][]*program.Mapping // that run a macro and that somebody looks at, by macro
}

type shownRefusal struct {
	text  string
	held  string
	until time.Time // zero while the finger is on it
}

// Config is what a mirror needs.
type Config struct {
	Changes *engine.Changes
	// Sync waits until the engine has taken in what was handed to it before.
	Sync    func()
	Journal engine.Recorder
	Hub     *feed.Hub
	// Keep stores what is known of a device, for the time before it answers; may be nil.
	Keep func(device string, known []device.Report)
	// Live is what lived when Synaptor ran last; KeepLive stores it.
	Live     engine.LiveState
	KeepLive func(engine.LiveState)
}

// New starts a mirror of an engine that began with a program.
func New(snap *program.Program, cfg Config) *Mirror {
	s, hub, j := cfg.Changes, cfg.Hub, cfg.Journal
	font, err := face.NewFont()
	if err != nil {
		panic(err) // the font is part of the program
	}
	m := &Mirror{stream: s, hub: hub, journal: j, queries: make(chan func(*View)), quit: make(chan struct{}), done: make(chan struct{}),
		deps: map[reading.Key][]*program.Mapping{}, fits: map[fitKey]face.Fitted{},
		program: snap, table: reading.NewTable(), links: map[string]link.State{}, heard: map[string]time.Time{},
		latency: map[string]map[string]reading.Stats{}, faces: map[string]Face{}, refusals: map[string]shownRefusal{}, tried: map[string]triedState{}, font: font,
		status: &statusLine{}, wires: map[string]*link.Wire{}, events: map[string][]EventRow{}, recent: map[string][]time.Duration{}, summary: map[string]string{}, keep: cfg.Keep,
		unkept: map[string]time.Time{}, pages: map[string]ControllerRow{}, guards: map[string]engine.GuardChanged{},
		live: engine.LiveState{Zones: slices.Clone(cfg.Live.Zones), Profiles: map[string]string{}, Turns: maps.Clone(cfg.Live.Turns)}, keepLive: cfg.KeepLive}
	if m.live.Turns == nil {
		m.live.Turns = map[string]string{}
	}
	m.inspector = newInspector()
	m.sync = cfg.Sync
	hub.OnFollow(func() { m.View(func(*View) { m.watchShown() }) })
	go m.run()
	return m
}

// Current is View once every edit that was put in force before has arrived.
func (m *Mirror) Current(f func(*View)) {
	m.sync()
	m.View(f)
}

// View runs a function with what the mirror knows, in the mirror's goroutine.
func (m *Mirror) View(f func(*View)) {
	done := make(chan struct{})
	select {
	case m.queries <- func(v *View) { defer close(done); f(v) }:
		<-done
	case <-m.done:
	}
}

// Close stores what is left and ends the mirror.
func (m *Mirror) Close() {
	close(m.quit)
	<-m.done
}

func (m *Mirror) run() {
	defer close(m.done)
	tick := time.NewTicker(100 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-m.stream.Wake:
			m.apply(m.stream.Take())
		case q := <-m.queries:
			m.apply(m.stream.Take())
			q(&View{m.program, m.table, m})
		case now := <-tick.C:
			m.endMoments(now)
			m.inspect(now)
			m.keepKnown(now)
			m.saveLive()
		case <-m.quit:
			m.keepKnown(time.Now().Add(keepAfter))
			m.saveLive()
			return
		}
	}
}

// apply takes in changes. Faces are worked out once for each batch.
func (m *Mirror) apply(changes []engine.Change) {
	if len(changes) == 0 {
		return
	}
	touched := map[*program.Mapping][]string{} // with the journal entries that caused it
	touch := func(c *program.Mapping, entry string) {
		list := touched[c]
		if entry != "" {
			list = append(list, entry)
		}
		touched[c] = list
	}
	status, turned := false, false
	renamed := map[string]map[string]bool{} // the indexes by device whose names changed
	for _, c := range changes {
		switch ev := c.What.(type) {
		case engine.ReadingChanged:
			m.table.Copy(ev.Key, ev.Now)
			m.publishReading(ev.Key, ev.Now)
			m.noteRename(ev.Key, renamed)
			for _, c := range m.deps[ev.Key] {
				touch(c, ev.Entry)
			}
			status = status || m.status.uses(ev.Key)
		case engine.Swapped:
			m.swap(ev.Program)
			status = true
		case engine.LinkState:
			before, had := m.links[ev.State.Device]
			m.links[ev.State.Device], m.heard[ev.State.Device] = ev.State, ev.Heard
			m.summarise(ev.State.Device)
			m.publishDevice(ev.State.Device)
			if !had || (before.Phase == link.Up) != (ev.State.Phase == link.Up) {
				m.touchDevice(ev.State.Device, touch)
				m.recheckMacros(ev.State.Device)
			}
			status = true
		case engine.LatencyChanged:
			if m.latency[ev.Device] == nil {
				m.latency[ev.Device] = map[string]reading.Stats{}
			}
			m.latency[ev.Device][""], m.latency[ev.Device][ev.Action] = ev.All, ev.One
			m.recent[ev.Device] = ev.Recent
			m.noticeLatency(ev.Device, ev.All)
			m.publishDevice(ev.Device)
		case engine.Refusal:
			r := shownRefusal{text: ev.Reason, held: ev.Held}
			if ev.Held == "" {
				r.until = ev.At.Add(refusalShown)
			}
			m.refusals[ev.Mapping] = r
			touch(m.program.Mappings[ev.Mapping], "")
		case engine.ControlReleased:
			for id, r := range m.refusals {
				if r.held == ev.Control {
					m.refusals[id] = shownRefusal{text: r.text, until: ev.At.Add(refusalShown)}
				}
			}
		case engine.DeviceAdded:
			m.wires[ev.Device] = ev.Wire
		case engine.EventsRaised:
			m.addEvents(ev)
		case engine.PagesChanged:
			m.turnPages(ev)
			turned = true
		case engine.GuardChanged:
			m.guards[ev.Mapping] = ev
			if ev.State == "" {
				delete(m.guards, ev.Mapping)
			}
			touch(m.program.Mappings[ev.Mapping], "")
		case engine.RunChanged:
			m.updateRun(ev.Row)
			for _, c := range m.runners[ev.Row.Macro] {
				touch(c, "")
			}
		case engine.LeftOverChanged:
			m.hub.Publish("left", []string{"runs"}, ev.Rows)
			m.left = ev.Kept
			m.keepRuns()
		case engine.RunKept:
			m.going = slices.DeleteFunc(m.going, func(k engine.KeptRun) bool { return k.Entry == ev.Run.Entry })
			if len(ev.Run.Changed) > 0 {
				m.going = append(m.going, ev.Run)
			}
			m.keepRuns()
		case engine.RecordingChanged:
			m.hub.Publish("recording", []string{"runs"}, ev.Row)
		case engine.BranchTaken:
			m.live.Turns[ev.Step] = ev.Branch
			m.unsaved = time.Now()
		case engine.ReadingGone:
			m.table.Drop(ev.Key)
			m.hub.Remove("reading/" + ev.Key.String())
		case engine.DeviceGone:
			m.forget(ev.Device)
			status = true
		}
	}
	m.rename(renamed)
	if turned {
		m.watchShown()
	}
	for c, entries := range touched {
		if c == nil || m.program.Mappings[c.Source.ID] != c {
			continue // gone, or compiled anew and shown by then
		}
		if _, shown := m.faces[c.Source.ID]; shown {
			m.refreshFace(c, entries)
		}
	}
	if status {
		m.publishStatus()
	}
}

func (m *Mirror) touchDevice(id string, touch func(*program.Mapping, string)) {
	for _, c := range m.program.Mappings {
		for _, r := range c.Responses {
			if mac := m.program.RunsMacro(r); r.Device == id || mac != nil && slices.Contains(mac.Devices, id) {
				touch(c, "")
			}
		}
	}
}

// swap follows a new show: only mappings that were compiled again are shown
// again.
func (m *Mirror) swap(s *program.Program) {
	old := m.program
	m.program = s
	for id, c := range old.Mappings {
		if s.Mappings[id] != c {
			delete(m.faces, id)
		}
		if s.Mappings[id] == nil {
			delete(m.refusals, id)
			m.hub.Remove("face/" + id)
		}
	}
	for id := range m.pages {
		if s.Controllers[id] == nil {
			delete(m.pages, id)
			m.hub.Remove("controller/" + id)
		}
	}
	m.watchShown()
	for id := range s.Devices {
		m.publishDevice(id)
	}
}

// watchShown finds out which mappings somebody looks at (a controller shows their
// page, or a live client follows it) and shows those that were not shown yet.
func (m *Mirror) watchShown() {
	inForce := m.hub.Topics()
	for _, row := range m.pages {
		inForce["standing:"+row.Profile] = true
		for _, shown := range row.Zones {
			for _, p := range shown {
				inForce["page:"+p] = true
			}
		}
	}
	clear(m.deps)
	m.runners = map[string][]*program.Mapping{}
	for id, c := range m.program.Mappings {
		if !slices.ContainsFunc(c.Topics, func(t string) bool { return inForce[t] }) {
			delete(m.faces, id)
			continue
		}
		for _, k := range c.Deps {
			m.deps[k] = append(m.deps[k], c)
		}
		for _, r := range c.Responses {
			if mac := m.program.RunsMacro(r); mac != nil {
				m.runners[mac.Source.ID] = append(m.runners[mac.Source.ID], c)
			}
		}
		if _, shown := m.faces[id]; !shown {
			m.refreshFace(c, nil)
		}
	}
}

// keepRuns has what runs have changed survive a restart.
func (m *Mirror) keepRuns() {
	m.live.Runs = slices.Clone(m.left)
	for _, k := range m.going {
		if !slices.ContainsFunc(m.left, func(o engine.KeptRun) bool { return o.Entry == k.Entry }) {
			m.live.Runs = append(m.live.Runs, k)
		}
	}
	m.unsaved = time.Now()
}

func (m *Mirror) forget(id string) {
	for _, path := range m.table.Paths(id) {
		m.hub.Remove("reading/" + id + ":" + path)
	}
	m.table.Forget(id)
	delete(m.links, id)
	delete(m.heard, id)
	delete(m.latency, id)
	delete(m.wires, id)
	delete(m.events, id)
	delete(m.recent, id)
	delete(m.summary, id)
	delete(m.unkept, id)
	m.hub.Remove("events/" + id)
	m.hub.Remove("device/" + id)
}

// refreshFace works out a face and publishes it if it changed; the entries that
// brought it about learn when it did.
func (m *Mirror) refreshFace(c *program.Mapping, entries []string) {
	id := c.Source.ID
	f := m.face(c, m.table)
	if tried, ok := m.tried[id]; ok {
		if g, ok := m.faceIn(c, tried.state); ok {
			f, f.Forced = g, true
		}
	}
	f.Refusal = m.refusals[id].text
	old, had := m.faces[id]
	m.faces[id] = f
	if had && f.same(old) {
		return
	}
	m.hub.Publish("face/"+id, c.Topics, f)
	now := time.Now()
	for _, entry := range entries {
		m.journal.Record(journal.Event{Entry: entry, At: now, Stage: journal.StageFace, Text: f.Label + ": " + f.Words})
	}
}

// endMoments ends what a face shows for a moment only.
func (m *Mirror) endMoments(now time.Time) {
	for id, t := range m.tried {
		if now.After(t.until) {
			delete(m.tried, id)
			if c := m.program.Mappings[id]; c != nil {
				m.refreshFace(c, nil)
			}
		}
	}
	m.forgetRuns(now)
	for id, r := range m.refusals {
		if !r.until.IsZero() && now.After(r.until) {
			delete(m.refusals, id)
			if c := m.program.Mappings[id]; c != nil {
				m.refreshFace(c, nil)
			}
		}
	}
}
