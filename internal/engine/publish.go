package engine

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/link"
)

// ReadingRow is a reading as the API and the live feed show it.
type ReadingRow struct {
	Device   string          `json:"device"` // slug
	Path     string          `json:"path"`
	Value    any             `json:"value"`
	Expected any             `json:"expected,omitempty"`
	Word     string          `json:"word"` // the value as a person knows it
	Title    string          `json:"title"`
	Quality  reading.Quality `json:"quality"`
	Since    time.Time       `json:"since"`
	Source   string          `json:"source,omitempty"`
}

// DeviceRow is the live state of a device.
type DeviceRow struct {
	ID      string     `json:"id"`
	Phase   link.Phase `json:"phase"`
	Since   time.Time  `json:"since"`
	Problem string     `json:"problem,omitempty"`
	Bad     int        `json:"bad"`
	Heard   time.Time  `json:"heard"`
	Found   string     `json:"found,omitempty"`
	Latency LatencyRow `json:"latency"`
}

// LatencyRow are latency statistics in microseconds.
type LatencyRow struct {
	Count    int   `json:"count"`
	MedianUs int64 `json:"medianUs"`
	P95Us    int64 `json:"p95Us"`
	P99Us    int64 `json:"p99Us"`
	LastUs   int64 `json:"lastUs"`
}

// NewLatencyRow turns statistics into a row.
func NewLatencyRow(s reading.Stats) LatencyRow {
	return LatencyRow{s.Count, s.Median.Microseconds(), s.P95.Microseconds(), s.P99.Microseconds(), s.Last.Microseconds()}
}

// Row gives a reading as the API shows it.
func (v *View) Row(k reading.Key) ReadingRow { return v.m.row(k, v.Table.Get(k)) }

func (m *mirror) row(k reading.Key, r reading.Reading) ReadingRow {
	row := ReadingRow{Device: k.Device, Path: k.Path, Value: r.Value, Quality: r.Quality, Since: r.Since, Source: r.Source}
	d := m.snap.Devices[k.Device]
	if d == nil {
		return row
	}
	row.Device = d.Slug
	if d.Type == nil {
		return row
	}
	def := d.Type.Reading(k.Path)
	row.Value = def.Outside(r.Value)
	row.Word = d.Type.Word(k, r.Value, world{m.table})
	row.Title = d.Type.TitleOf(k.Path)
	if r.Quality == reading.Pending {
		row.Expected = def.Outside(r.Expected)
	}
	return row
}

func (m *mirror) publishReading(k reading.Key, r reading.Reading) {
	m.hub.Publish("reading/"+k.String(), []string{"readings", "readings:" + k.Device}, m.row(k, r))
}

// publishNamed publishes again the readings of a device whose value is known by
// a name that has just changed.
func (m *mirror) publishNamed(k reading.Key) {
	d := m.snap.Devices[k.Device]
	if d == nil || d.Type == nil {
		return
	}
	index := d.Type.Names(k.Path)
	if index == "" {
		return
	}
	for _, path := range m.table.Paths(k.Device) {
		if def := d.Type.Reading(path); def != nil && def.Of == index {
			other := reading.Key{Device: k.Device, Path: path}
			m.publishReading(other, m.table.Get(other))
		}
	}
}

func (m *mirror) publishDevice(id string) {
	if m.snap.Devices[id] == nil {
		return
	}
	st := m.links[id]
	m.hub.Publish("device/"+id, []string{"devices"}, DeviceRow{ID: id, Phase: phaseOr(st.Phase), Since: st.Since, Problem: st.Problem,
		Bad: st.Bad, Heard: m.heard[id], Found: st.Found, Latency: NewLatencyRow(m.latency[id][""])})
}

func phaseOr(p link.Phase) link.Phase {
	if p == "" {
		return link.Connecting
	}
	return p
}

// StatusItem is one headline reading, or a link that is down.
type StatusItem struct {
	Device  string          `json:"device"` // name
	Kind    string          `json:"kind"`   // a reading's role, or link
	Title   string          `json:"title"`
	Text    string          `json:"text"`
	Quality reading.Quality `json:"quality"`
	Since   time.Time       `json:"since"`
}

// statusLine remembers which readings the status line shows.
type statusLine struct{ keys map[reading.Key]bool }

func (s *statusLine) uses(k reading.Key) bool { return s.keys[k] }

// noting is a world that notes which readings are asked for.
type noting struct {
	world
	keys map[reading.Key]bool
}

// Reading implements expr.World.
func (n noting) Reading(k reading.Key) reading.Reading {
	n.keys[k] = true
	return n.world.Reading(k)
}

func (m *mirror) publishStatus() {
	w := noting{world{m.table}, map[reading.Key]bool{}}
	items := []StatusItem{}
	for _, d := range m.snap.Show.Devices() {
		c := m.snap.Devices[d.ID]
		if st := m.links[d.ID]; st.Phase == link.Down {
			items = append(items, StatusItem{Device: d.Name, Kind: "link", Title: d.Name, Text: st.Problem, Quality: reading.Unknown, Since: st.Since})
		}
		if c.Type == nil {
			continue
		}
		for _, path := range m.table.Paths(d.ID) {
			def := c.Type.Reading(path)
			if def == nil || !def.Headline {
				continue
			}
			k := reading.Key{Device: d.ID, Path: path}
			r := w.Reading(k)
			items = append(items, StatusItem{Device: d.Name, Kind: def.Role, Title: c.Type.TitleOf(path), Text: c.Type.Word(k, r.Value, w),
				Quality: r.Quality, Since: r.Since})
		}
	}
	m.status.keys = w.keys
	m.hub.Publish("status", []string{"status"}, items)
}
