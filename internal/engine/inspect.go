package engine

import (
	"cmp"
	"fmt"
	"maps"
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
	moved map[string]string // what has become of the latency of a device, in words
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
	return &inspector{found: map[string]inspected{}, lag: map[string]time.Duration{}, moved: map[string]string{}}
}

// facts are what macros rest on, as the mirror knows it.
func (m *mirror) facts(mac *Macro) facts {
	return facts{Known: world{m.table}, snap: m.snap, macro: mac, turn: func(step string) string { return m.live.Turns[step] },
		latency: func(device, action string) reading.Stats { return m.latency[device][action] }, drivers: m.drivers, timed: map[string]timed{}}
}

// inspect works out findings that are not up to date, for a while.
func (m *mirror) inspect(now time.Time) {
	in, changed := m.inspector, false
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
		if text := m.inspector.moved[d]; text != "" {
			list = append(list, macro.Finding{ID: "latency-changed", Severity: macro.Hint, Text: text})
		}
	}
	return list
}

// noticeable is by how much the latency of a device has to change to be told of: a
// frame at 25 a second.
const noticeable = 40 * time.Millisecond

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
		in.moved[id] = fmt.Sprintf("%s answers in %d ms now; it was %d ms before. What lands together counts with the new time.", d.Name, now.Median.Milliseconds(), was.Milliseconds())
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

// Rehearsed is a rehearsal in words.
type Rehearsed struct {
	Seed     uint64          `json:"seed"`
	State    string          `json:"state"`
	Reason   string          `json:"reason,omitempty"`
	LengthMs float64         `json:"lengthMs"`
	Steps    []RehearsedStep `json:"steps"`
	Changes  []RehearsedRow  `json:"changes"`
	Outputs  []OutputRow     `json:"outputs"`
	Branches []TakenBranch   `json:"branches"`
	Together []RehearsedSkew `json:"together"`
	Findings []macro.Finding `json:"findings"`
}

// RehearsedStep is a step that was dispatched.
type RehearsedStep struct {
	AtMs float64 `json:"atMs"`
	Step string  `json:"step"`
	Kind string  `json:"kind"`
}

// RehearsedRow is a reading that changes.
type RehearsedRow struct {
	AtMs  float64 `json:"atMs"`
	Key   string  `json:"key"`
	Title string  `json:"title"`
	From  string  `json:"from"`
	To    string  `json:"to"`
	Step  string  `json:"step"`
}

// OutputRow is what the audience sees on one output.
type OutputRow struct {
	Key   string     `json:"key"`
	Title string     `json:"title"`
	Seen  []SeenSpan `json:"seen"`
}

// SeenSpan is a picture on an output for a time.
type SeenSpan struct {
	FromMs float64 `json:"fromMs"`
	ToMs   float64 `json:"toMs"`
	Word   string  `json:"word"`
	Step   string  `json:"step,omitempty"` // empty: it was there before
}

// TakenBranch is the branch that a turns or a one of took.
type TakenBranch struct {
	Step   string `json:"step"`
	Branch string `json:"branch"`
	Name   string `json:"name"`
}

