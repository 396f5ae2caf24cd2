package engine

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Macro is a compiled macro.
type Macro struct {
	Source *show.Macro
	Tree   *macro.Tree
	// Err says why it cannot run, as a *macro.Error; Tree is nil where that is so for all
	// of it.
	Err error
	// Actions are the compiled actions of its steps, those of the macros it runs too,
	// by step.
	Actions map[string]*Response
	// Changes are the readings that it can change.
	Changes []reading.Key
	// Devices are those it needs, by id.
	Devices []string
	// Turns is its first turns, nil where it has none: what a key shows of it.
	Turns *macro.Node
	deps  []reading.Key // of the conditions of Turns
}

// compileMacros compiles the macros of a show. Those that did not change, nor what
// they use, are taken over.
func (n *Snapshot) compileMacros(prev *Snapshot, drivers Drivers) {
	n.Macros = map[string]*Macro{}
	same := n.unchanged(prev)
	for _, m := range n.Show.Macros() {
		if same(m.ID) {
			n.Macros[m.ID] = prev.Macros[m.ID]
		} else {
			n.Macros[m.ID] = n.compileMacro(m, drivers)
		}
	}
}

// unchanged tells whether a macro and all that it uses is as it was.
func (n *Snapshot) unchanged(prev *Snapshot) func(id string) bool {
	known := map[string]bool{}
	var same func(id string) bool
	same = func(id string) bool {
		if is, ok := known[id]; ok {
			return is
		}
		known[id] = true // macros that run each other in a circle rest on each other
		is := n.Show.Macro(id) == prev.Show.Macro(id) && slices.Equal(n.Show.StepsOf(id), prev.Show.StepsOf(id))
		for _, s := range n.Show.StepsOf(id) {
			is = is && (s.Action == nil || n.Show.Device(s.Action.Device) == prev.Show.Device(s.Action.Device)) && (s.Run == "" || same(s.Run))
		}
		known[id] = is
		return is
	}
	if prev == nil || prev.Sheets != n.Sheets {
		return func(string) bool { return false }
	}
	return same
}

func (n *Snapshot) compileMacro(m *show.Macro, drivers Drivers) *Macro {
	c := &Macro{Source: m, Actions: map[string]*Response{}}
	if c.Tree, c.Err = macro.Build(n.Show, m.ID); c.Tree == nil {
		return c
	}
	c.Tree.Each(func(s *macro.Node) {
		if s.Kind == macro.Turns && c.Turns == nil {
			c.Turns = s
			for _, b := range s.Children {
				if p, err := expr.Compile(b.When, expr.Scope{}); err == nil && b.When != "" {
					c.deps = append(c.deps, p.Deps...)
				}
			}
		}
		if s.Action == nil || c.Actions[s.ID] != nil {
			return
		}
		if s.Action.IsRun() {
			c.Err = &macro.Error{Step: s.ID, Text: "A macro is run by a run step, so that circles are found."}
		}
		r := n.compileResponse(show.Response{Gesture: "step", Action: *s.Action}, drivers)
		c.Actions[s.ID] = r
		if r.Bound != nil {
			c.Changes = append(c.Changes, r.Bound.Affects()...)
		}
		if r.Device != SelfID && !slices.Contains(c.Devices, r.Device) {
			c.Devices = append(c.Devices, r.Device)
		}
	})
	return c
}

// TheSteps calls f for every step that the macro has, those of the macros it runs
// too, with its compiled action, nil where it has none.
func (m *Macro) TheSteps(f func(*macro.Node, *Response)) {
	if m.Tree != nil {
		m.Tree.Each(func(n *macro.Node) { f(n, m.Actions[n.ID]) })
	}
}

// RunsMacro gives the macro that a response runs, or nil.
func (n *Snapshot) RunsMacro(r *Response) *Macro {
	if r == nil || r.Device != SelfID || r.Bound == nil || r.Call.Action != "run" {
		return nil
	}
	return n.Macros[r.Bound.Params["macro"]]
}

// facts are what plans, rehearsals and findings of a macro rest on: a world, and how
// fast devices answer.
type facts struct {
	device.Known
	snap    *Snapshot
	macro   *Macro
	latency func(device, action string) reading.Stats
	turn    func(step string) string // the branch that a turns took last
	drivers Drivers
	// timed remembers timings while nothing changes; nil where readings do.
	timed map[string]timed
}

// timed is what is known of the action of a step.
type timed struct {
	macro.Timing
	err error
}

// FrameRate implements macro.Env.
func (f facts) FrameRate() float64 { return f.snap.Show.Settings().FrameRate }

// usualLatency is what a device is expected to take that was never heard and of
// which the rigger has said nothing.
const usualLatency = 20 * time.Millisecond

// lag is how long a device takes until an action shows: as measured, else as measured
// for the whole device, else as the rigger has entered it.
func (f facts) lag(d *Device, action string) (median, p95 time.Duration) {
	if d.ID == SelfID {
		return 0, 0
	}
	for _, a := range []string{action, ""} {
		if s := f.latency(d.ID, a); s.Count > 0 {
			return s.Median, s.P95
		}
	}
	l := usualLatency
	if d.LatencyMs > 0 {
		l = time.Duration(d.LatencyMs) * time.Millisecond
	}
	return l, l
}

