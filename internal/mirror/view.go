package mirror

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/link"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// Rehearse runs a macro on a virtual clock as things stand. It fails with the
// *macro.Error that keeps it from running.
func (v *View) Rehearse(id string, seed uint64) (*plan.Rehearsed, error) {
	mac := v.Program.Macros[id]
	if mac == nil {
		return nil, &macro.Error{Text: "This macro does not exist any more."}
	}
	return plan.Rehearse(v.mirror.facts(mac), seed)
}

// Assumptions are what a rehearsal away from the devices would rest on: what is known
// now.
func (v *View) Assumptions() plan.Assumed {
	a := plan.Assumed{Values: map[reading.Key]reading.Value{}, Median: map[string]time.Duration{}, P95: map[string]time.Duration{}, Turns: maps.Clone(v.mirror.live.Turns)}
	for _, d := range v.Program.Show.Devices() {
		for _, path := range v.Table.Paths(d.ID) {
			k := reading.Key{Device: d.ID, Path: path}
			if r := v.Table.Reading(k); r.Quality != reading.Unknown {
				a.Values[k] = r.Value
			}
		}
		if s := v.Latency(d.ID, ""); s.Count > 0 {
			a.Median[d.ID], a.P95[d.ID] = s.Median, s.P95
		}
	}
	return a
}

// Findings looks a macro through as things stand now, the worst first.
func (v *View) Findings(id string) []macro.Finding {
	mac := v.Program.Macros[id]
	if mac == nil {
		return nil
	}
	return v.mirror.findings(mac)
}

// Toggled gives the action that says outright which state a toggle step brings: the one
// that is asked for, else the one it would bring now; "" where nobody knows.
func (v *View) Toggled(id, step string, value *bool) string {
	mac := v.Program.Macros[id]
	if mac == nil {
		return ""
	}
	r := mac.Actions[step]
	if r == nil || r.Bound == nil || len(r.Bound.Action.Instead) < 2 {
		return ""
	}
	t := v.Program.Devices[r.Device].Type
	effects := r.Bound.Effects(v)
	if len(effects) == 0 {
		return ""
	}
	want := effects[0].Value
	for i, action := range r.Bound.Action.Instead {
		b, err := t.Bind(r.Device, action, r.Bound.Params, v.Program.FrameRate(v.Program.Devices[r.Device]))
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
	r, ok := v.Program.Setter(k, v.Table.Reading(k).Value, v)
	if !ok || r == nil {
		return show.Call{}, false
	}
	return r.Call, true
}

// Title is what a reading is called, without its device; Word a value of it as a person
// knows it.
func (v *View) Title(k reading.Key) string {
	if d := v.Program.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.TitleOf(k.Device, k.Path, v)
	}
	return k.Path
}

// Word is a value of a reading as a person knows it: see Title.
func (v *View) Word(k reading.Key, value reading.Value) string { return v.Program.Word(k, value, v) }

// Called is what a reading is called, with its device.
func (v *View) Called(k reading.Key) string { return v.Program.Called(k, v) }

// Unsent counts the steps of a macro that cannot be sent now.
func (v *View) Unsent(mac *program.Macro) int { return v.mirror.unsent(mac) }

// Away reports whether a device cannot be reached now; Synaptor itself always can.
func (v *View) Away(device string) bool {
	return device != program.SelfID && v.Link(device).Phase != link.Up
}

// PlanOf gives the plan of a macro as things stand; nil where it has none.
func (v *View) PlanOf(mac *program.Macro) *macro.Plan {
	if mac.Tree == nil {
		return nil
	}
	return macro.Compile(mac.Tree, v.mirror.facts(mac))
}

// View is what the mirror knows, for the time of one call.
type View struct {
	Program *program.Program
	Table   *reading.Table
	mirror  *Mirror
}

// Reading implements expr.World.
func (v *View) Reading(k reading.Key) reading.Reading { return v.Table.Reading(k) }

// Paths implements device.Known.
func (v *View) Paths(device string) []string { return v.Table.Paths(device) }

// Link returns the state of a device's link.
func (v *View) Link(device string) link.State { return v.mirror.links[device] }

// Latency returns the statistics of a device's action; "" is all of them.
func (v *View) Latency(device, action string) reading.Stats { return v.mirror.latency[device][action] }

// Pages returns which pages a controller shows.
func (v *View) Pages(controller string) ControllerRow { return v.mirror.pages[controller] }

// Wire returns what went over a device's link, or nil.
func (v *View) Wire(device string) *link.Wire { return v.mirror.wires[device] }

// Run gives a run by its id, while it is listed.
func (v *View) Run(id string) (row engine.RunRow, ok bool) {
	i := slices.IndexFunc(v.mirror.runs, func(r engine.RunRow) bool { return r.ID == id })
	if i < 0 {
		return row, false
	}
	return v.mirror.runs[i], true
}

// Row gives a reading as the API shows it.
func (v *View) Row(k reading.Key) ReadingRow { return v.mirror.row(k, v.Table.Reading(k)) }