// RehearsedSkew is how far apart the effects of a together may start.
type RehearsedSkew struct {
	Step string  `json:"step"`
	AtMs float64 `json:"atMs"`
	Skew float64 `json:"skewMs"`
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// Rehearse runs a macro on a virtual clock as things stand. It fails with the
// *macro.Error that keeps it from running.
func (v *View) Rehearse(id string, seed uint64) (*Rehearsed, error) {
	mac := v.Snap.Macros[id]
	if mac == nil {
		return nil, &macro.Error{Text: "This macro does not exist any more."}
	}
	return rehearsed(v.m.facts(mac), seed)
}

func rehearsed(f facts, seed uint64) (*Rehearsed, error) {
	mac := f.macro
	if mac.Tree == nil {
		return nil, mac.Err
	}
	r := macro.Rehearse(mac.Tree, f, seed)
	out := &Rehearsed{Seed: seed, State: r.State, Reason: r.Reason, LengthMs: ms(r.Length), Steps: []RehearsedStep{}, Changes: []RehearsedRow{}, Outputs: []OutputRow{},
		Branches: []TakenBranch{}, Together: []RehearsedSkew{}, Findings: append([]macro.Finding{}, macro.Find(f.snap.Show, mac.Source.ID, f, seed)...)}
	for _, s := range r.Steps {
		out.Steps = append(out.Steps, RehearsedStep{ms(s.At), s.Step, s.Kind})
	}
	now := map[reading.Key]reading.Value{}
	for _, c := range r.Changes {
		was, changed := now[c.Key]
		if !changed {
			was = f.Reading(c.Key).Value
		}
		now[c.Key] = c.Value
		out.Changes = append(out.Changes, RehearsedRow{ms(c.At), c.Key.String(), f.Called(c.Key), f.snap.word(c.Key, was, f), f.snap.word(c.Key, c.Value, f), c.Step})
	}
	for _, o := range r.Pictures(f.IsPicture, func(k reading.Key) reading.Value { return f.Reading(k).Value }) {
		row := OutputRow{Key: o.Key.String(), Title: f.Called(o.Key), Seen: []SeenSpan{}}
		for _, s := range o.Seen {
			row.Seen = append(row.Seen, SeenSpan{ms(s.From), ms(s.To), f.snap.word(o.Key, s.Value, f), s.Step})
		}
		out.Outputs = append(out.Outputs, row)
	}
	mac.TheSteps(func(n *macro.Node, _ *Response) {
		if i, took := r.Took[n.ID]; took && i < len(n.Children) {
			b := n.Children[i]
			out.Branches = append(out.Branches, TakenBranch{n.ID, b.ID, cmp.Or(b.Name, fmt.Sprintf("branch %d", i+1))})
		}
	})
	for _, g := range macro.Compile(mac.Tree, f).Groups {
		out.Together = append(out.Together, RehearsedSkew{g.Step, ms(g.Starts), ms(g.Skew)})
	}
	return out, nil
}

// Assumptions are what a rehearsal away from the devices would rest on: what is known
// now.
func (v *View) Assumptions() Assumed {
	a := Assumed{Values: map[reading.Key]reading.Value{}, Median: map[string]time.Duration{}, P95: map[string]time.Duration{}, Turns: maps.Clone(v.m.live.Turns)}
	for _, d := range v.Snap.Show.Devices() {
		for _, path := range v.Table.Paths(d.ID) {
			k := reading.Key{Device: d.ID, Path: path}
			if r := v.Table.Get(k); r.Quality != reading.Unknown {
				a.Values[k] = r.Value
			}
		}
		if s := v.Latency(d.ID, ""); s.Count > 0 {
			a.Median[d.ID], a.P95[d.ID] = s.Median, s.P95
		}
	}
	return a
}

// Assumed are the readings, latencies and turns that a rehearsal away from the devices
// rests on.
type Assumed struct {
	Values  map[reading.Key]reading.Value
	Median  map[string]time.Duration // by device
	P95     map[string]time.Duration
	Turns   map[string]string
	ordered map[string][]string
}

// Reading implements expr.World.
func (a Assumed) Reading(k reading.Key) reading.Reading {
	v, known := a.Values[k]
	if !known {
		return reading.Reading{Quality: reading.Unknown}
	}
	return reading.Reading{Value: v, Quality: reading.Confirmed}
}

// Paths implements device.Known.
func (a Assumed) Paths(device string) []string { return a.ordered[device] }

// RehearseAway rehearses a macro of a show on assumptions alone, with no device and no
// engine. The same show, sheets, assumptions and seed give the same result.
func RehearseAway(snap *Snapshot, id string, a Assumed, drivers Drivers, seed uint64) (*Rehearsed, error) {
	mac := snap.Macros[id]
	if mac == nil {
		return nil, &macro.Error{Text: "There is no such macro in this archive."}
	}
	a.ordered = map[string][]string{}
	for k, v := range a.Values {
		if d := snap.Devices[k.Device]; d != nil && d.Type != nil {
			if typed, err := d.Type.Value(k.Path, v); err == nil {
				a.Values[k] = typed
			}
		}
		a.ordered[k.Device] = append(a.ordered[k.Device], k.Path)
	}
	for _, paths := range a.ordered {
		slices.Sort(paths)
	}
	return rehearsed(facts{Known: a, snap: snap, macro: mac, drivers: drivers, timed: map[string]timed{}, turn: func(step string) string { return a.Turns[step] },
		latency: func(device, action string) reading.Stats {
			if m, known := a.Median[device]; known && action == "" {
				return reading.Stats{Count: 1, Median: m, P95: a.P95[device]}
			}
			return reading.Stats{}
		}}, seed)
}

var (
	_ device.Known = Assumed{}
	_ expr.World   = Assumed{}
)
