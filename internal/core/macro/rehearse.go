package macro

import (
	"math/rand/v2"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Assumptions are what a rehearsal starts from.
type Assumptions interface {
	Env
	expr.World
	// Effects gives what the action of a step brings about, as things stand in a world.
	Effects(s *show.Step, w expr.World) []device.Effect
	// Refusal says why the action of a step cannot be sent, as things stand in a world; empty: it can.
	Refusal(s *show.Step, w expr.World) string
	// Restore gives what setting a reading to a value takes and brings about, for a put
	// back; ok is false where nothing can set it.
	Restore(k reading.Key, v reading.Value) (t Timing, effects []device.Effect, ok bool)
	// Last is the branch that a turns or a one of took last; -1: none yet.
	Last(step string) int
}

// Change is a reading that changes in a rehearsal, at a time from its start.
type Change struct {
	At    time.Duration
	Key   reading.Key
	Value reading.Value
	Step  string // the step that brought it about
	ramp  bool   // it is the end of something that takes its time
}

// Done is a step that was dispatched in a rehearsal.
type Done struct {
	At    time.Duration
	Step  string
	Kind  string
	Group string
}

// Rehearsal is what a run would do and bring about.
type Rehearsal struct {
	Steps   []Done
	Changes []Change
	Took    map[string]int // the branch that each turns and one of took last
	State   string         // ended or failed
	Reason  string
	Length  time.Duration // until the last effect
}

// maxRehearsed bounds how often a rehearsal looks at its clock.
//
//limit:count looks at the clock of a rehearsal | in the rehearsal
const maxRehearsed = 100_000

// Rehearse runs a macro on a virtual clock against a copy of the readings. The same
// show, assumptions and seed give the same rehearsal.
func Rehearse(t *Tree, a Assumptions, seed uint64) *Rehearsal {
	zero := time.Unix(0, 0)
	r := &rehearsing{Assumptions: a, out: &Rehearsal{Took: map[string]int{}}, now: zero, values: map[reading.Key]reading.Value{}, expected: map[reading.Key]*expected{},
		landed: map[string]time.Duration{}, chance: rand.New(rand.NewPCG(seed, 0)), bases: Baselines{}}
	run := Start(t, r, zero)
	goOn := t.Macro.Partly || t.Macro.OnError == "go-on"
	for range maxRehearsed {
		r.settle()
		for _, o := range run.Due(r.now) {
			if reason := r.order(o, zero); reason != "" && !goOn && run.State() == Going {
				run.Fail(reason)
				r.stopFades()
				if t.Macro.OnError == "put-back" {
					r.putBack(Order{Kind: PutBack, At: r.now, Runs: []int{0}}, r.now.Sub(zero))
				}
				break
			}
		}
		next, going := run.Next()
		if len(r.coming) > 0 && (!going || zero.Add(r.coming[0].At).Before(next)) {
			next, going = zero.Add(r.coming[0].At), true
		}
		if !going {
			break
		}
		if next.After(r.now) {
			r.now = next
		}
	}
	r.out.State, r.out.Reason = run.State(), run.Reason
	r.out.Length = r.now.Sub(zero)
	return r.out
}

// rehearsing is the world of a rehearsal.
type rehearsing struct {
	Assumptions
	out    *Rehearsal
	now    time.Time
	values map[reading.Key]reading.Value
	coming []Change // in order of their times
	// expected has, by reading, what is on its way to it.
	expected map[reading.Key]*expected
	// landed is when the last command to a device had come there: each takes them in their order,
	// however long they take it.
	landed map[string]time.Duration
	chance *rand.Rand
	bases  Baselines
}

// Reading implements expr.World.
func (r *rehearsing) Reading(k reading.Key) reading.Reading {
	if v, changed := r.values[k]; changed {
		return reading.Reading{Value: v, Quality: reading.Confirmed}
	}
	return r.Assumptions.Reading(k)
}

// Event implements expr.Eventful.
func (r *rehearsing) Event() map[string]any { return expr.EventOf(r.Assumptions) }

// settle takes in the changes that have come.
func (r *rehearsing) settle() {
	at := r.now.Sub(time.Unix(0, 0))
	for len(r.coming) > 0 && r.coming[0].At <= at {
		c := r.coming[0]
		r.coming = r.coming[1:]
		r.values[c.Key] = c.Value
		r.out.Changes = append(r.out.Changes, c)
		r.settled(c)
	}
}

// order notes a step and what it will bring about; refusal says why it brings nothing about.
func (r *rehearsing) order(o Order, zero time.Time) (refusal string) {
	at := o.At.Sub(zero)
	r.out.Steps = append(r.out.Steps, Done{at, o.Step.ID, o.Kind, o.Group})
	if o.Kind == PutBack {
		r.putBack(o, at)
		return ""
	}
	if o.Step.Action == nil {
		return ""
	}
	if refusal = r.Refusal(o.Step, ahead{r}); refusal != "" {
		return refusal
	}
	timing, err := r.Timing(o.Step)
	if err != nil {
		return ""
	}
	landed := r.lands(o.Step.Action.Device, at+timing.Median)
	for _, e := range r.Effects(o.Step, ahead{r}) {
		r.bases.Capture(o.Runs, []reading.Key{e.Key}, ahead{r}.Reading)
		r.bases.Gave(o.Runs, e.Key, e.Value, e.Tolerance)
		r.comes(Change{landed + e.After + o.Over, e.Key, e.Value, o.Step.ID, e.Over+o.Over > 0}, landed)
	}
	return ""
}

// stopFades has what takes its time stop where it is, wherever that may be.
func (r *rehearsing) stopFades() {
	r.coming = slices.DeleteFunc(r.coming, func(c Change) bool {
		if c.ramp {
			r.settled(c)
		}
		return c.ramp
	})
}

// settled notes that a change is no longer on its way.
func (r *rehearsing) settled(c Change) {
	if e := r.expected[c.Key]; e.count > 1 {
		e.less(c)
	} else {
		delete(r.expected, c.Key)
	}
}

// lands is when a command comes to a device that would come there at a time by itself.
func (r *rehearsing) lands(dev string, at time.Duration) time.Duration {
	r.landed[dev] = max(r.landed[dev], at)
	return r.landed[dev]
}

// ahead is the world of a rehearsal as it will be once what is on its way has come: commands are worked
// out from it, as those of a run are.
type ahead struct{ *rehearsing }

// Reading implements expr.World.
func (a ahead) Reading(k reading.Key) reading.Reading {
	now := a.rehearsing.Reading(k)
	if e := a.expected[k]; e != nil {
		now.Value = e.last.Value
	}
	return now
}

// putBack lets what a run has changed return, as a together.
func (r *rehearsing) putBack(o Order, at time.Duration) {
	step := ""
	if o.Step != nil {
		step = o.Step.ID
	}
	back, _ := r.bases.Back(o.Runs[len(o.Runs)-1], r.present, func(k reading.Key) bool {
		_, _, ok := r.Restore(k, nil)
		return ok
	}, nil) // what a fade gives is its end here
	var slowest time.Duration
	for _, b := range back {
		t, _, _ := r.Restore(b.Key, b.To)
		slowest = max(slowest, t.Median)
	}
	for _, b := range back {
		_, effects, _ := r.Restore(b.Key, b.To)
		for _, e := range effects {
			r.bases.Gave(o.Runs, e.Key, e.Value, e.Tolerance)
			landed := r.lands(b.Key.Device, at+slowest)
			r.comes(Change{landed + e.After, e.Key, e.Value, step, e.Over > 0}, landed)
		}
	}
}

// present is a reading with what is on its way.
func (r *rehearsing) present(k reading.Key) reading.Reading {
	now := r.Reading(k)
	if e := r.expected[k]; e != nil {
		now.Expected, now.Quality = e.last.Value, reading.Pending
	}
	return now
}

// Settled implements World.
func (r *rehearsing) Settled(s *show.Step) bool {
	t, err := r.Timing(s)
	return err != nil || !slices.ContainsFunc(t.Uses, func(k reading.Key) bool {
		return r.expected[k] != nil
	})
}

// expected is what is on its way to a reading: how many changes, how many of them take their time,
// and the one that comes last.
type expected struct {
	count, ramps int
	last         Change
}

// comes notes a change that comes later, after those that come at the same time. What is on its way to the
// same reading by then, and takes its time, does not come to its end: a reading has one writer.
func (r *rehearsing) comes(c Change, landed time.Duration) {
	e := r.expected[c.Key]
	if e == nil {
		e = &expected{}
		r.expected[c.Key] = e
	}
	if e.ramps > 0 {
		r.coming = slices.DeleteFunc(r.coming, func(o Change) bool {
			taken := o.Key == c.Key && o.ramp && o.At > landed
			if taken {
				e.less(o)
			}
			return taken
		})
		e.last = Change{}
		for _, o := range r.coming {
			if o.Key == c.Key {
				e.last = o // they are in order of their times
			}
		}
	}
	i, _ := slices.BinarySearchFunc(r.coming, c.At, func(o Change, at time.Duration) int {
		if o.At <= at {
			return -1
		}
		return 1
	})
	r.coming = slices.Insert(r.coming, i, c)
	if e.more(c); e.count <= 1 || c.At >= e.last.At {
		e.last = c
	}
}

func (e *expected) more(c Change) { e.add(c, 1) }
func (e *expected) less(c Change) { e.add(c, -1) }

func (e *expected) add(c Change, n int) {
	e.count += n
	if c.ramp {
		e.ramps += n
	}
}

// Holds implements World.
func (r *rehearsing) Holds(source string) bool { return Met(source, r) }

func (r *rehearsing) last(n *Node) int {
	if i, took := r.out.Took[n.ID]; took {
		return i
	}
	return r.Last(n.ID)
}

// Turn implements World.
func (r *rehearsing) Turn(n *Node) (branch int, reason string, ok bool) {
	branch, reason, ok = NextBranch(n, r.last(n), InWorld(r))
	if ok {
		r.out.Took[n.ID] = branch
	}
	return branch, reason, ok
}

// Chance implements World.
func (r *rehearsing) Chance(n *Node) int {
	i := Choose(n, r.last(n), r.chance)
	r.out.Took[n.ID] = i
	return i
}
