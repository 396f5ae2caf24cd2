package web

import (
	"cmp"
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
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

func millis(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// usesOf tells what runs a macro.
func usesOf(v *engine.View, id string) []string {
	out := []string{}
	for _, m := range v.Snap.Show.Mappings() {
		for _, r := range m.Responses {
			if !r.Action.IsRun() || r.Action.Params["macro"] != id {
				continue
			}
			for _, at := range m.Placements {
				where := "every page"
				if p := v.Snap.Show.Page(at.Page); p != nil {
					where = p.Name
				}
				out = append(out, at.Control+" of "+where)
			}
		}
	}
	for _, o := range v.Snap.Show.Macros() {
		if slices.ContainsFunc(v.Snap.Show.StepsOf(o.ID), func(s *show.Step) bool { return s.Run == id }) {
			out = append(out, "the macro "+o.Name)
		}
	}
	return out
}

func macroRow(v *engine.View, mac *engine.Macro, plan *macro.Plan) MacroRow {
	row := MacroRow{Macro: mac.Source, Rev: v.Snap.Show.Rev(mac.Source.Ref()), Uses: usesOf(v, mac.Source.ID), Steps: len(v.Snap.Show.StepsOf(mac.Source.ID)), Unsent: v.Unsent(mac)}
	if mac.Err != nil {
		row.Problem = mac.Err.Error()
	}
	if plan != nil {
		row.LengthMs, row.WorstMs, row.Open = millis(plan.Length), millis(plan.Worst), plan.Open
	}
	return row
}

func (s *server) macros(c *echo.Context) error {
	rows := []MacroRow{}
	s.Engine.Current(func(v *engine.View) {
		for _, m := range v.Snap.Show.Macros() {
			if mac := v.Snap.Macros[m.ID]; mac != nil {
				rows = append(rows, macroRow(v, mac, v.PlanOf(mac)))
			}
		}
	})
	return c.JSON(http.StatusOK, rows)
}

func (s *server) macro(c *echo.Context) error {
	var doc *MacroDoc
	s.Engine.Current(func(v *engine.View) {
		if mac := v.Snap.Macros[c.Param("id")]; mac != nil {
			doc = macroDoc(v, mac)
		}
	})
	if doc == nil {
		return edit.ErrNotFound
	}
	return c.JSON(http.StatusOK, doc)
}

func macroDoc(v *engine.View, mac *engine.Macro) *MacroDoc {
	plan := v.PlanOf(mac)
	doc := &MacroDoc{MacroRow: macroRow(v, mac, plan), Lines: []StepDoc{}, Bars: []BarDoc{}, Groups: []GroupDoc{}, Pauses: []PauseDoc{}, BeginsMs: []float64{},
		Findings: append([]macro.Finding{}, v.Findings(mac.Source.ID)...), Devices: []MacroDevice{}}
	doc.addLines(v, mac, "", 0)
	if plan == nil {
		return doc
	}
	for _, b := range plan.Bars {
		doc.Bars = append(doc.Bars, BarDoc{b.Step, b.Kind, b.Device, b.Title, b.Group, b.Branch, b.Segment, millis(b.Dispatch), millis(b.Starts), millis(b.Settles), b.Problem})
		doc.addLane(v, b)
	}
	for _, g := range plan.Groups {
		doc.Groups = append(doc.Groups, GroupDoc{g.Step, g.Segment, millis(g.Starts), millis(g.Skew)})
	}
	for _, p := range plan.Pauses {
		doc.Pauses = append(doc.Pauses, PauseDoc{p.Step, p.Segment, p.Branch, millis(p.At), millis(p.Length), p.Open})
	}
	for _, at := range plan.Begins {
		doc.BeginsMs = append(doc.BeginsMs, millis(at))
	}
	return doc
}

func (doc *MacroDoc) addLane(v *engine.View, b macro.Bar) {
	d := v.Snap.Devices[b.Device]
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
func (doc *MacroDoc) addLines(v *engine.View, mac *engine.Macro, parent string, depth int) {
	for i, st := range macro.Within(v.Snap.Show.StepsOf(mac.Source.ID), parent) {
		line := StepDoc{Step: st, Rev: v.Snap.Show.Rev(st.Ref()), Depth: depth, Title: stepTitle(v, mac, st, i), Holds: macro.MayStandIn(st.Kind)}
		if r := mac.Actions[st.ID]; r != nil {
			line.Device, line.Problem = r.Device, r.Problem
			if d := v.Snap.Devices[r.Device]; d != nil && d.Type != nil {
				line.Role, line.Detail = d.Type.Sheet.Role, actionDoc(v, d, r.Call.Action, r.Call.Params)
			}
			if r.Bound != nil {
				line.PlaysMs = r.Bound.Plays(v).Milliseconds()
			}
		} else if st.Action != nil {
			if d := v.Snap.Devices[st.Action.Device]; d != nil && d.Type != nil {
				line.Device, line.Role, line.Detail = d.ID, d.Type.Sheet.Role, actionDoc(v, d, st.Action.Action, st.Action.Params)
			}
		}
		if st.When != "" {
			if p, err := expr.Compile(st.When, expr.Scope{}); err == nil {
				line.Sentences, _ = p.Sentences()
				line.Condition = inWords(v, line.Sentences, st.When)
			}
		}
		doc.Lines = append(doc.Lines, line)
		doc.addLines(v, mac, st.ID, depth+1)
	}
}

// inWords says a condition as a person would, where sentences can.
func inWords(v *engine.View, list []expr.Sentence, source string) string {
	if len(list) == 0 {
		return source
	}
	is := map[string]string{"==": "is", "!=": "is not", "<": "is below", "<=": "is at most", ">": "is above", ">=": "is at least"}
	var b strings.Builder
	for i, s := range list {
		if i > 0 && s.Or {
			b.WriteString(" or ")
		} else if i > 0 {
			b.WriteString(" and ")
		}
		device, path, _ := strings.Cut(s.Reading, ":")
		k := reading.Key{Device: device, Path: path}
		b.WriteString(v.Title(k) + " " + is[s.Is] + " " + v.Word(k, s.Value))
	}
	return b.String()
}

// stepTitle is what a step is called: its own name, else what it does.
func stepTitle(v *engine.View, mac *engine.Macro, st *show.Step, i int) string {
	if st.Name != "" {
		return st.Name
	}
	if r := mac.Actions[st.ID]; r != nil && r.Bound != nil {
		return r.Bound.Title.Text(v)
	}
	switch st.Kind {
	case macro.Branch:
		return "Branch " + strconv.Itoa(i+1)
	case macro.Run:
		if m := v.Snap.Show.Macro(st.Run); m != nil {
			return "Run " + m.Name
		}
		return "Run a macro that is gone"
	}
	if st.Action != nil {
		return st.Action.Action
	}
	return map[string]string{macro.Do: "Do nothing yet", macro.Wait: "Wait", macro.WaitFor: "Wait for", macro.Together: "Together", macro.Fade: "Fade", macro.If: "If",
		macro.Turns: "Turns", macro.OneOf: "One of", macro.PutBack: "Put back", macro.Repeat: "Repeat"}[st.Kind]
}

func (s *server) addMacro(c *echo.Context) error {
	var f edit.MacroFields
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddMacro(who(c), f))
}

// MacroEdit changes the settings of a macro, or its place in the list.
type MacroEdit struct {
	edit.MacroFields
	Rev      int64 `json:"rev"`
	Position *int  `json:"position,omitempty"`
}

func (s *server) editMacro(c *echo.Context) error {
	var f MacroEdit
	if err := read(c, &f, false); err != nil {
		return err
	}
	if f.Position != nil {
		return done(c, s.Edit.MoveMacro(who(c), c.Param("id"), *f.Position))
	}
	return done(c, s.Edit.EditMacro(who(c), c.Param("id"), f.Rev, f.MacroFields))
}

func (s *server) deleteMacro(c *echo.Context) error {
	return done(c, s.Edit.DeleteMacro(who(c), c.Param("id")))
}

func (s *server) duplicateMacro(c *echo.Context) error {
	return created(c)(s.Edit.DuplicateMacro(who(c), c.Param("id")))
}

// NewStep is a step to add, and where.
type NewStep struct {
	edit.StepFields
	Parent string `json:"parent"`
	At     int    `json:"at"`
}

func (s *server) addStep(c *echo.Context) error {
	var f NewStep
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddStep(who(c), c.Param("id"), macro.Spot{Parent: f.Parent, At: f.At}, f.StepFields))
}

// StepEdit changes a step that was read at a revision.
type StepEdit struct {
	edit.StepFields
	Rev int64 `json:"rev"`
}

func (s *server) editStep(c *echo.Context) error {
	var f StepEdit
	if err := read(c, &f, false); err != nil {
		return err
	}
	rev, err := s.Edit.EditStep(who(c), c.Param("step"), f.Rev, f.StepFields)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Revision{rev})
}

