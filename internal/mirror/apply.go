package mirror

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/engine"
	"synaptor/internal/incident"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// batch is what a number of changes have in common: what is worked out once for all of
// them.
type batch struct {
	status, turned, overlay bool
	renamed                 map[string]map[string]bool // the indexes by device whose names changed
}

// follow takes in the changes that wait. Faces are worked out once for all of them. One
// that fails is left out, and noted.
func (m *Mirror) follow() {
	changes := m.cfg.Changes.Take()
	if len(changes) == 0 {
		return
	}
	b := &batch{renamed: map[string]map[string]bool{}}
	for rest := changes; len(rest) > 0; {
		incident.Contain("mirror", "a change", func() {
			for len(rest) > 0 {
				next := rest[0].What
				rest = rest[1:]
				m.apply(next, b)
			}
		})
	}
	m.rename(b.renamed)
	if b.turned {
		m.watchShown()
	}
	m.showTouched()
	if b.status {
		m.publishStatus()
	}
	if b.overlay {
		m.publishOverlays()
	}
}

// showTouched works out the faces that changes have touched.
func (m *Mirror) showTouched() {
	for len(m.touched) > 0 {
		incident.Contain("mirror", "a face", func() {
			for c, entries := range m.touched {
				delete(m.touched, c)
				if m.now.Program.Mappings[c.Source.ID] != c {
					continue // gone, or compiled anew and shown by then
				}
				if _, shown := m.faces[c.Source.ID]; shown {
					m.refreshFace(c, entries)
				}
			}
		})
	}
}

// touch has the face of a mapping, which may be nil, worked out again; entry is the
// journal entry that caused it, or "".
func (m *Mirror) touch(c *program.Mapping, entry string) {
	if c == nil {
		return
	}
	list := m.touched[c]
	if entry != "" {
		list = append(list, entry)
	}
	m.touched[c] = list
}

func (m *Mirror) touchID(mapping string) { m.touch(m.now.Program.Mappings[mapping], "") }

func (m *Mirror) apply(change any, b *batch) {
	switch ev := change.(type) {
	case engine.ReadingChanged:
		if ev.Now.By = ev.By; ev.By == "" {
			if was := m.replica.Reading(ev.Key); was.Since.Equal(ev.Now.Since) {
				ev.Now.By = was.By // the value is as it was
			}
		}
		m.recordReading(ev)
		m.replica.Set(ev.Key, ev.Now)
		m.publishReading(ev.Key, ev.Now)
		m.noteRename(ev.Key, b.renamed)
		for _, c := range m.deps[ev.Key] {
			m.touch(c, ev.Entry)
		}
		b.status = b.status || m.status.uses(ev.Key)
		b.overlay = b.overlay || m.overlay.uses(ev.Key)
	case engine.ReadingGone:
		m.replica.Drop(ev.Key)
		m.cfg.Hub.Remove("reading/" + ev.Key.String())
	case engine.Swapped:
		m.use(ev.Program)
		b.status, b.overlay = true, true
	case engine.DeviceAdded:
		m.now.wires.set(ev.Device, ev.Wire)
	case engine.DeviceGone:
		m.forget(ev.Device)
		b.status = true
	case engine.LinkState:
		m.linkChanged(ev)
		b.status = true
	case engine.AwayChanged:
		if m.notSent == nil {
			m.notSent = map[string]int{}
		}
		m.notSent[ev.Device] = ev.NotSent
		b.status = true
	case engine.LatencyChanged:
		m.latencyChanged(ev)
	case engine.EventsRaised:
		m.addEvents(ev)
	case engine.PagesChanged:
		m.turnPages(ev)
		b.turned = true
	case engine.ReflexChanged:
		m.cfg.Hub.Publish("reflex/"+ev.ID, []string{"reflexes"}, ev)
	case engine.ReflexGone:
		m.cfg.Hub.Remove("reflex/" + ev.ID)
	case engine.Warned:
		m.cfg.Hub.Publish("warning", []string{"status"}, ev)
	case engine.Happened:
		m.happened(ev)
	case engine.Judged:
		m.judged(ev)
	case engine.SwitchesChanged:
		m.live.Switches, m.unsaved = ev.Now, true
	case engine.TimersChanged:
		m.live.Timers, m.unsaved = ev.All, true
	case engine.OverlaysChanged:
		m.live.Overlays, m.unsaved = ev.All, true
	case engine.HoldsChanged:
		m.live.Holds, m.unsaved = ev.All, true
	case engine.Seen:
		m.live.Seen, m.unsaved = ev.At, true
	case engine.RecordingChanged:
		m.cfg.Hub.Publish("recording", []string{"runs"}, ev.Row)
	case engine.RollCallChanged, engine.TouchCounted:
		m.rollCall(ev)
	default:
		m.applyTouch(change)
		m.applyRun(change)
	}
}

// applyTouch takes in what hands and guards do to faces.
func (m *Mirror) applyTouch(change any) {
	switch ev := change.(type) {
	case engine.Refusal:
		r := refusal{text: ev.Reason, held: ev.Held}
		if ev.Held == "" {
			r.until = ev.At.Add(refusalShown)
		}
		m.refusals[ev.Mapping] = r
		m.touchID(ev.Mapping)
	case engine.ControlReleased:
		for id, r := range m.refusals {
			if r.held == ev.Control {
				m.refusals[id] = refusal{text: r.text, until: ev.At.Add(refusalShown)}
			}
		}
	case engine.GuardChanged:
		m.now.guards.set(ev.Mapping, ev)
		if ev.State == "" {
			m.now.guards.delete(ev.Mapping)
		}
		m.touchID(ev.Mapping)
	}
}

