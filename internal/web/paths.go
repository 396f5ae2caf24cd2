package web

import (
	"context"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

// PathDoc is the signal path of a control: what touches it, what that does,
// what is driven and what comes back.
type PathDoc struct {
	Control  string       `json:"control"`
	Page     string       `json:"page"`
	PageName string       `json:"pageName"`
	Gestures []GestureDoc `json:"gestures"`
	Mapping  *MappingDoc  `json:"mapping"` // null: nothing is mapped
	Does     []DoesDoc    `json:"does"`
	Drives   []DrivesDoc  `json:"drives"`
	Readings []BackDoc    `json:"readings"`
	Looks    []LookDoc    `json:"looks"`
	Lamps    []LampDoc    `json:"lamps"`
	// OwnLamps says that they are the mapping's own, and not the action's.
	OwnLamps bool `json:"ownLamps"`
}

// LampDoc is a lamp as it can be edited.
type LampDoc struct {
	show.Lamp
	// Sentences say the condition; null where it says more than sentences can.
	Sentences []expr.Sentence `json:"sentences"`
}

// GestureDoc is a gesture the control can make.
type GestureDoc struct {
	Gesture string `json:"gesture"`
	Mapped  bool   `json:"mapped"`
	// AddedDelayMs is how long the recogniser waits on purpose.
	AddedDelayMs int `json:"addedDelayMs"`
	// UntilRelease says that it fires when the control is let go.
	UntilRelease bool `json:"untilRelease"`
}

// DoesDoc is a response: the action and what it sends.
type DoesDoc struct {
	Gesture    string     `json:"gesture"`
	Device     string     `json:"device"`
	DeviceName string     `json:"deviceName"`
	Title      string     `json:"title"`
	Action     *ActionDoc `json:"action"` // null when it is gone
	Sends      []string   `json:"sends"`  // the messages in words of the protocol
	Problem    string     `json:"problem,omitempty"`
	Macro      *RunsDoc   `json:"macro"` // that it runs; null: it runs none
}

// RunsDoc is the macro that a control runs, in short.
type RunsDoc struct {
	ID       string      `json:"id"`
	Name     string      `json:"name"`
	LengthMs float64     `json:"lengthMs"`
	Open     bool        `json:"open"`
	Problem  string      `json:"problem"`
	Lines    []RunLine   `json:"lines"`
	Branches []RunBranch `json:"branches"` // of its turns, which may have faces of their own
}

// RunLine is a step of a macro in short.
type RunLine struct {
	Title string `json:"title"`
	Kind  string `json:"kind"`
	Role  string `json:"role"`
	Depth int    `json:"depth"`
}

// RunBranch is a branch of turns.
type RunBranch struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// DrivesDoc is a device the control drives.
type DrivesDoc struct {
	Device  string     `json:"device"`
	Name    string     `json:"name"`
	Role    string     `json:"role"`
	Address string     `json:"address"`
	Latency LatencyDoc `json:"latency"`
}

// LatencyDoc are the statistics of one action.
type LatencyDoc = mirror.LatencyRow

// BackDoc is a reading that comes back.
type BackDoc struct {
	Key   string `json:"key"` // device:path, as the live feed names it
	Title string `json:"title"`
}

// LookDoc is how the face looks in a state.
type LookDoc struct {
	ID       string    `json:"id"` // of the state
	State    string    `json:"state"`
	When     string    `json:"when,omitempty"` // the lamp's condition
	Face     face.Face `json:"face"`
	Contrast float64   `json:"contrast"` // WCAG ratio of text on background
}

func (s *server) path(c *echo.Context) error {
	return s.work(c, func(context.Context) error {
		doc := pathDoc(s.Mirror.Current(), c.Param("page"), c.Param("control"))
		if doc == nil {
			return edit.ErrNotFound
		}
		return c.JSON(http.StatusOK, doc)
	})
}

func pathDoc(v *mirror.View, pageID, control string) *PathDoc {
	page := v.Program.Show.Page(pageID)
	if page == nil {
		return nil
	}
	layout := v.Program.Sheets.Controller(page.Layout)
	if layout == nil {
		return nil
	}
	doc := &PathDoc{Page: page.ID, PageName: page.Name, Gestures: []GestureDoc{}, Does: []DoesDoc{}, Drives: []DrivesDoc{}, Readings: []BackDoc{},
		Looks: []LookDoc{}, Lamps: []LampDoc{}}
	m := v.Program.On(page, control)
	for _, ctl := range layout.Controls() {
		if ctl.ID != control {
			continue
		}
		doc.Control = control
		for _, g := range ctl.Gestures {
			row := GestureDoc{Gesture: g}
			if m != nil {
				wait, release := m.AddedDelay(g, ctl.Kind)
				row.Mapped, row.AddedDelayMs, row.UntilRelease = m.Responses[g] != nil, int(wait.Milliseconds()), release
			}
			doc.Gestures = append(doc.Gestures, row)
		}
	}
	if doc.Control == "" {
		return nil
	}
	if m == nil {
		return doc
	}
	doc.Mapping = &MappingDoc{m.Source, v.Program.Show.Rev(m.Source.Ref())}
	for _, r := range m.Source.Responses {
		doc.addResponse(v, r, m.Responses[r.Gesture])
	}
	doc.addLooks(v, m)
	return doc
}

func (doc *PathDoc) addResponse(v *mirror.View, r show.Response, c *program.Response) {
	row := DoesDoc{Gesture: r.Gesture, Device: c.Device, DeviceName: c.Name, Problem: c.Problem, Title: r.Action.Action, Sends: []string{}}
	d := v.Program.Devices[c.Device]
	if d == nil {
		row.DeviceName = r.Action.DeviceName
		doc.Does = append(doc.Does, row)
		return
	}
	if slices.ContainsFunc(doc.Drives, func(o DrivesDoc) bool { return o.Device == d.ID }) {
		doc.addDoes(v, row, r, c, d)
		return
	}
	doc.addDrives(v, d, r.Action.Action)
	doc.addDoes(v, row, r, c, d)
}

// addDrives adds a device that is driven by an action; "" is any.
func (doc *PathDoc) addDrives(v *mirror.View, d *program.Device, action string) {
	if d == nil || slices.ContainsFunc(doc.Drives, func(o DrivesDoc) bool { return o.Device == d.ID }) {
		return
	}
	row := DrivesDoc{Device: d.ID, Name: d.Name, Role: "other", Address: d.Address(), Latency: mirror.NewLatencyRow(v.Latency(d.ID, action))}
	if d.Type != nil {
		row.Role = d.Type.Sheet.Role
	}
	doc.Drives = append(doc.Drives, row)
}

// runsDoc describes a macro in short.
func runsDoc(v *mirror.View, mac *program.Macro) *RunsDoc {
	out := &RunsDoc{ID: mac.Source.ID, Name: mac.Source.Name, Lines: []RunLine{}, Branches: []RunBranch{}}
	if mac.Err != nil {
		out.Problem = mac.Err.Error()
	}
	if plan := v.PlanOf(mac); plan != nil {
		out.LengthMs, out.Open = macro.Millis(plan.Length), plan.Open
	}
	full := &MacroDoc{}
	full.addLines(v, mac, "", 0)
	for _, l := range full.Lines {
		out.Lines = append(out.Lines, RunLine{l.Title, l.Kind, l.Role, l.Depth})
		if mac.Turns != nil && l.Parent == mac.Turns.ID {
			out.Branches = append(out.Branches, RunBranch{l.ID, l.Title})
		}
	}
	return out
}

// addDoes adds what a response does.
func (doc *PathDoc) addDoes(v *mirror.View, row DoesDoc, r show.Response, c *program.Response, d *program.Device) {
	if d.Type != nil {
		row.Action = actionDoc(v, d, r.Action.Action, r.Action.Params)
	}
	if mac := v.Program.RunsMacro(c); mac != nil {
		row.Macro = runsDoc(v, mac)
		for _, id := range mac.Devices {
			doc.addDrives(v, v.Program.Devices[id], "")
		}
		for _, k := range mac.Changes {
			doc.addReading(v, k)
		}
	}
	if c.Bound != nil {
		row.Title = c.Bound.Title.Text(v)
		if msgs, err := c.Bound.Messages(v); err == nil {
			for _, m := range msgs {
				row.Sends = append(row.Sends, m.String())
			}
		}
		for _, k := range c.Bound.Affects() {
			doc.addReading(v, k)
		}
	}
	doc.Does = append(doc.Does, row)
}

func (doc *PathDoc) addReading(v *mirror.View, k reading.Key) {
	for _, b := range doc.Readings {
		if b.Key == k.String() {
			return
		}
	}
	title := k.Path
	if d := v.Program.Devices[k.Device]; d != nil && d.Type != nil {
		title = d.Type.TitleOf(k.Device, k.Path, v)
	}
	doc.Readings = append(doc.Readings, BackDoc{k.String(), title})
}

// addLooks shows the face at rest and in every state its lamps can bring.
func (doc *PathDoc) addLooks(v *mirror.View, m *program.Mapping) {
	for _, st := range m.States() {
		f, _ := v.FaceIn(m, st.ID)
		look := LookDoc{ID: st.ID, State: st.Title, Face: f, Contrast: face.Contrast(f.Background, f.Text)}
		if st.Lamp >= 0 {
			look.When = m.Lamps[st.Lamp].When.Source
		}
		doc.Looks = append(doc.Looks, look)
	}
	for i, l := range m.Lamps {
		for _, k := range l.When.Deps {
			doc.addReading(v, k)
		}
		doc.Lamps = append(doc.Lamps, lampDoc(m, i))
	}
	doc.OwnLamps = m.Source.Lamps != nil
}

// lampDoc describes a lamp as it can be edited: as an expression of a show, and in
// sentences where that is possible.
func lampDoc(m *program.Mapping, i int) LampDoc {
	l := m.Lamps[i]
	out := LampDoc{Lamp: show.Lamp{When: l.When.Absolute(), Role: l.Role}}
	if i < len(m.Source.Lamps) {
		out.Look = m.Source.Lamps[i].Look
	}
	if list, ok := l.When.Sentences(); ok {
		out.Sentences = list
	}
	return out
}