// StepShift has a step come later, or earlier where ByMs is negative.
type StepShift struct {
	Step string `json:"step"`
	ByMs int    `json:"byMs"`
}

func (s *server) shiftStep(c *echo.Context) error {
	var f StepShift
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.ShiftStep(who(c), c.Param("id"), f.Step, f.ByMs))
}

func (s *server) moveSteps(c *echo.Context) error {
	var f edit.StepMove
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.MoveSteps(who(c), c.Param("id"), f))
}

// StepList names steps.
type StepList struct {
	Steps []string `json:"steps"`
}

func (s *server) deleteSteps(c *echo.Context) error {
	var f StepList
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.DeleteSteps(who(c), c.Param("id"), f.Steps))
}

// StepPaste copies steps to a spot.
type StepPaste struct {
	Steps  []string `json:"steps"`
	Parent string   `json:"parent"`
	At     int      `json:"at"`
}

func (s *server) pasteSteps(c *echo.Context) error {
	var f StepPaste
	if err := read(c, &f, false); err != nil {
		return err
	}
	made, err := s.Edit.PasteSteps(who(c), c.Param("id"), f.Steps, macro.Spot{Parent: f.Parent, At: f.At})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, StepList{made})
}

func (s *server) fixMacro(c *echo.Context) error {
	var f edit.Fix
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.FixMacro(who(c), c.Param("id"), f))
}

