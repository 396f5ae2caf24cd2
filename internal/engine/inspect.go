package engine

import (
	"fmt"
	"math"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/link"
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
	macro *Macro
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
func (m *mirror) facts(mac *Macro) facts {
	return facts{Known: world{m.table}, snap: m.snap, macro: mac, turn: func(step string) string { return m.live.Turns[step] },
		latency: func(device, action string) reading.Stats { return m.latency[device][action] }, drivers: m.drivers, timed: map[string]timed{}}
}

// inspect works out findings that are not up to date, for a while.
func (m *mirror) inspect(now time.Time) {
	in, changed := m.inspector, false
	for id, mv := range in.moved {
		if now.Sub(mv.at) > noticedFor {
			delete(in.moved, id)
			m.stale(id)
		}
	}
	for id := range in.found {
		if m.snap.Macros[id] == nil {
			delete(in.found, id)
			changed = true
		}
	}
	for id, mac := range m.snap.Macros {
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
func (m *mirror) findings(mac *Macro) []macro.Finding {
	f := m.facts(mac)
	list := macro.Find(m.snap.Show, mac.Source.ID, f, 0)
	for _, d := range mac.Devices {
		if n := m.unsentOn(mac, d); n > 0 && m.snap.Devices[d] != nil {
			steps := "1 step cannot"
			if n > 1 {
				steps = fmt.Sprintf("%d steps cannot", n)
			}
			list = append([]macro.Finding{{ID: macro.Unsent, Severity: macro.Stops, Text: fmt.Sprintf("%s is away: %s be sent now.", m.snap.Devices[d].Name, steps)}}, list...)
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

// notice takes in the latency of a device; one that has changed so that it can be seen
// is a finding of the macros that use it.
func (m *mirror) notice(id string, now reading.Stats) {
	in := m.inspector
	was, known := in.lag[id]
	if now.Count < 3 {
		return
	}
	if !known {
		in.lag[id] = now.Median
		return
	}
	if d := m.snap.Devices[id]; d != nil && time.Duration(math.Abs(float64(now.Median-was))) > noticeable {
		in.lag[id] = now.Median
		in.moved[id] = moved{fmt.Sprintf("%s answers in %d ms now; it was %d ms before. What lands together counts with the new time.",
			d.Name, now.Median.Milliseconds(), was.Milliseconds()), time.Now()}
		m.stale(id)
	}
}

// stale has the macros that use a device looked through again.
func (m *mirror) stale(device string) {
	for id, f := range m.inspector.found {
		if slices.Contains(f.macro.Devices, device) {
			f.stale = true
			m.inspector.found[id] = f
		}
	}
}

// Findings looks a macro through as things stand now, the worst first.
func (v *View) Findings(id string) []macro.Finding {
	mac := v.Snap.Macros[id]
	if mac == nil {
		return nil
	}
	return v.m.findings(mac)
}

// Toggled gives the action that says outright which state a toggle step brings: the one
// that is asked for, else the one it would bring now; "" where nobody knows.
func (v *View) Toggled(id, step string, value *bool) string {
	mac := v.Snap.Macros[id]
	if mac == nil {
		return ""
	}
	r := mac.Actions[step]
	if r == nil || r.Bound == nil || len(r.Bound.Action.Instead) < 2 {
		return ""
	}
	t := v.Snap.Devices[r.Device].Type
	effects := r.Bound.Effects(v)
	if len(effects) == 0 {
		return ""
	}
	want := effects[0].Value
	for i, action := range r.Bound.Action.Instead {
		b, err := t.Bind(r.Device, action, r.Bound.Params, v.Snap.FrameRate(v.Snap.Devices[r.Device]))
		if err != nil {
			continue
		}
		if value != nil {
			if *value == (i == 0) {
				return action
			}
			continue
		}
		if e := b.Effects(v); len(e) > 0 && reading.Equal(e[0].Value, want, 0) {
			return action
		}
	}
	return ""
}

// Setter gives the action that sets a reading to what it is now.
func (v *View) Setter(k reading.Key) (show.Call, bool) {
	r, ok := v.Snap.setter(k, v.Table.Get(k).Value, v, v.m.drivers)
	if !ok || r == nil {
		return show.Call{}, false
	}
	return r.Call, true
}

// Title is what a reading is called, without its device; Word a value of it as a person
// knows it.
func (v *View) Title(k reading.Key) string {
	if d := v.Snap.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.TitleOf(k.Device, k.Path, v)
	}
	return k.Path
}

// Word is a value of a reading as a person knows it: see Title.
func (v *View) Word(k reading.Key, value reading.Value) string { return v.Snap.word(k, value, v) }

// Called is what a reading is called, with its device.
func (v *View) Called(k reading.Key) string { return v.Snap.called(k, v) }

// Unsent counts the steps of a macro that cannot be sent now.
func (v *View) Unsent(mac *Macro) int { return v.m.unsent(mac) }

// Away reports whether a device cannot be reached now; Synaptor itself always can.
func (v *View) Away(device string) bool { return device != SelfID && v.Link(device).Phase != link.Up }

// PlanOf gives the plan of a macro as things stand; nil where it has none.
func (v *View) PlanOf(mac *Macro) *macro.Plan {
	if mac.Tree == nil {
		return nil
	}
	return macro.Compile(mac.Tree, v.m.facts(mac))
}

var (
	_ device.Known = Assumed{}
	_ expr.World   = Assumed{}
)
