package macro

import (
	"maps"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Timing is what is known of an action of a device before it is sent.
type Timing struct {
	Device string        // id
	Name   string        // of the device
	Median time.Duration // latency: from dispatch to the first report
	P95    time.Duration
	Own    time.Duration // how long its effect takes to settle, such as a transition
	Busy   time.Duration // how long its device is at it, such as a key that is held down
	// Uses are the readings that the action is computed from, as a cut is from what
	// is on preview; Sets are those that it changes.
	Uses, Sets []reading.Key
}

// Env answers what a plan needs to know.
type Env interface {
	// Timing of the action of a step; it fails where it cannot be sent.
	Timing(*show.Step) (Timing, error)
	FrameRate() float64 // of the show, frames per second
}

// Bar is a step in the plan. Its times count from the start of its segment.
type Bar struct {
	Step    string // id
	Kind    string
	Segment int // counts the waits whose end is not known, from 0
	Timing
	Dispatch time.Duration
	Starts   time.Duration // dispatch + latency
	Settles  time.Duration // starts + what the action takes itself
	// Group is the together that the step is in; empty: none.
	Group string
	// Branch is the branch that the step is in; empty: it runs always.
	Branch string
	// Problem says why it cannot be sent; empty: it can.
	Problem string
}

// Group is a together in the plan.
type Group struct {
	Step    string
	Segment int
	Starts  time.Duration // when the effects of its children start
	// Skew is how far apart they may start, predicted: the largest difference
	// between the 95th percentile and the median of a child's latency.
	Skew time.Duration
}

// Pause is a wait in the plan. One whose end nobody knows has its limit as its length,
// and what comes after it is in the next segment.
type Pause struct {
	Step    string
	Segment int
	Branch  string
	At      time.Duration
	Length  time.Duration
	Open    bool
}

// Plan says when every step is dispatched and has its effect.
type Plan struct {
	Bars   []Bar
	Groups []Group
	Pauses []Pause
	// Begins is when each segment begins, where what is waited for comes at once.
	Begins []time.Duration
	// Length is how long the macro takes from its first dispatch until its last
	// effect has settled; Worst is that with every wait at its limit.
	Length, Worst time.Duration
	// Open says that Length does not count the waits whose end is not known.
	Open bool
}

// Compile makes the plan of a tree. A step that cannot be sent is in the plan with
// its problem.
func Compile(t *Tree, env Env) *Plan {
	steps := 0
	t.Each(func(*Node) { steps++ })
	p := &planner{env: env, plan: &Plan{Bars: make([]Bar, 0, steps), Begins: []time.Duration{0}}, segments: new(int), set: map[reading.Key]time.Duration{}}
	p.steps(t.Steps, "", spacing(t))
	p.plan.Length = p.elapsed()
	p.plan.Worst = p.plan.Length + p.limits
	return p.plan
}

func spacing(t *Tree) time.Duration { return time.Duration(t.Macro.SpacingMs) * time.Millisecond }

// rest is how long nothing follows a step besides the spacing: while its device is at it, and the gap after it. A device is at it from when it has the
// command, which may take as long as its confirmations do; what follows may be there sooner.
func rest(n *Node, env Env) time.Duration {
	t, _ := env.Timing(n.Step)
	if t.Busy > 0 {
		t.Busy += t.P95
	}
	return t.Busy + time.Duration(n.GapMs)*time.Millisecond
}

// planner walks a tree with a clock.
type planner struct {
	env  Env
	plan *Plan
	// segments counts them over all branches.
	segments *int
	segment  int
	now      time.Duration // in the segment: when the next step is dispatched
	last     time.Duration // in the segment: when everything so far has settled
	before   time.Duration // the segments before
	limits   time.Duration // of all waits whose end is not known
	// set has when the readings that were set in the segment are so.
	set map[reading.Key]time.Duration
}

// steps plans steps one after the other.
func (p *planner) steps(list []*Node, branch string, spacing time.Duration) {
	for i, n := range list {
		if i > 0 {
			p.now += spacing
		}
		p.step(n, branch, spacing)
	}
}

func (p *planner) step(n *Node, branch string, gap time.Duration) {
	switch n.Kind {
	case Do:
		p.confirmed(n)
		p.bar(n, branch, "", p.now)
		p.now += rest(n, p.env)
	case Fade:
		p.bar(n, branch, "", p.now)
		p.now += rest(n, p.env)
	case Wait:
		length := Duration(n.Step, p.env.FrameRate())
		p.plan.Pauses = append(p.plan.Pauses, Pause{Step: n.ID, Segment: p.segment, Branch: branch, At: p.now, Length: length})
		p.now += length
	case WaitFor:
		p.plan.Pauses = append(p.plan.Pauses, Pause{Step: n.ID, Segment: p.segment, Branch: branch, At: p.now, Length: time.Duration(n.LimitMs) * time.Millisecond, Open: true})
		p.plan.Open = true
		p.before = p.elapsed()
		p.limits += time.Duration(n.LimitMs) * time.Millisecond
		p.open()
	case Together:
		p.together(n, branch)
	case If, Turns, OneOf:
		p.branches(n, gap)
	case Repeat:
		for i := range n.Count {
			if i > 0 {
				p.now += gap
			}
			p.steps(n.Children, branch, gap)
		}
	case Run:
		p.steps(n.Nested.Steps, branch, spacing(n.Nested))
	case PutBack:
		p.plan.Bars = append(p.plan.Bars, Bar{Step: n.ID, Kind: n.Kind, Segment: p.segment, Branch: branch, Dispatch: p.now, Starts: p.now, Settles: p.now})
	}
}

// confirmed has a step wait until what it is computed from is confirmed, where a
// step before has set that.
func (p *planner) confirmed(n *Node) {
	t, err := p.env.Timing(n.Step)
	if err != nil {
		return
	}
	for _, k := range t.Uses {
		p.now = max(p.now, p.set[k])
	}
}

// bar adds a step that is dispatched at a time.
func (p *planner) bar(n *Node, branch, group string, at time.Duration) {
	b := Bar{Step: n.ID, Kind: n.Kind, Segment: p.segment, Branch: branch, Group: group, Dispatch: at}
	timing, err := p.env.Timing(n.Step)
	if err != nil {
		b.Problem = err.Error()
	}
	b.Timing = timing
	if n.Kind == Fade {
		b.Own += Duration(n.Step, p.env.FrameRate())
	}
	b.Starts = at + timing.Median
	b.Settles = b.Starts + b.Own
	p.last = max(p.last, b.Settles)
	for _, k := range timing.Sets {
		p.set[k] = b.Starts
	}
	p.plan.Bars = append(p.plan.Bars, b)
}

// together dispatches its children so that their effects start at the same moment:
// the slowest first, each other one as much later as it is faster. The next step
// follows the last dispatch.
func (p *planner) together(n *Node, branch string) {
	var starts, skew time.Duration
	at := p.now
	for i, offset := range offsets(n, p.env) {
		p.bar(n.Children[i], branch, n.ID, at+offset)
		b := p.plan.Bars[len(p.plan.Bars)-1]
		starts = max(starts, b.Starts)
		skew = max(skew, b.P95-b.Median)
		p.now = max(p.now, at+offset+rest(n.Children[i], p.env))
	}
	p.plan.Groups = append(p.plan.Groups, Group{Step: n.ID, Segment: p.segment, Starts: starts, Skew: skew})
}

// branches plans every branch from the same moment. What follows comes after the
// longest of them; where one of them waits for something, it is in a segment of its
// own, because nobody can say when that begins.
func (p *planner) branches(n *Node, gap time.Duration) {
	from, after := *p, *p
	after.set = maps.Clone(p.set)
	opened := false
	longest := p.elapsed()
	for _, b := range n.Children {
		q := from
		q.set = maps.Clone(from.set)
		q.steps(b.Children, b.ID, gap)
		opened = opened || q.segment != from.segment
		longest = max(longest, q.elapsed())
		after.now, after.last = max(after.now, q.now), max(after.last, q.last)
		after.limits = max(after.limits, q.limits)
		for k, at := range q.set {
			after.set[k] = max(after.set[k], at)
		}
	}
	*p = after
	if opened {
		p.before = longest
		p.open()
	}
}

// elapsed is the time from the start of the macro until all so far has settled.
func (p *planner) elapsed() time.Duration { return p.before + max(p.now, p.last) }

// open begins a segment, whose beginning nobody knows.
func (p *planner) open() {
	*p.segments++
	p.segment, p.now, p.last = *p.segments, 0, 0
	p.plan.Begins = append(p.plan.Begins, p.before)
	p.set = map[reading.Key]time.Duration{}
}

// Millis is a duration in milliseconds.
func Millis(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