// FromControls makes a macro of what controls do.
type FromControls struct {
	Controls []string `json:"controls"`
	Name     string   `json:"name"`
}

func (s *server) makeMacro(c *echo.Context) error {
	var f FromControls
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.MakeMacro(who(c), c.Param("page"), f.Controls, f.Name))
}

// Captured names the readings of a device whose present values are to be recalled.
type Captured struct {
	Paths []string `json:"paths"`
	Name  string   `json:"name"`
}

func (s *server) capture(c *echo.Context) error {
	var f Captured
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.Capture(who(c), c.Param("id"), f.Paths, f.Name))
}

func (s *server) rehearse(c *echo.Context) error {
	var seed uint64
	if q := c.QueryParam("seed"); q != "" {
		var err error
		if seed, err = strconv.ParseUint(q, 10, 64); err != nil {
			return &badBody{"seed", "seed is a number from 0."}
		}
	}
	var out *engine.Rehearsed
	err := edit.ErrNotFound
	s.Engine.Current(func(v *engine.View) {
		if v.Snap.Macros[c.Param("id")] != nil {
			out, err = v.Rehearse(c.Param("id"), seed)
		}
	})
	var cannot *macro.Error
	if errors.As(err, &cannot) {
		return edit.FieldErrors{{Field: "macro", Text: cannot.Text}}
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// RunStarted is a run that was asked for.
type RunStarted struct {
	ID      string `json:"id"`      // of its journal entry
	Refused string `json:"refused"` // why it does not begin; empty: it has
}

// runMacro runs a macro for real, as a key would.
func (s *server) runMacro(c *echo.Context) error {
	if s.Edit.Snapshot().Macros[c.Param("id")] == nil {
		return edit.ErrNotFound
	}
	id, at := journal.NextID(), time.Now()
	s.Journal.Announce(id, at)
	refused := s.Engine.RunMacro(engine.Input{Entry: id, At: at, Via: "macros", Actor: actor(c)}, c.Param("id"))
	return c.JSON(http.StatusAccepted, RunStarted{id, refused})
}

// HaltWhat says what is halted: a macro; empty: all runs.
type HaltWhat struct {
	Macro string `json:"macro,omitempty"`
}

func (s *server) halt(c *echo.Context) error {
	var f HaltWhat
	if err := read(c, &f, true); err != nil {
		return err
	}
	if f.Macro != "" {
		return s.self(c, "halt-macro", map[string]string{"macro": f.Macro})
	}
	return s.self(c, "halt", nil)
}

// self carries out an action of Synaptor itself that no control has asked for.
func (s *server) self(c *echo.Context, action string, params map[string]string) error {
	at := time.Now()
	r, err := s.Edit.Compile(edit.Action{Device: engine.SelfID, Action: action, Params: params})
	if err != nil {
		return err
	}
	id := journal.NextID()
	s.Journal.Announce(id, at)
	s.Engine.Input(engine.Input{Entry: id, At: at, Via: "macros", Actor: actor(c), Try: r})
	return c.JSON(http.StatusAccepted, Created{id})
}

func past(err error) error {
	if engine.ErrPast(err) {
		return edit.FieldErrors{{Field: "entry", Text: "This was more than two minutes ago, or it changed nothing. It cannot be put back any more."}}
	}
	return err
}

func (s *server) planBack(c *echo.Context) error {
	p, err := s.Engine.PutBackPlan(c.Param("entry"))
	if err != nil {
		return past(err)
	}
	return c.JSON(http.StatusOK, p)
}

func (s *server) putBack(c *echo.Context) error {
	id, at := journal.NextID(), time.Now()
	s.Journal.Announce(id, at)
	if err := s.Engine.PutBack(c.Param("entry"), engine.Input{Entry: id, At: at, Via: "put back", Actor: actor(c)}); err != nil {
		return past(err)
	}
	return c.JSON(http.StatusAccepted, Created{id})
}

func (s *server) leave(c *echo.Context) error { return done(c, past(s.Engine.Leave(c.Param("entry")))) }

func (s *server) record(c *echo.Context) error { return done(c, s.Engine.Record(actor(c))) }

// RecordingEnd is what becomes of a recording: a macro of this name; Discard throws it
// away.
type RecordingEnd struct {
	Name    string `json:"name"`
	Discard bool   `json:"discard,omitempty"`
}

func (s *server) recorded(c *echo.Context) error {
	var f RecordingEnd
	if err := read(c, &f, false); err != nil {
		return err
	}
	list, err := s.Engine.Recorded()
	if err != nil || f.Discard {
		return done(c, err)
	}
	return created(c)(s.Edit.MacroFromUse(who(c), cmp.Or(f.Name, "From use"), list))
}