// applyRun takes in what runs do.
func (m *Mirror) applyRun(change any) {
	switch ev := change.(type) {
	case engine.RunChanged:
		m.updateRun(ev.Row)
	case engine.ReturnedChanged:
		m.cfg.Hub.Publish("returned", []string{"runs"}, ev.List)
	case engine.LeftOverChanged:
		m.cfg.Hub.Publish("left", []string{"runs"}, ev.Rows)
		m.left = ev.Kept
		m.keepRuns()
	case engine.RunKept:
		m.going = slices.DeleteFunc(m.going, func(k engine.KeptRun) bool { return k.Entry == ev.Run.Entry })
		if len(ev.Run.Changed) > 0 {
			m.going = append(m.going, ev.Run)
		}
		m.keepRuns()
	case engine.BranchTaken:
		m.now.turns.set(ev.Step, ev.Branch)
		m.unsaved = true
	}
}

func (m *Mirror) linkChanged(ev engine.LinkState) {
	id := ev.State.Device
	before, had := m.now.links.all[id]
	m.now.links.set(id, ev.State)
	m.heard[id] = ev.Heard
	m.summarise(id)
	m.publishDevice(id)
	if had && (before.Phase == link.Up) == (ev.State.Phase == link.Up) {
		return
	}
	for _, c := range m.now.Program.Mappings {
		for _, r := range c.Responses {
			if mac := m.now.Program.RunsMacro(r); r.Device == id || mac != nil && slices.Contains(mac.Devices, id) {
				m.touch(c, "")
			}
		}
	}
	m.inspect.wake()
}

func (m *Mirror) latencyChanged(ev engine.LatencyChanged) {
	m.now.latency.set(latencyKey{ev.Device, ""}, ev.All)
	m.now.latency.set(latencyKey{ev.Device, ev.Action}, ev.One)
	m.recent[ev.Device] = ev.Recent
	m.noticeLatency(ev.Device, ev.All)
	m.publishDevice(ev.Device)
}

// use follows a new program: only mappings that were compiled again are shown again.
func (m *Mirror) use(p *program.Program) {
	old := m.now.Program
	m.now.Program = p
	for _, id := range p.Changed(old) {
		delete(m.faces, id)
		if p.Mappings[id] == nil {
			delete(m.refusals, id)
			m.cfg.Hub.Remove("face/" + id)
		}
	}
	for id := range m.now.pages.all {
		if p.Controllers[id] == nil {
			m.now.pages.delete(id)
			m.cfg.Hub.Remove("controller/" + id)
		}
	}
	m.tidy(p)
	m.watched = p.Recorded()
	m.watchShown()
	for id := range p.Devices {
		m.publishDevice(id)
	}
	m.inspect.wake()
}

// tidy lets go of what is kept of things that a new program has no more.
func (m *Mirror) tidy(p *program.Program) {
	maps.DeleteFunc(m.tried, func(id string, _ tried) bool { return p.Mappings[id] == nil })
	for step := range m.now.turns.all {
		if !p.HasStep(step) {
			m.now.turns.delete(step)
			m.unsaved = true
		}
	}
	had := len(m.live.Zones)
	m.live.Zones = slices.DeleteFunc(m.live.Zones, func(z engine.KeptZone) bool {
		return !p.HasZones(z.Controller, z.Profile)
	})
	m.unsaved = m.unsaved || len(m.live.Zones) < had
}

// forget takes away what is known of a device.
func (m *Mirror) forget(id string) {
	for _, path := range m.replica.Paths(id) {
		m.cfg.Hub.Remove("reading/" + id + ":" + path)
	}
	m.replica.Forget(id)
	m.now.links.delete(id)
	for k := range m.now.latency.all {
		if k.device == id {
			m.now.latency.delete(k)
		}
	}
	m.now.wires.delete(id)
	m.now.moved.delete(id)
	delete(m.heard, id)
	delete(m.events, id)
	delete(m.recent, id)
	delete(m.usual, id)
	delete(m.summary, id)
	delete(m.unkept, id)
	m.cfg.Hub.Remove("events/" + id)
	m.cfg.Hub.Remove("device/" + id)
}

// tried is a state that somebody tries out on a face.
type tried struct {
	state string
	until time.Time
}

// Force has a face show one of its states until a time, whatever its device says:
// on every drawing and panel, marked as tried out. An empty state ends it. ok is
// false when there is no such mapping or state.
func (m *Mirror) Force(mapping, state string, until time.Time) (ok bool) {
	m.do(func() {
		c := m.now.Program.Mappings[mapping]
		if c == nil {
			return
		}
		if _, has := c.LampsIn(state); !has && state != "" {
			return
		}
		delete(m.tried, mapping)
		if state != "" {
			m.tried[mapping] = tried{state, until}
		}
		m.refreshFace(c, nil)
		ok = true
	})
	return ok
}
