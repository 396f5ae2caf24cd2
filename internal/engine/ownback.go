package engine

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// changeOwn carries out an action of Synaptor itself, and keeps what it changes for a put back of its press or its run.
func (e *Engine) changeOwn(r *program.Response, by cause, do func() (string, error)) (string, error) {
	effects := r.Bound.Effects(e.ahead())
	if by.run != nil {
		e.intend(by.run, by.runs, by.bases, effects)
	}
	for _, f := range effects {
		by.bases.Capture(by.runs, []reading.Key{f.Key}, e.original(by.run))
	}
	text, err := do()
	if err != nil {
		return text, err
	}
	for _, f := range effects {
		by.bases.Gave(by.runs, f.Key, e.table.Reading(f.Key).Value, f.Tolerance) // it is done already
	}
	return text, nil
}

// returnOwn lets a reading of Synaptor itself return.
func (e *Engine) returnOwn(by cause, in Input, r *program.Response) error {
	text, err := e.changeOwn(r, by, func() (string, error) { return e.carryOutOwn(in, nil, nil, r) })
	if err != nil {
		return err
	}
	now := time.Now()
	e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDispatch, Text: by.title + ": " + text})
	if row := by.run; row != nil && row.Steps[by.step].State == "sent" {
		row.Steps[by.step].State, row.dirty = "done", true
	}
	if by.back != nil {
		e.returned(by.back, journal.Confirmed, "", by.title, now)
	}
	return nil
}

// ownChanges lists what an action of Synaptor itself changes that somebody may be kept from; nil: nothing, all may do it.
func ownChanges(r *program.Response) []reading.Key {
	if all := r.Bound.Affects(); len(all) > 0 {
		return all
	}
	if timer := r.Bound.Params["timer"]; timer != "" {
		return []reading.Key{{Device: program.SelfID, Path: "timer/" + timer + "/seconds"}}
	}
	return nil
}
