package mirror

import (
	"context"
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/link"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// View is what lives at a moment: the program in force, the readings, links, runs. One
// that was handed out never changes, so documents and rehearsals take as long as they
// like and hold nobody up.
type View struct {
	Program  *program.Program
	Roll     RollRow
	readings device.Known
	font     *face.Font
	links    versioned[string, link.State]          // by device
	latency  versioned[latencyKey, reading.Stats]   // action "" is all
	moved    versioned[string, moved]               // latencies that have changed, by device
	pages    versioned[string, ControllerRow]       // by controller
	guards   versioned[string, engine.GuardChanged] // by mapping
	turns    versioned[string, string]              // the branch taken last, by step
	runs     versioned[string, engine.RunRow]       // those of the last minutes, by id
	latest   versioned[string, engine.RunRow]       // the one that began last, by macro
	wires    versioned[string, *link.Wire]          // by device
}

type latencyKey struct{ device, action string }

// share gives the view as something that does not change any more.
func (v *View) share(readings *reading.Version) *View {
	return &View{Program: v.Program, Roll: v.Roll, readings: readings, font: v.font, links: v.links.share(), latency: v.latency.share(), moved: v.moved.share(),
		pages: v.pages.share(), guards: v.guards.share(), turns: v.turns.share(), runs: v.runs.share(), latest: v.latest.share(), wires: v.wires.share()}
}

// Reading implements expr.World.
func (v *View) Reading(k reading.Key) reading.Reading { return v.readings.Reading(k) }

// Paths implements device.Known.
func (v *View) Paths(device string) []string { return v.readings.Paths(device) }

// Link returns the state of a device's link.
func (v *View) Link(device string) link.State { return v.links.get(device) }

// Latency returns the statistics of a device's action; "" is all of them.
func (v *View) Latency(device, action string) reading.Stats {
	return v.latency.get(latencyKey{device, action})
}

// Pages returns which pages a controller shows.
func (v *View) Pages(controller string) ControllerRow { return v.pages.get(controller) }

// Wire returns what went over a device's link, or nil.
func (v *View) Wire(device string) *link.Wire { return v.wires.get(device) }

// Run gives a run by its id, while it is listed.
func (v *View) Run(id string) (row engine.RunRow, ok bool) {
	row, ok = v.runs.all[id]
	return row, ok
}

// Row gives a reading as the API shows it.
func (v *View) Row(k reading.Key) ReadingRow { return v.row(k, v.Reading(k)) }

// Away reports whether a device cannot be reached now; Synaptor itself always can.
func (v *View) Away(device string) bool {
	return device != program.SelfID && v.Link(device).Phase != link.Up
}

// facts are what macros rest on; a context that ends has what works with them stop.
func (v *View) facts(ctx context.Context, mac *program.Macro) plan.Facts {
	return plan.NewFacts(ctx, v.Program, mac, v, v.turns.get, v.Latency)
}

// Facts are what is known now, for what is no macro.
func (v *View) Facts(ctx context.Context) plan.Facts { return v.facts(ctx, nil) }

// IsSafe tells whether an output, by its id, is at its safe picture.
func (v *View) IsSafe(output string) bool {
	return v.Reading(reading.Key{Device: program.SelfID, Path: "safe/" + output + "/on"}).Value == true
}

// PlanOf gives the plan of a macro as things stand; nil where it has none.
func (v *View) PlanOf(mac *program.Macro) *macro.Plan {
	if mac.Tree == nil {
		return nil
	}
	return macro.Compile(mac.Tree, v.facts(context.Background(), mac))
}

// Rehearse runs a macro on a virtual clock as things stand. It fails with the
// *macro.Error that keeps it from running, or with the context's error when that ends.
func (v *View) Rehearse(ctx context.Context, id string, seed uint64) (*plan.Rehearsed, error) {
	mac := v.Program.Macros[id]
	if mac == nil {
		return nil, &macro.Error{Text: "This macro does not exist any more."}
	}
	return plan.Rehearse(ctx, v.facts(ctx, mac), seed)
}

// Assumptions are what a rehearsal away from the devices would rest on: what is known
// now.
func (v *View) Assumptions() plan.Assumed {
	a := plan.Assumed{Values: map[reading.Key]reading.Value{}, Median: map[string]time.Duration{}, P95: map[string]time.Duration{}, Turns: maps.Clone(v.turns.all)}
	if a.Turns == nil {
		a.Turns = map[string]string{}
	}
	for _, d := range v.Program.Show.Devices() {
		for _, path := range v.Paths(d.ID) {
			k := reading.Key{Device: d.ID, Path: path}
			if r := v.Reading(k); r.Quality != reading.Unknown {
				a.Values[k] = r.Value
			}
		}
		if s := v.Latency(d.ID, ""); s.Count > 0 {
			a.Median[d.ID], a.P95[d.ID] = s.Lately, s.P95
		}
	}
	return a
}

// Toggled gives the action that says outright which state a toggle step brings: the one
// that is asked for, else the one it would bring now; "" where nobody knows.
func (v *View) Toggled(id, step string, value *bool) string {
	mac := v.Program.Macros[id]
	if mac == nil || mac.Actions[step] == nil {
		return ""
	}
	return v.Program.Outright(mac.Actions[step], value, v)
}

// Setter gives the action that sets a reading to what it is now.
func (v *View) Setter(k reading.Key) (show.Call, bool) {
	r, ok := v.Program.Setter(k, v.Reading(k).Value, v)
	if !ok || r == nil {
		return show.Call{}, false
	}
	return r.Call, true
}

// Title is what a reading is called, without its device; Word a value of it as a person
// knows it.
func (v *View) Title(k reading.Key) string { return v.Program.Title(k, v) }

// Word is a value of a reading as a person knows it: see Title.
func (v *View) Word(k reading.Key, value reading.Value) string { return v.Program.Word(k, value, v) }

// StepTitle is what a step of a macro is called; position is its place in its parent.
func (v *View) StepTitle(mac *program.Macro, st *show.Step, position int) string {
	action := ""
	if r := mac.Actions[st.ID]; r != nil && r.Bound != nil {
		action = v.ActionTitle(mac, st.ID)
	}
	return macro.Title(v.Program.Show, st, action, position)
}

// ActionTitle is what the action of a step of a macro is called: its id where it cannot be sent; empty
// where the step has none.
func (v *View) ActionTitle(mac *program.Macro, step string) string {
	switch r := mac.Actions[step]; {
	case r == nil:
		return ""
	case r.Bound == nil:
		return r.Call.Action
	default:
		return r.Bound.Title.Text(v)
	}
}

// PictureURL is where a device, by its id or its slug, has a picture of one of its sources; ok is false where it has none.
func (v *View) PictureURL(called, source string) (url string, ok bool) {
	for _, d := range v.Program.Devices {
		if d.Slug != called && d.ID != called || d.Type == nil {
			continue
		}
		if slices.ContainsFunc(d.Type.PictureSources(d.ID, v), func(p device.Choice) bool { return p.Value == source }) {
			return d.Type.Picture(source, d.ID, d.Host, d.Port, v)
		}
	}
	return "", false
}

// InWords says a condition as a person would; one that sentences cannot say is its source.
func (v *View) InWords(list []expr.Sentence, source string) string {
	if len(list) == 0 {
		return source
	}
	return expr.InWords(list, v.Title, v.Word)
}

// Called is what a reading is called, with its device.
func (v *View) Called(k reading.Key) string { return v.Program.Called(k, v) }
