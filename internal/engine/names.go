package engine

import (
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
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

func (m *mirror) raise(ev raisedEvents) {
	rows := m.events[ev.device]
	for _, e := range ev.events {
		rows = append([]EventRow{{ev.at, e.ID, e.Title, e.Fields}}, rows...)
	}
	rows = rows[:min(len(rows), keptEvents)]
	m.events[ev.device] = rows
	m.hub.Publish("events/"+ev.device, []string{"events:" + ev.device}, rows)
}

// named notes the indexes whose names changed.
func (m *mirror) named(k reading.Key, renamed map[string]map[string]bool) {
	d := m.snap.Devices[k.Device]
	if d == nil || d.Type == nil {
		return
	}
	index := d.Type.Names(k.Path)
	if index == "" {
		return
	}
	if renamed[k.Device] == nil {
		renamed[k.Device] = map[string]bool{}
	}
	renamed[k.Device][index] = true
}

// rename follows names that changed: what is known by them is published again,
// and they are stored for the time before the device answers.
func (m *mirror) rename(renamed map[string]map[string]bool) {
	for id, indexes := range renamed {
		m.unkept[id] = time.Now()
		d := m.snap.Devices[id]
		if d == nil || d.Type == nil {
			continue // removed in the same batch
		}
		for _, path := range m.table.Paths(id) {
			if def := d.Type.Reading(path); def != nil && indexes[def.Of] {
				k := reading.Key{Device: id, Path: path}
				m.publishReading(k, m.table.Get(k))
			}
		}
		before := m.summary[id]
		if m.summarise(id); m.summary[id] != before {
			m.publishDevice(id)
		}
	}
}

func (m *mirror) summarise(id string) {
	if d := m.snap.Devices[id]; d != nil && d.Type != nil {
		m.summary[id] = d.Type.Summary(id, world{m.table})
	}
}

// keepKnown stores the names of devices that have stayed the same for a while.
func (m *mirror) keepKnown(now time.Time) {
	for id, at := range m.unkept {
		if now.Sub(at) < keepAfter {
			continue
		}
		delete(m.unkept, id)
		d := m.snap.Devices[id]
		if m.keep == nil || d == nil || d.Type == nil {
			continue
		}
		known := []device.Report{}
		for _, path := range m.table.Paths(id) {
			if d.Type.Names(path) != "" {
				known = append(known, device.Report{Path: path, Value: m.table.Get(reading.Key{Device: id, Path: path}).Value})
			}
		}
		m.keep(id, known)
	}
}
