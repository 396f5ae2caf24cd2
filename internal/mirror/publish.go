package mirror

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
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
	// By is who changed it last; empty: it was changed at the device, or nobody knows.
	By string `json:"by,omitempty"`
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
	Summary string     `json:"summary,omitempty"` // what it has: 9 scenes, 4 sound inputs
	Version string     `json:"version,omitempty"`
	// RecentUs are the last latencies in microseconds, oldest first.
	RecentUs []int64    `json:"recentUs"`
	Latency  LatencyRow `json:"latency"`
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

func (v *View) row(k reading.Key, r reading.Reading) ReadingRow {
	row := ReadingRow{Device: k.Device, Path: k.Path, Value: r.Value, Quality: r.Quality, Since: r.Since, Source: r.Source, By: r.By}
	d := v.Program.Devices[k.Device]
	if d == nil {
		return row
	}
	row.Device = d.Slug
	if d.Type == nil {
		return row
	}
	def := d.Type.Reading(k.Path)
	row.Value = def.Outside(r.Value)
	row.Word = d.Type.Word(k, r.Value, v)
	row.Title = d.Type.TitleOf(k.Device, k.Path, v)
	if r.Quality == reading.Pending {
		row.Expected = def.Outside(r.Expected)
	}
	return row
}

func (m *Mirror) publishReading(k reading.Key, r reading.Reading) {
	m.cfg.Hub.Publish("reading/"+k.String(), []string{"readings", "readings:" + k.Device}, m.now.row(k, r))
}

func (m *Mirror) publishDevice(id string) {
	if m.now.Program.Devices[id] == nil || id == program.SelfID {
		return
	}
	st := m.now.links.get(id)
	version := ""
	if t := m.now.Program.Devices[id].Type; t != nil {
		version = t.Version(st.Found)
	}
	recent := make([]int64, len(m.recent[id]))
	for i, d := range m.recent[id] {
		recent[i] = d.Microseconds()
	}
	m.cfg.Hub.Publish("device/"+id, []string{"devices"}, DeviceRow{RecentUs: recent, Summary: m.summary[id], Version: version, ID: id, Phase: phaseOr(st.Phase), Since: st.Since, Problem: st.Problem,
		Bad: st.Bad, Heard: m.heard[id], Found: st.Found, Latency: NewLatencyRow(m.now.Latency(id, ""))})
}

func phaseOr(p link.Phase) link.Phase {
	if p == "" {
		return link.Connecting
	}
	return p
}
