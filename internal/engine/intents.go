package engine

import (
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
)

// Intents take in what is about to be changed, before it is: what was behind a kill would be found by
// nobody. Its methods are called by the engine's goroutine, and must not wait for a disk.
type Intents interface {
	// Will notes a change of a run or a talk, in place of one of the same reading.
	Will(KeptRun)
	// Done takes away what is noted of an entry.
	Done(entry string)
}

// intend notes what a command of a run is about to change.
func (e *Engine) intend(r *run, runs []int, bases macro.Baselines, effects []device.Effect) {
	if e.cfg.Intents == nil {
		return
	}
	for _, f := range effects {
		bases.Capture(runs, []reading.Key{f.Key}, e.original(r))
		e.cfg.Intents.Will(KeptRun{Entry: r.ID, Title: r.Name, Macro: r.Macro, At: r.began, Changed: []macro.Kept{bases[0].KeptAs(f.Key, f.Value, f.Tolerance)}})
	}
}

// fulfilled takes away what was noted of an entry: nothing of it is left to decide.
func (e *Engine) fulfilled(entry string) {
	if e.cfg.Intents != nil {
		e.cfg.Intents.Done(entry)
	}
}

// WithIntents is what lived, with what was about to be changed when Synaptor ended: the record that was
// written first is right where they differ.
func (l LiveState) WithIntents(intents []KeptRun) LiveState {
	runs := []KeptRun{}
	for _, r := range l.Runs {
		noted := slices.ContainsFunc(intents, func(i KeptRun) bool { return i.Entry == r.Entry })
		if noted || r.Reason != "" {
			runs = append(runs, r) // else it has ended since it was stored
		}
	}
	for _, i := range intents {
		at := slices.IndexFunc(runs, func(r KeptRun) bool { return r.Entry == i.Entry })
		if at < 0 {
			runs = append(runs, i)
			continue
		}
		for _, c := range i.Changed {
			changed := slices.DeleteFunc(slices.Clone(runs[at].Changed), func(o macro.Kept) bool { return o.Device == c.Device && o.Path == c.Path })
			runs[at].Changed = append(changed, c)
		}
	}
	l.Runs = runs
	return l
}
