// Package plan works out what macros will do: what a plan, a rehearsal or a finding has
// to know is Facts, over the readings that live, a version of them, or an archive's.
// Rehearse and RehearseAway give a rehearsal in words.
package plan

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Facts are what plans, rehearsals and findings of a macro rest on: a world, and how
// fast devices answer.
type Facts struct {
	device.Known
	Program *program.Program
	Macro   *program.Macro
	Stats   func(device, action string) reading.Stats
	Taken   func(step string) string // the branch that a turns took last
	During  map[string]any           // what the event brings along that a reflex runs it for; nil: there is none

	// known remembers timings while nothing changes; nil where readings do.
	known map[string]*timing
	work  *work // nil: nobody stops it
}

// timing is what is known of the action of a step.
type timing struct {
	macro.Timing
	err error
}

// NewFacts gives facts over readings that do not change. When the context ends they
// answer at once that nobody knows, so whatever works with them ends soon.
func NewFacts(ctx context.Context, p *program.Program, m *program.Macro, readings device.Known, taken func(step string) string,
	stats func(device, action string) reading.Stats) Facts {
	return Facts{Known: readings, Program: p, Macro: m, Taken: taken, Stats: stats, known: map[string]*timing{}, work: &work{ctx: ctx}}
}

// Event implements expr.Eventful.
func (f Facts) Event() map[string]any { return f.During }

// Still gives facts for as long as no reading changes: what is known of each step is remembered.
func (f Facts) Still() Facts {
	f.known = make(map[string]*timing, len(f.Macro.Actions))
	return f
}

// work is what somebody works out. It rests now and then, and ends with its context.
type work struct {
	ctx   context.Context
	count int
	began time.Time // since it rested
}

// How long somebody works before resting, and how long that is. Giving way is not enough:
// as long as anything is ready to run, the scheduler looks for messages from outside only
// now and then, and a press would wait for that.
const (
	workFor   = 500 * time.Microsecond
	restFor   = 500 * time.Microsecond
	lookEvery = 16 // steps, before the clock is looked at
)

// stopped tells whether the work is to end.
func (w *work) stopped() bool {
	if w == nil {
		return false
	}
	if w.count++; w.count%lookEvery != 0 {
		return false
	}
	if now := time.Now(); w.began.IsZero() || now.Sub(w.began) > workFor {
		if !w.began.IsZero() {
			time.Sleep(restFor)
		}
		w.began = time.Now()
	}
	return w.ctx.Err() != nil
}

var errStopped = errors.New("it took too long to be worked out")

// FrameRate implements macro.Env.
func (f Facts) FrameRate() float64 { return f.Program.Show.Settings().FrameRate }

// usualLatency is what a device is expected to take that was never heard and of
// which the rigger has said nothing.
const usualLatency = 20 * time.Millisecond

// Latency is how long a device takes until an action shows: as measured, else as measured
// for the whole device, else as the rigger has entered it.
func (f Facts) Latency(d *program.Device, action string) (median, p95 time.Duration) {
	if d.ID == program.SelfID {
		return 0, 0
	}
	for _, a := range []string{action, ""} {
		if s := f.Stats(d.ID, a); s.Count > 0 {
			return s.Lately, max(s.Lately, s.P95)
		}
	}
	l := usualLatency
	if d.LatencyMs > 0 {
		l = time.Duration(d.LatencyMs) * time.Millisecond
	}
	return l, l
}

// Timing implements macro.Env.
func (f Facts) Timing(s *show.Step) (macro.Timing, error) {
	if f.work.stopped() {
		return macro.Timing{}, errStopped
	}
	if f.known == nil {
		return f.timing(s)
	}
	known := f.known[s.ID]
	if known == nil {
		known = new(timing)
		known.Timing, known.err = f.timing(s)
		f.known[s.ID] = known
	}
	return known.Timing, known.err
}

