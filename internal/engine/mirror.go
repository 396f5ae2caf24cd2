package engine

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/reading"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// refusalShown is how long a refusal stays on a face after the finger has left.
const refusalShown = 3 * time.Second

// mirror follows the engine's changes. It keeps its own copy of the readings,
// works out the faces and publishes what live clients see.
type mirror struct {
	stream  *stream
	hub     *feed.Hub
	journal Recorder
	queries chan func(*View)
	quit    chan struct{}
	done    chan struct{}

	snap    *Snapshot
	table   *reading.Table
	links   map[string]link.State
	heard   map[string]time.Time
	latency map[string]map[string]reading.Stats // by device, then action; "" is all
	faces   map[string]Face
	// deps has, by reading, the mappings that somebody looks at; the faces of
	// the others are worked out when somebody does.
	deps     map[reading.Key][]*Mapping
	fits     map[fitKey]face.Fitted
	refusals map[string]refusal // by mapping
	tried    map[string]forced  // by mapping
	font     *face.Font
	status   *statusLine
	wires    map[string]*link.Wire
	recent   map[string][]time.Duration // latency samples by device
	events   map[string][]EventRow      // the last ones of each device, newest first
	summary  map[string]string          // what each device has
	// keep stores what is known of a device, for the time before it answers; the
	// devices in unkept have something new.
	keep   func(device string, known []device.Report)
	pages  map[string]ControllerRow // by controller
	guards map[string]guardChanged  // by mapping
	live   LiveState
	// unsaved is when the live state changed; zero: it is stored.
	unsaved     time.Time
	keepLive    func(LiveState)
	unkept      map[string]time.Time
	drivers     Drivers
	inspector   *inspector
	going, left []KeptRun             // what survives a restart: runs that go on, and what is to be decided
	runs        []RunRow              // those that go on and those of the last minutes, oldest first
	runners     map[string][]*Mapping // that run a macro and that somebody looks at, by macro
}

type refusal struct {
	text  string
	held  string
	until time.Time // zero while the finger is on it
}

func newMirror(snap *Snapshot, s *stream, cfg Config) *mirror {
	hub, j := cfg.Hub, cfg.Journal
	font, err := face.NewFont()
	if err != nil {
		panic(err) // the font is part of the program
	}
	m := &mirror{stream: s, hub: hub, journal: j, queries: make(chan func(*View)), quit: make(chan struct{}), done: make(chan struct{}),
		deps: map[reading.Key][]*Mapping{}, fits: map[fitKey]face.Fitted{},
		snap: snap, table: reading.NewTable(), links: map[string]link.State{}, heard: map[string]time.Time{},
		latency: map[string]map[string]reading.Stats{}, faces: map[string]Face{}, refusals: map[string]refusal{}, tried: map[string]forced{}, font: font,
		status: &statusLine{}, wires: map[string]*link.Wire{}, events: map[string][]EventRow{}, recent: map[string][]time.Duration{}, summary: map[string]string{}, keep: cfg.Keep,
		unkept: map[string]time.Time{}, pages: map[string]ControllerRow{}, guards: map[string]guardChanged{},
		live: LiveState{Zones: slices.Clone(cfg.Live.Zones), Profiles: map[string]string{}, Turns: maps.Clone(cfg.Live.Turns)}, keepLive: cfg.KeepLive}
	if m.live.Turns == nil {
		m.live.Turns = map[string]string{}
	}
	m.drivers, m.inspector = cfg.Drivers, newInspector()
	hub.OnFollow(func() { m.view(func(*View) { m.look() }) })
	return m
}

// View is what the mirror knows, for the time of one call.
type View struct {
	Snap  *Snapshot
	Table *reading.Table
	m     *mirror
}

// Reading implements expr.World.
func (v *View) Reading(k reading.Key) reading.Reading { return v.Table.Get(k) }

// Paths implements device.Known.
func (v *View) Paths(device string) []string { return v.Table.Paths(device) }