// Timing implements macro.Env.
func (f facts) Timing(s *show.Step) (macro.Timing, error) {
	if f.timed == nil {
		return f.timing(s)
	}
	known, ok := f.timed[s.ID]
	if !ok {
		known.Timing, known.err = f.timing(s)
		f.timed[s.ID] = known
	}
	return known.Timing, known.err
}

func (f facts) timing(s *show.Step) (t macro.Timing, err error) {
	r := f.macro.Actions[s.ID]
	if r == nil {
		return t, &macro.Error{Step: s.ID, Text: "This step has no action."}
	}
	t.Device, t.Name, t.Title = r.Device, cmp.Or(r.Name, r.Call.DeviceName), r.Call.Action
	if r.Problem != "" {
		return t, &macro.Error{Step: s.ID, Text: r.Problem}
	}
	d := f.snap.Devices[r.Device]
	t.Title = r.Bound.Title.Text(f)
	t.Median, t.P95 = f.lag(d, r.Call.Action)
	for _, e := range r.Bound.Effects(f) {
		t.Own = max(t.Own, e.After)
	}
	t.Uses, t.Sets = r.Bound.Uses(), r.Bound.Affects()
	return t, nil
}

// Effects implements macro.Assumptions.
func (f facts) Effects(s *show.Step, w expr.World) []device.Effect {
	r := f.macro.Actions[s.ID]
	if r == nil || r.Bound == nil {
		return nil
	}
	return r.Bound.Effects(w)
}

// Restore implements macro.Assumptions.
func (f facts) Restore(k reading.Key, v reading.Value) (t macro.Timing, effects []device.Effect, ok bool) {
	r, ok := f.snap.setter(k, v, f, f.drivers)
	if !ok || v == nil {
		return t, nil, ok
	}
	t.Device, t.Name, t.Sets = r.Device, r.Name, r.Bound.Affects()
	t.Median, t.P95 = f.lag(f.snap.Devices[r.Device], r.Call.Action)
	return t, r.Bound.Effects(f), true
}

// Last implements macro.Assumptions.
func (f facts) Last(step string) int {
	at := -1
	f.macro.TheSteps(func(n *macro.Node, _ *Response) {
		if n.ID == step {
			took := f.turn(step)
			at = slices.IndexFunc(n.Children, func(b *macro.Node) bool { return b.ID == took })
		}
	})
	return at
}

// Gone implements macro.Facts.
func (f facts) Gone(s *show.Step) string {
	r := f.macro.Actions[s.ID]
	if r == nil || r.Bound == nil || !r.Bound.Gone(f) {
		return ""
	}
	return fmt.Sprintf("What “%s” is about", r.Bound.Title.Text(f))
}

// IsToggle implements macro.Facts.
func (f facts) IsToggle(s *show.Step) bool {
	r := f.macro.Actions[s.ID]
	return r != nil && r.Bound != nil && len(r.Bound.Action.Instead) > 0
}

// Silent implements macro.Facts.
func (f facts) Silent(s *show.Step) string {
	r := f.macro.Actions[s.ID]
	if r == nil || r.Bound == nil {
		return ""
	}
	t := f.snap.Devices[r.Device].Type
	for _, k := range r.Bound.Affects() {
		if by, ok := t.SilencedBy(k.Path); ok && f.Reading(reading.Key{Device: r.Device, Path: by}).Value == true {
			return t.SourceName(r.Device, k.Path, f)
		}
	}
	return ""
}

// IsPicture implements macro.Facts.
func (f facts) IsPicture(k reading.Key) bool { return f.snap.isPicture(k) }

func (n *Snapshot) isPicture(k reading.Key) bool {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil {
		return false
	}
	def := d.Type.Reading(k.Path)
	return def != nil && (def.Role == "program-picture" || def.Role == "output-picture")
}

// CanSet implements macro.Facts.
func (f facts) CanSet(k reading.Key) bool {
	_, ok := f.snap.setter(k, nil, f, f.drivers)
	return ok
}

// Called implements macro.Facts.
func (f facts) Called(k reading.Key) string { return f.snap.called(k, f) }

func (n *Snapshot) called(k reading.Key, w expr.World) string {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil {
		return k.Path
	}
	return d.Name + ": " + d.Type.TitleOf(k.Device, k.Path, w)
}

// word is a value of a reading as a person knows it.
func (n *Snapshot) word(k reading.Key, v reading.Value, w expr.World) string {
	if d := n.Devices[k.Device]; d != nil && d.Type != nil {
		return d.Type.Word(k, v, w)
	}
	return expr.Text(v)
}

// setter compiles what sets a reading to a value; with nil it only tells whether
// there is anything.
func (n *Snapshot) setter(k reading.Key, v reading.Value, w expr.World, drivers Drivers) (*Response, bool) {
	d := n.Devices[k.Device]
	if d == nil || d.Type == nil || d.ID == SelfID {
		return nil, false
	}
	action, params, ok := d.Type.Setter(d.ID, k.Path, v, w)
	if !ok || v == nil {
		return nil, ok
	}
	r := n.compileResponse(show.Response{Gesture: "put-back", Action: show.Call{Device: d.ID, DeviceName: d.Name, Action: action, Params: params}}, drivers)
	return r, r.Problem == ""
}