func (f Facts) timing(s *show.Step) (t macro.Timing, err error) {
	r := f.Macro.Actions[s.ID]
	if r == nil {
		return t, &macro.Error{Step: s.ID, Text: "This step has no action."}
	}
	t.Device, t.Name = r.Device, cmp.Or(r.Name, r.Call.DeviceName)
	if r.Problem != "" {
		return t, &macro.Error{Step: s.ID, Text: r.Problem}
	}
	d := f.Program.Devices[r.Device]
	t.Median, t.P95 = f.Latency(d, r.Call.Action)
	for _, e := range r.Bound.Effects(f) {
		t.Own = max(t.Own, e.After)
	}
	t.Busy = r.Bound.Busy(f)
	t.Uses, t.Sets = r.Bound.Uses(), r.Bound.Affects()
	return t, nil
}

// Effects implements macro.Assumptions.
func (f Facts) Effects(s *show.Step, w expr.World) []device.Effect {
	r := f.Macro.Actions[s.ID]
	if r == nil || r.Bound == nil || f.work.stopped() {
		return nil
	}
	return r.Bound.Effects(w)
}

// Refusal implements macro.Assumptions.
func (f Facts) Refusal(s *show.Step, w expr.World) string {
	r := f.Macro.Actions[s.ID]
	if r == nil || r.Bound == nil {
		return ""
	}
	why := r.Bound.Refusal(w)
	if why != "" {
		why = r.Bound.Title.Text(w) + ": " + why
	}
	return why
}

// Restore implements macro.Assumptions.
func (f Facts) Restore(k reading.Key, v reading.Value) (t macro.Timing, effects []device.Effect, ok bool) {
	r, ok := f.Program.Setter(k, v, f)
	if !ok || v == nil {
		return t, nil, ok
	}
	t.Device, t.Name, t.Sets = r.Device, r.Name, r.Bound.Affects()
	t.Median, t.P95 = f.Latency(f.Program.Devices[r.Device], r.Call.Action)
	return t, r.Bound.Effects(f), true
}

// Last implements macro.Assumptions.
func (f Facts) Last(step string) int {
	at := -1
	f.Macro.EachStep(func(n *macro.Node, _ *program.Response) {
		if n.ID == step {
			took := f.Taken(step)
			at = slices.IndexFunc(n.Children, func(b *macro.Node) bool { return b.ID == took })
		}
	})
	return at
}

// Gone implements macro.Facts.
func (f Facts) Gone(s *show.Step) string {
	r := f.Macro.Actions[s.ID]
	if r == nil || r.Bound == nil || !r.Bound.Gone(f) {
		return ""
	}
	return fmt.Sprintf("What “%s” is about", r.Bound.Title.Text(f))
}

// IsToggle implements macro.Facts.
func (f Facts) IsToggle(s *show.Step) bool {
	r := f.Macro.Actions[s.ID]
	return r != nil && r.Bound != nil && len(r.Bound.Action.Instead) > 0
}

// Silent implements macro.Facts.
func (f Facts) Silent(s *show.Step) string {
	return f.Program.Silent(f.Macro.Actions[s.ID], f)
}

// IsPicture implements macro.Facts.
func (f Facts) IsPicture(k reading.Key) bool { return f.Program.IsPicture(k) }

// CanSet implements macro.Facts.
func (f Facts) CanSet(k reading.Key) bool {
	_, ok := f.Program.Setter(k, nil, f)
	return ok
}

// Called implements macro.Facts.
func (f Facts) Called(k reading.Key) string { return f.Program.Called(k, f) }

// Findings looks the macro of the facts through, the worst first.
func Findings(f Facts) []macro.Finding {
	tree := f.Macro.Tree
	if tree == nil {
		return macro.Find(f.Program.Show, f.Macro.Source.ID, f, 0) // that says why it has none
	}
	return macro.Look(tree, macro.Compile(tree, f), macro.Rehearse(tree, f, 0), f)
}
