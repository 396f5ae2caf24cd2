package macro

import (
	"slices"
	"time"

	"synaptor/internal/core/show"
)

// World is what a run asks while it goes on.
type World interface {
	Env
	// Holds reports whether a condition of a show holds now.
	Holds(condition string) bool
	// Turn gives the branch of a turns that comes next, and remembers it. ok is false
	// where it cannot be told which one is in force; the reason says why.
	Turn(n *Node) (branch int, reason string, ok bool)
	// Settled reports whether what the action of a step is computed from is confirmed:
	// a cut that follows "put X on preview" waits until X is there.
	Settled(s *show.Step) bool
	// Chance gives the branch of a one of, by its weights.
	Chance(n *Node) int
}

// Order is something a run has done now: an action, a fade, a put back, or that the
// run of another macro begins within it.
type Order struct {
	Step *show.Step
	Kind string
	// At is when it was to be done; it is exact, however late the run was asked.
	At time.Time
	// Over is how long a fade takes.
	Over time.Duration
	// Group is the together that it is in; empty: none.
	Group string
	// Runs are the runs it is in, from the root, which is 0, to the innermost: every
	// macro that is run within counts as one.
	Runs []int
}

// confirmLimit is how long a step waits for the confirmation of what it is computed
// from.
//
//limit:count wait of a step for the value that it is computed from | in the trace
const confirmLimit = 2 * time.Second

// How a run has ended.
const (
	Going  = ""       // it has not
	Ended  = "ended"  // all its steps were dispatched
	Halted = "halted" // somebody halted it
	Failed = "failed" // Reason says why
)

// Runner walks a tree against a clock that is given with every call: the live one
// of the engine, or the virtual one of a rehearsal. All its times are absolute to
// its start, so errors of the clock do not add up.
type Runner struct {
	world   World
	frames  []frame
	pending []Order   // of a together, that are due later, in order
	at      time.Time // when the next step is due
	ready   *Node     // the next step
	waiting *Node     // the wait for that it is in, or the action that waits for a confirmation
	until   time.Time // when that is given up
	runs    int       // begun within
	state   string
	// Reason says why a run has failed.
	Reason string
}

// frame is a list of steps that is being walked.
type frame struct {
	steps []*Node
	next  int
	gap   time.Duration // between its steps
	again int           // how often it is still repeated
	runs  []int         // as in Order
}

// Start begins a run.
func Start(t *Tree, w World, at time.Time) *Runner {
	return &Runner{world: w, at: at, frames: []frame{{steps: t.Steps, gap: spacing(t), runs: []int{0}}}}
}

// State tells how the run has ended, or Going.
func (r *Runner) State() string { return r.state }

// Halt ends the run; nothing more is dispatched.
func (r *Runner) Halt() {
	if r.state == Going {
		r.state, r.pending, r.frames = Halted, nil, nil
	}
}

// Fail ends the run because something went wrong; nothing more is dispatched.
func (r *Runner) Fail(reason string) {
	if r.state == Going {
		r.fail(reason)
	}
}

// Waiting gives the step that waits for something to come about, or nil.
func (r *Runner) Waiting() *show.Step {
	if r.state != Going || r.waiting == nil || len(r.pending) > 0 {
		return nil
	}
	return r.waiting.Step
}

// Next is when Due has to be asked again; ok is false when the run has ended. A wait
// for something has to be asked whenever a reading changes, too.
func (r *Runner) Next() (at time.Time, ok bool) {
	switch {
	case r.state != Going:
		return at, false
	case len(r.pending) > 0:
		return r.pending[0].At, true
	case r.waiting != nil:
		return r.until, true
	}
	return r.at, true
}

// Due gives the next orders that are to be done by now; none means that nothing is due
// yet. It is asked again until there are none, because what one order brings about can
// decide on the next.
func (r *Runner) Due(now time.Time) (out []Order) {
	for r.state == Going && len(out) == 0 {
		if len(r.pending) > 0 {
			if r.pending[0].At.After(now) {
				return out
			}
			out = append(out, r.pending[0])
			r.pending = r.pending[1:]
			return out
		}
		if r.waiting != nil && !r.waited(now) {
			return out
		}
		if r.state != Going || r.at.After(now) {
			return out
		}
		if r.ready == nil {
			if r.ready = r.step(); r.ready == nil {
				r.state = Ended
				return out
			}
			continue // the spacing before it may not have passed yet
		}
		n := r.ready
		r.ready = nil
		out = append(out, r.do(n)...)
	}
	return out
}

