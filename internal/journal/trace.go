package journal

import (
	"cmp"
	"fmt"
	"slices"
	"time"
)

// What is kept of a long trace: its first steps and its last ones.
const (
	firstSteps = 40
	lastSteps  = 24
	// keptSkews is how many togethers of a run are kept.
	keptSkews = 24
)

// kept is an entry as it lives: Steps has the first steps of its trace, last the newest
// ones, in the order in which they came.
type kept struct {
	Entry
	last []Step
}

// newKept is an entry of which nothing is known but that it is.
func newKept(id, show string, at time.Time) *kept {
	return &kept{Entry: Entry{ID: id, Show: show, At: at, Outcome: UnderWay, Steps: []Step{}}}
}

// keptOf takes up an entry that was stored.
func keptOf(e Entry) *kept {
	k := &kept{Entry: e}
	at := slices.IndexFunc(e.Steps, func(s Step) bool { return s.Stage == StageLeftOut })
	if at < 0 {
		at = min(len(e.Steps), firstSteps)
		k.last = slices.Clone(e.Steps[at:])
	} else {
		k.last = slices.Clone(e.Steps[at+1:])
	}
	k.Steps = slices.Clone(e.Steps[:at])
	return k
}

// add takes a step into the trace.
func (k *kept) add(s Step) {
	if len(k.Steps) < firstSteps {
		k.Steps = append(k.Steps, s)
		return
	}
	if len(k.last) >= lastSteps {
		k.last = append(k.last[:0], k.last[1:]...)
		k.LeftOut++
	}
	k.last = append(k.last, s)
}

// entry gives the entry as it stands, with its steps in the order of time and, where some
// were left out, a step that says how many.
func (k *kept) entry() Entry {
	e := k.Entry
	e.Steps = make([]Step, 0, len(k.Steps)+1+len(k.last))
	byTime := func(a, b Step) int { return cmp.Compare(a.OffsetUs, b.OffsetUs) }
	e.Steps = append(e.Steps, k.Steps...)
	if k.LeftOut == 0 {
		e.Steps = append(e.Steps, k.last...)
		slices.SortStableFunc(e.Steps, byTime)
		return e
	}
	slices.SortStableFunc(e.Steps, byTime)
	last := slices.Clone(k.last)
	slices.SortStableFunc(last, byTime)
	e.Steps = append(e.Steps, Step{StageLeftOut, last[0].OffsetUs, fmt.Sprintf("%d steps in between are not kept", k.LeftOut)})
	e.Steps = append(e.Steps, last...)
	return e
}

// apply takes an event into the entry. An outcome always is, however long the trace.
func (k *kept) apply(ev Event) {
	if ev.Origin != nil {
		k.Origin, k.At, k.Outcome = *ev.Origin, ev.At, UnderWay
	}
	if ev.Stage != "" {
		k.add(Step{ev.Stage, max(0, ev.At.Sub(k.At).Microseconds()), ev.Text})
	}
	k.Cause = cmp.Or(ev.Cause, k.Cause)
	k.Mapping = cmp.Or(ev.Mapping, k.Mapping)
	k.Title = cmp.Or(ev.Title, k.Title)
	k.Device = cmp.Or(ev.Device, k.Device)
	if ev.Outcome != "" {
		k.Outcome, k.Reason = ev.Outcome, "" // the reason of another outcome is none of this one
	}
	k.Reason = cmp.Or(ev.Reason, k.Reason)
	if ev.Together != nil && len(k.Together) < keptSkews {
		k.Together = append(slices.Clip(k.Together), *ev.Together) // entries that were handed out have what was before
	}
	if ev.Confirms {
		k.LatencyUs = max(1, ev.At.Sub(k.At).Microseconds())
	}
}
