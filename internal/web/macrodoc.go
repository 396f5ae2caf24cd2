package web

import (
	"context"
	"slices"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

// MacroRow is a macro in the list.
type MacroRow struct {
	*show.Macro
	Rev      int64    `json:"rev"`
	LengthMs float64  `json:"lengthMs"`
	WorstMs  float64  `json:"worstMs"`
	Open     bool     `json:"open"` // it waits for something whose time nobody knows
	Steps    int      `json:"steps"`
	Uses     []string `json:"uses"`    // what runs it: keys, other macros
	Problem  string   `json:"problem"` // why it cannot run; empty: it can
	Unsent   int      `json:"unsent"`  // steps that cannot be sent now
}

// MacroDoc is a macro with its steps, its plan and what was found in it.
type MacroDoc struct {
	MacroRow
	Lines    []StepDoc       `json:"lines"`
	Bars     []BarDoc        `json:"bars"`
	Groups   []GroupDoc      `json:"groups"`
	Pauses   []PauseDoc      `json:"pauses"`
	BeginsMs []float64       `json:"beginsMs"` // of the segments
	Findings []macro.Finding `json:"findings"`
	Devices  []MacroDevice   `json:"lanes"`
}

// MacroDevice is a lane: a device that the macro drives.
type MacroDevice struct {
	Device    string `json:"device"`
	Name      string `json:"name"`
	Role      string `json:"role"`
	LatencyMs int64  `json:"latencyMs"`
	Away      bool   `json:"away"`
}

// StepDoc is a step as it is listed: those in a step follow it, one deeper.
type StepDoc struct {
	*show.Step
	Rev     int64      `json:"rev"`
	Depth   int        `json:"depth"`
	Title   string     `json:"title"`
	Device  string     `json:"device"`
	Role    string     `json:"role"`
	Detail  *ActionDoc `json:"detail"`  // of its action; null: it has none
	Problem string     `json:"problem"` // why it cannot be sent
	Holds   []string   `json:"holds"`   // the kinds of step that may stand in it
	// Sentences say the condition; null where it says more than sentences can.
	Sentences []expr.Sentence `json:"sentences"`
	// Condition is the condition in words; empty: it has none.
	Condition string `json:"condition"`
	// PlaysMs is how long what its action starts goes on: what a wait after it proposes.
	PlaysMs int64 `json:"playsMs"`
}

// BarDoc is a step in the plan; its times are milliseconds from the start of its
// segment.
type BarDoc struct {
	Step     string  `json:"step"`
	Kind     string  `json:"kind"`
	Device   string  `json:"device"`
	Title    string  `json:"title"`
	Group    string  `json:"group,omitempty"`
	Branch   string  `json:"branch,omitempty"`
	Segment  int     `json:"segment"`
	Dispatch float64 `json:"dispatchMs"`
	Starts   float64 `json:"startsMs"`
	Settles  float64 `json:"settlesMs"`
	Problem  string  `json:"problem,omitempty"`
}

// GroupDoc is a together in the plan.
type GroupDoc struct {
	Step    string  `json:"step"`
	Segment int     `json:"segment"`
	Starts  float64 `json:"startsMs"`
	Skew    float64 `json:"skewMs"`
}

// PauseDoc is a wait in the plan.
type PauseDoc struct {
	Step    string  `json:"step"`
	Segment int     `json:"segment"`
	Branch  string  `json:"branch,omitempty"`
	At      float64 `json:"atMs"`
	Length  float64 `json:"lengthMs"`
	Open    bool    `json:"open"`
}

func macroRow(v *mirror.View, mac *program.Macro, plan *macro.Plan) MacroRow {
	row := MacroRow{Macro: mac.Source, Rev: v.Program.Show.Rev(mac.Source.Ref()), Uses: macro.Uses(v.Program.Show, mac.Source.ID), Steps: len(v.Program.Show.StepsOf(mac.Source.ID)), Unsent: v.Unsent(mac)}
	if mac.Err != nil {
		row.Problem = mac.Err.Error()
	}
	if plan != nil {
		row.LengthMs, row.WorstMs, row.Open = macro.Millis(plan.Length), macro.Millis(plan.Worst), plan.Open
	}
	return row
}

// macroDoc describes a macro. It fails with the context's error when that ends before.
func macroDoc(ctx context.Context, v *mirror.View, mac *program.Macro) (*MacroDoc, error) {
	findings, err := v.Findings(ctx, mac)
	if err != nil {
		return nil, err
	}
	plan := v.PlanOf(mac)
	doc := &MacroDoc{MacroRow: macroRow(v, mac, plan), Lines: []StepDoc{}, Bars: []BarDoc{}, Groups: []GroupDoc{}, Pauses: []PauseDoc{}, BeginsMs: []float64{},
		Findings: append([]macro.Finding{}, findings...), Devices: []MacroDevice{}}
	doc.addLines(v, mac, "", 0)
	if plan == nil {
		return doc, nil
	}
	for _, b := range plan.Bars {
		doc.Bars = append(doc.Bars, BarDoc{b.Step, b.Kind, b.Device, v.ActionTitle(mac, b.Step), b.Group, b.Branch, b.Segment, macro.Millis(b.Dispatch), macro.Millis(b.Starts), macro.Millis(b.Settles), b.Problem})
		doc.addLane(v, b)
	}
	for _, g := range plan.Groups {
		doc.Groups = append(doc.Groups, GroupDoc{g.Step, g.Segment, macro.Millis(g.Starts), macro.Millis(g.Skew)})
	}
	for _, p := range plan.Pauses {
		doc.Pauses = append(doc.Pauses, PauseDoc{p.Step, p.Segment, p.Branch, macro.Millis(p.At), macro.Millis(p.Length), p.Open})
	}
	for _, at := range plan.Begins {
		doc.BeginsMs = append(doc.BeginsMs, macro.Millis(at))
	}
	return doc, nil
}

func (doc *MacroDoc) addLane(v *mirror.View, b macro.Bar) {
	d := v.Program.Devices[b.Device]
	if d == nil || slices.ContainsFunc(doc.Devices, func(o MacroDevice) bool { return o.Device == b.Device }) {
		return
	}
	lane := MacroDevice{Device: d.ID, Name: d.Name, Role: "other", LatencyMs: b.Median.Milliseconds(), Away: v.Away(d.ID)}
	if d.Type != nil {
		lane.Role = d.Type.Sheet.Role
	}
	doc.Devices = append(doc.Devices, lane)
}

// addLines lists the steps in a parent, each followed by those in it.
func (doc *MacroDoc) addLines(v *mirror.View, mac *program.Macro, parent string, depth int) {
	for i, st := range macro.Within(v.Program.Show.StepsOf(mac.Source.ID), parent) {
		line := StepDoc{Step: st, Rev: v.Program.Show.Rev(st.Ref()), Depth: depth, Title: v.StepTitle(mac, st, i), Holds: macro.MayStandIn(st.Kind)}
		if r := mac.Actions[st.ID]; r != nil {
			line.Device, line.Problem = r.Device, r.Problem
			if d := v.Program.Devices[r.Device]; d != nil && d.Type != nil {
				line.Role, line.Detail = d.Type.Sheet.Role, actionDoc(v, d, r.Call.Action, r.Call.Params)
			}
			if r.Bound != nil {
				line.PlaysMs = r.Bound.Plays(v).Milliseconds()
			}
		} else if st.Action != nil {
			if d := v.Program.Devices[st.Action.Device]; d != nil && d.Type != nil {
				line.Device, line.Role, line.Detail = d.ID, d.Type.Sheet.Role, actionDoc(v, d, st.Action.Action, st.Action.Params)
			}
		}
		if st.When != "" {
			if p, err := expr.Compile(st.When, expr.Scope{}); err == nil {
				line.Sentences, _ = p.Sentences()
				line.Condition = v.InWords(line.Sentences, st.When)
			}
		}
		doc.Lines = append(doc.Lines, line)
		doc.addLines(v, mac, st.ID, depth+1)
	}
}