// waited looks whether what is waited for has come.
func (r *Runner) waited(now time.Time) bool {
	n := r.waiting
	holds := n.Kind == Do && r.world.Settled(n.Step) || n.Kind == WaitFor && r.world.Holds(n.When)
	switch {
	case holds:
		// From here on, time counts from now: nobody knew when this would be.
		if now.After(r.at) {
			r.at = now
		}
		if n.Kind == Do {
			r.ready = n
		}
	case now.Before(r.until):
		return false
	case n.Kind == Do:
		r.fail("What this step is computed from was not confirmed within " + confirmLimit.String() + ".")
	case n.Else == "go-on":
		r.at = r.until
	default:
		r.fail("What it waits for has not come within " + (time.Duration(n.LimitMs) * time.Millisecond).String() + ".")
	}
	r.waiting = nil
	return true
}

func (r *Runner) fail(reason string) { r.state, r.Reason, r.pending = Failed, reason, nil }

// step takes the next step, after the spacing before it; nil is the end.
func (r *Runner) step() *Node {
	for len(r.frames) > 0 {
		f := &r.frames[len(r.frames)-1]
		first := f.next == 0
		if f.next == len(f.steps) && f.again > 0 {
			f.again--
			f.next = 0
		}
		if f.next < len(f.steps) {
			if !first {
				r.at = r.at.Add(f.gap)
			}
			f.next++
			return f.steps[f.next-1]
		}
		r.frames = r.frames[:len(r.frames)-1]
	}
	return nil
}

// do carries a step out, as far as the runner does.
func (r *Runner) do(n *Node) []Order {
	top, runs := r.frames[len(r.frames)-1].gap, r.frames[len(r.frames)-1].runs
	enter := func(steps []*Node, gap time.Duration, again int) {
		r.frames = append(r.frames, frame{steps: steps, gap: gap, again: again, runs: runs})
	}
	switch n.Kind {
	case Do:
		if !r.world.Settled(n.Step) {
			r.waiting, r.until = n, r.at.Add(confirmLimit)
			return nil
		}
		return r.then(n, Order{Step: n.Step, Kind: n.Kind, At: r.at, Runs: runs})
	case PutBack:
		return []Order{{Step: n.Step, Kind: n.Kind, At: r.at, Runs: runs}}
	case Fade:
		return r.then(n, Order{Step: n.Step, Kind: Fade, At: r.at, Over: Duration(n.Step, r.world.FrameRate()), Runs: runs})
	case Wait:
		r.at = r.at.Add(Duration(n.Step, r.world.FrameRate()))
	case WaitFor:
		r.waiting, r.until = n, r.at.Add(time.Duration(n.LimitMs)*time.Millisecond)
	case Together:
		r.together(n, runs)
	case Repeat:
		enter(n.Children, top, n.Count-1)
	case Run:
		r.runs++
		runs = append(slices.Clip(runs), r.runs)
		enter(n.Nested.Steps, spacing(n.Nested), 0)
		return []Order{{Step: n.Step, Kind: Run, At: r.at, Runs: runs}}
	case If:
		for _, b := range n.Children {
			if b.When == "" || r.world.Holds(b.When) {
				enter(b.Children, top, 0)
				break
			}
		}
	case Turns:
		i, reason, ok := r.world.Turn(n)
		if !ok {
			r.fail(reason)
		} else if i < len(n.Children) {
			enter(n.Children[i].Children, top, 0)
		}
	case OneOf:
		if i := r.world.Chance(n); i < len(n.Children) {
			enter(n.Children[i].Children, top, 0)
		}
	}
	return nil
}

// then gives an order, and leaves the rest after it.
func (r *Runner) then(n *Node, o Order) []Order {
	r.at = r.at.Add(rest(n, r.world))
	return []Order{o}
}

// together schedules its children so that their effects start at the same moment.
func (r *Runner) together(n *Node, runs []int) {
	offsets := offsets(n, r.world)
	last := r.at
	for i, c := range n.Children {
		o := Order{Step: c.Step, Kind: c.Kind, At: r.at.Add(offsets[i]), Group: n.ID, Runs: runs}
		if c.Kind == Fade {
			o.Over = Duration(c.Step, r.world.FrameRate())
		}
		if end := o.At.Add(rest(c, r.world)); end.After(last) {
			last = end
		}
		r.pending = append(r.pending, o)
	}
	slices.SortStableFunc(r.pending, func(a, b Order) int { return a.At.Compare(b.At) })
	r.at = last
}

// offsets says how much later than the slowest child of a together each is
// dispatched.
func offsets(n *Node, env Env) []time.Duration {
	out := make([]time.Duration, len(n.Children))
	var slowest time.Duration
	for i, c := range n.Children {
		t, _ := env.Timing(c.Step)
		out[i] = t.Median
		slowest = max(slowest, t.Median)
	}
	for i := range out {
		out[i] = slowest - out[i]
	}
	return out
}
