package mirror

import (
	"fmt"
	"math"
	"slices"
	"time"

	"synaptor/internal/plan"
	"synaptor/internal/program"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
)

// inspectFor is how long the findings of macros are worked out at a time; the rest waits
// for the next moment, so that no face does.
const inspectFor = 2 * time.Millisecond

// inspector keeps the findings of macros up to date, each worked out again when the
// macro, or what it rests on, has changed.
type inspector struct {
	found map[string]inspected // by macro
	lag   map[string]time.Duration
	moved map[string]moved // what has become of the latency of a device
}

// moved is a latency that has changed, in words.
type moved struct {
	text string
	at   time.Time
}

type inspected struct {
	macro *program.Macro
	list  []macro.Finding
	stale bool
}

// FindingsRow counts what is found, as the top bar shows it.
type FindingsRow struct {
	Total  int            `json:"total"`
	Stops  int            `json:"stops"`
	Macros map[string]int `json:"macros"` // by macro, where there are any
}

func newInspector() *inspector {
	return &inspector{found: map[string]inspected{}, lag: map[string]time.Duration{}, moved: map[string]moved{}}
}

// facts are what macros rest on, as the mirror knows it.
func (m *Mirror) facts(mac *program.Macro) plan.Facts {
	return plan.Facts{Known: m.table, Program: m.program, Macro: mac, Taken: func(step string) string { return m.live.Turns[step] },
		Stats: func(device, action string) reading.Stats { return m.latency[device][action] }, Timings: map[string]plan.TimingOf{}}
}

// inspect works out findings that are not up to date, for a while.
func (m *Mirror) inspect(now time.Time) {
	in, changed := m.inspector, false
	for id, mv := range in.moved {
		if now.Sub(mv.at) > noticedFor {
			delete(in.moved, id)
			m.recheckMacros(id)
		}
	}
	for id := range in.found {
		if m.program.Macros[id] == nil {
			delete(in.found, id)
			changed = true
		}
	}
	for id, mac := range m.program.Macros {
		if had, ok := in.found[id]; ok && had.macro == mac && !had.stale {
			continue
		}
		in.found[id] = inspected{macro: mac, list: m.findings(mac)}
		changed = true
		if time.Since(now) > inspectFor {
			break
		}
	}
	if !changed {
		return
	}
	row := FindingsRow{Macros: map[string]int{}}
	for id, f := range in.found {
		for _, one := range f.list {
			row.Total++
			row.Macros[id]++
			if one.Severity == macro.Stops {
				row.Stops++
			}
		}
	}
	m.hub.Publish("findings", []string{"findings"}, row)
}

// findings looks a macro through.
func (m *Mirror) findings(mac *program.Macro) []macro.Finding {
	f := m.facts(mac)
	list := macro.Find(m.program.Show, mac.Source.ID, f, 0)
	for _, d := range mac.Devices {
		if n := m.unsentOn(mac, d); n > 0 && m.program.Devices[d] != nil {
			steps := "1 step cannot"
			if n > 1 {
				steps = fmt.Sprintf("%d steps cannot", n)
			}
			list = append([]macro.Finding{{ID: macro.Unsent, Severity: macro.Stops, Text: fmt.Sprintf("%s is away: %s be sent now.", m.program.Devices[d].Name, steps)}}, list...)
		}
		if mv, has := m.inspector.moved[d]; has {
			list = append(list, macro.Finding{ID: "latency-changed", Severity: macro.Hint, Text: mv.text})
		}
	}
	return list
}

// noticeable is by how much the latency of a device has to change to be told of: a
// frame at 25 a second.
const noticeable = 40 * time.Millisecond

// noticedFor is how long a latency that has changed is a finding.
const noticedFor = 10 * time.Minute

// noticeLatency takes in the latency of a device; one that has changed so that it can be seen
// is a finding of the macros that use it.
func (m *Mirror) noticeLatency(id string, now reading.Stats) {
	in := m.inspector
	was, known := in.lag[id]
	if now.Count < 3 {
		return
	}
	if !known {
		in.lag[id] = now.Median
		return
	}
	if d := m.program.Devices[id]; d != nil && time.Duration(math.Abs(float64(now.Median-was))) > noticeable {
		in.lag[id] = now.Median
		in.moved[id] = moved{fmt.Sprintf("%s answers in %d ms now; it was %d ms before. What lands together counts with the new time.",
			d.Name, now.Median.Milliseconds(), was.Milliseconds()), time.Now()}
		m.recheckMacros(id)
	}
}

// recheckMacros has the macros that use a device looked through again.
func (m *Mirror) recheckMacros(device string) {
	for id, f := range m.inspector.found {
		if slices.Contains(f.macro.Devices, device) {
			f.stale = true
			m.inspector.found[id] = f
		}
	}
}

var (
	_ device.Known = plan.Assumed{}
	_ expr.World   = plan.Assumed{}
)