// Link returns the state of a device's link.
func (v *View) Link(device string) link.State { return v.m.links[device] }

// Latency returns the statistics of a device's action; "" is all of them.
func (v *View) Latency(device, action string) reading.Stats { return v.m.latency[device][action] }

// Pages returns which pages a controller shows.
func (v *View) Pages(controller string) ControllerRow { return v.m.pages[controller] }

// Wire returns what went over a device's link, or nil.
func (v *View) Wire(device string) *link.Wire { return v.m.wires[device] }

func (m *mirror) view(f func(*View)) {
	done := make(chan struct{})
	select {
	case m.queries <- func(v *View) { defer close(done); f(v) }:
		<-done
	case <-m.done:
	}
}

func (m *mirror) close() {
	close(m.quit)
	<-m.done
}

func (m *mirror) run() {
	defer close(m.done)
	tick := time.NewTicker(100 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-m.stream.wake:
			m.follow(m.stream.take())
		case q := <-m.queries:
			m.follow(m.stream.take())
			q(&View{m.snap, m.table, m})
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

// follow takes in changes. Faces are worked out once for each batch.
func (m *mirror) follow(changes []change) {
	if len(changes) == 0 {
		return
	}
	touched := map[*Mapping][]string{} // with the journal entries that caused it
	touch := func(c *Mapping, entry string) {
		list := touched[c]
		if entry != "" {
			list = append(list, entry)
		}
		touched[c] = list
	}
	status, turned := false, false
	renamed := map[string]map[string]bool{} // the indexes by device whose names changed
	for _, c := range changes {
		switch ev := c.what.(type) {
		case readingChanged:
			m.table.Copy(ev.key, ev.now)
			m.publishReading(ev.key, ev.now)
			m.named(ev.key, renamed)
			for _, c := range m.deps[ev.key] {
				touch(c, ev.entry)
			}
			status = status || m.status.uses(ev.key)
		case swapped:
			m.swap(ev.snap)
			status = true
		case linkState:
			before, had := m.links[ev.state.Device]
			m.links[ev.state.Device], m.heard[ev.state.Device] = ev.state, ev.heard
			m.summarise(ev.state.Device)
			m.publishDevice(ev.state.Device)
			if !had || (before.Phase == link.Up) != (ev.state.Phase == link.Up) {
				m.touchDevice(ev.state.Device, touch)
				m.stale(ev.state.Device)
			}
			status = true
		case latencyChanged:
			if m.latency[ev.device] == nil {
				m.latency[ev.device] = map[string]reading.Stats{}
			}
			m.latency[ev.device][""], m.latency[ev.device][ev.action] = ev.all, ev.one
			m.recent[ev.device] = ev.recent
			m.notice(ev.device, ev.all)
			m.publishDevice(ev.device)
		case refusedPress:
			r := refusal{text: ev.reason, held: ev.held}
			if ev.held == "" {
				r.until = ev.at.Add(refusalShown)
			}
			m.refusals[ev.mapping] = r
			touch(m.snap.Mappings[ev.mapping], "")
		case letGo:
			for id, r := range m.refusals {
				if r.held == ev.held {
					m.refusals[id] = refusal{text: r.text, until: ev.at.Add(refusalShown)}
				}
			}
		case deviceMet:
			m.wires[ev.id] = ev.wire
		case raisedEvents:
			m.raise(ev)
		case pagesChanged:
			m.turnPages(ev)
			turned = true
		case guardChanged:
			m.guards[ev.mapping] = ev
			if ev.state == "" {
				delete(m.guards, ev.mapping)
			}
			touch(m.snap.Mappings[ev.mapping], "")
		case runChanged:
			m.took(ev.row)
			for _, c := range m.runners[ev.row.Macro] {
				touch(c, "")
			}
		case leftChanged:
			m.hub.Publish("left", []string{"runs"}, ev.rows)
			m.left = ev.kept
			m.keepRuns()
		case runKept:
			m.going = slices.DeleteFunc(m.going, func(k KeptRun) bool { return k.Entry == ev.run.Entry })
			if len(ev.run.Changed) > 0 {
				m.going = append(m.going, ev.run)
			}
			m.keepRuns()
		case recordingChanged:
			m.hub.Publish("recording", []string{"runs"}, ev.row)
		case turnTaken:
			m.live.Turns[ev.step] = ev.branch
			m.unsaved = time.Now()
		case readingGone:
			m.table.Drop(ev.key)
			m.hub.Remove("reading/" + ev.key.String())
		case deviceGone:
			m.forget(ev.id)
			status = true
		}
	}
	m.rename(renamed)
	if turned {
		m.look()
	}
	for c, entries := range touched {
		if c == nil || m.snap.Mappings[c.Source.ID] != c {
			continue // gone, or compiled anew and shown by then
		}
		if _, shown := m.faces[c.Source.ID]; shown {
			m.show(c, entries)
		}
	}
	if status {
		m.publishStatus()
	}
}

func (m *mirror) touchDevice(id string, touch func(*Mapping, string)) {
	for _, c := range m.snap.Mappings {
		for _, r := range c.Responses {
			if mac := m.snap.RunsMacro(r); r.Device == id || mac != nil && slices.Contains(mac.Devices, id) {
				touch(c, "")
			}
		}
	}
}

// swap follows a new show: only mappings that were compiled again are shown
// again.
func (m *mirror) swap(s *Snapshot) {
	old := m.snap
	m.snap = s
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
	m.look()
	for id := range s.Devices {
		m.publishDevice(id)
	}
}

// look finds out which mappings somebody looks at (a controller shows their
// page, or a live client follows it) and shows those that were not shown yet.
func (m *mirror) look() {
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
	m.runners = map[string][]*Mapping{}
	for id, c := range m.snap.Mappings {
		if !slices.ContainsFunc(c.topics, func(t string) bool { return inForce[t] }) {
			delete(m.faces, id)
			continue
		}
		for _, k := range c.deps {
			m.deps[k] = append(m.deps[k], c)
		}
		for _, r := range c.Responses {
			if mac := m.snap.RunsMacro(r); mac != nil {
				m.runners[mac.Source.ID] = append(m.runners[mac.Source.ID], c)
			}
		}
		if _, shown := m.faces[id]; !shown {
			m.show(c, nil)
		}
	}
}

// keepRuns has what runs have changed survive a restart.
func (m *mirror) keepRuns() {
	m.live.Runs = slices.Clone(m.left)
	for _, k := range m.going {
		if !slices.ContainsFunc(m.left, func(o KeptRun) bool { return o.Entry == k.Entry }) {
			m.live.Runs = append(m.live.Runs, k)
		}
	}
	m.unsaved = time.Now()
}

func (m *mirror) forget(id string) {
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

// show works out a face and publishes it if it changed; the entries that
// brought it about learn when it did.
func (m *mirror) show(c *Mapping, entries []string) {
	id := c.Source.ID
	f := m.face(c, world{m.table})
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
	m.hub.Publish("face/"+id, c.topics, f)
	now := time.Now()
	for _, entry := range entries {
		m.journal.Record(journal.Event{Entry: entry, At: now, Stage: journal.StageFace, Text: f.Label + ": " + f.Words})
	}
}

// endMoments ends what a face shows for a moment only.
func (m *mirror) endMoments(now time.Time) {
	for id, t := range m.tried {
		if now.After(t.until) {
			delete(m.tried, id)
			if c := m.snap.Mappings[id]; c != nil {
				m.show(c, nil)
			}
		}
	}
	m.forgetRuns(now)
	for id, r := range m.refusals {
		if !r.until.IsZero() && now.After(r.until) {
			delete(m.refusals, id)
			if c := m.snap.Mappings[id]; c != nil {
				m.show(c, nil)
			}
		}
	}
}
