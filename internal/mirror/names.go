package mirror

import (
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/engine"
	"synaptor/internal/program"
)

// keepAfter is how long names have to stay the same before they are stored.
const keepAfter = time.Second

// keptEvents is how many events of a device are shown.
const keptEvents = 20

// EventRow is an event of a device as the live feed shows it.
type EventRow struct {
	At     time.Time         `json:"at"`
	Event  string            `json:"event"`
	Title  string            `json:"title"`
	Fields map[string]string `json:"fields"`
}

func (m *Mirror) addEvents(ev engine.EventsRaised) {
	rows := m.events[ev.Device]
	for _, e := range ev.Events {
		rows = append([]EventRow{{ev.At, e.ID, e.Title, e.Fields}}, rows...)
	}
	rows = rows[:min(len(rows), keptEvents)]
	m.events[ev.Device] = rows
	m.cfg.Hub.Publish("events/"+ev.Device, []string{"events:" + ev.Device}, rows)
}

// noteRename notes the indexes whose names changed.
func (m *Mirror) noteRename(k reading.Key, renamed map[string]map[string]bool) {
	d := m.now.Program.Devices[k.Device]
	if d == nil || d.Type == nil {
		return
	}
	index, ends := d.Type.Names(k.Path), d.Type.Ends(k.Path)
	if index == "" && ends == "" {
		return
	}
	if renamed[k.Device] == nil {
		renamed[k.Device] = map[string]bool{} // what it has is counted again
	}
	if index != "" {
		renamed[k.Device][index] = true
	}
}

// rename follows names that changed: what is known by them is published again,
// and they are stored for the time before the device answers.
func (m *Mirror) rename(renamed map[string]map[string]bool) {
	for id, indexes := range renamed {
		m.unkept[id] = time.Now()
		d := m.now.Program.Devices[id]
		if d == nil || d.Type == nil {
			continue // removed in the same batch
		}
		for _, path := range m.replica.Paths(id) {
			if def := d.Type.Reading(path); def != nil && indexes[def.Of] {
				k := reading.Key{Device: id, Path: path}
				m.publishReading(k, m.replica.Reading(k))
			}
		}
		before := m.summary[id]
		if m.summarise(id); m.summary[id] != before {
			m.publishDevice(id)
		}
	}
}

func (m *Mirror) summarise(id string) {
	if d := m.now.Program.Devices[id]; d != nil && d.Type != nil && id != program.SelfID {
		m.summary[id] = d.Type.Summary(id, &m.now)
	}
}

// keepKnown stores the names of devices that have stayed the same for a while.
func (m *Mirror) keepKnown(now time.Time) {
	for id, at := range m.unkept {
		if now.Sub(at) < keepAfter {
			continue
		}
		delete(m.unkept, id)
		d := m.now.Program.Devices[id]
		if m.cfg.Keep == nil || d == nil || d.Type == nil {
			continue
		}
		known := []device.Report{}
		for _, path := range m.replica.Paths(id) {
			if d.Type.Names(path) != "" {
				known = append(known, device.Report{Path: path, Value: m.replica.Reading(reading.Key{Device: id, Path: path}).Value})
			}
		}
		m.cfg.Keep(id, known)
	}
}
