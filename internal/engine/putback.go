package engine

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// pastKept is how long a press or a run can be put back.
const RestorableFor = 2 * time.Minute

// maxPast bounds how many presses and runs can be put back.
//
//limit:count presses and runs that can be put back | nowhere; the oldest cannot any more
const maxRestorable = 500

// restorable is a press or a run that can be put back.
type restorable struct {
	entry string
	at    time.Time
	title string            // of a run
	resp  *program.Response // of a press
	macro string            // empty: it was a press
	bases macro.Baselines
	// left says that it was cut off and is offered until somebody decides.
	left string
	// stays says that it can be put back however long ago it was.
	stays bool
}

// titleOf is what a press or a run is called. It is worked out when somebody asks, and not
// on the way of a press.
func (e *Engine) titleOf(p *restorable) string {
	if p.resp != nil {
		return e.title(p.resp)
	}
	return p.title
}

// keepRestorable remembers what can be put back, and now and then forgets what is too old.
func (e *Engine) keepRestorable(p *restorable) {
	if len(e.restorables) >= 2*maxRestorable {
		old := time.Now().Add(-RestorableFor)
		kept := make([]*restorable, 0, 2*maxRestorable)
		for i, o := range e.restorables {
			if o.left != "" || o.stays || i >= maxRestorable && o.at.After(old) {
				kept = append(kept, o)
			}
		}
		e.restorables = kept
	}
	e.restorables = append(e.restorables, p)
}

// find gives readings as a run that begins finds them: as they will be once what a put back keeps for their devices,
// and what is on its way, has come; and as they were before another run has changed them. within is the run that it
// begins in, or nil.
func (e *Engine) find(keys []reading.Key, within *run) func(reading.Key) reading.Reading {
	for _, k := range keys {
		e.sendBefore(k.Device)
	}
	return e.original(within)
}

// original gives readings as they were before any run that goes on has changed them, but for one: what
// that has made of them itself is what a run within it finds.
func (e *Engine) original(but *run) func(reading.Key) reading.Reading {
	return func(k reading.Key) reading.Reading {
		now := e.table.Reading(k)
		for _, r := range e.runs {
			if r == but || r.State != macro.Going || r.bases[0] == nil {
				continue
			}
			if was, ok := r.bases[0].Original(k, now); ok {
				return was
			}
		}
		return e.ahead().Reading(k)
	}
}

// ReturnRow is a reading that returns, in words.
type ReturnRow struct {
	Title string `json:"title"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// LeftRow is a reading that stays, and why.
type LeftRow struct {
	Title string `json:"title"`
	Why   string `json:"why"`
}

// PutBackPlan is what a put back would do now.
type PutBackPlan struct {
	Entry   string      `json:"entry"`
	Title   string      `json:"title"`
	Returns []ReturnRow `json:"returns"`
	Left    []LeftRow   `json:"left"`
}

// errPast says that something cannot be put back any more.
var errNotRestorable = errors.New("this was more than two minutes ago, or it changed nothing, and cannot be put back")

// errInside says that what was asked for failed inside of the engine.
var errInside = errors.New("something went wrong inside Synaptor; it was noted")

var errEnding = errors.New("the engine is ending")

// NotRestorable reports whether an error says that it is too late for a put back.
func NotRestorable(err error) bool { return errors.Is(err, errNotRestorable) }

// PutBackPlan lists what putting a press or a run back would return to what. It fails
// when that is too long ago.
func (e *Engine) PutBackPlan(entry string) (p PutBackPlan, err error) {
	err = e.call(func() error {
		it := e.restorableOf(entry)
		if it == nil {
			return errNotRestorable
		}
		p = e.planBack(it)
		return nil
	})
	return p, err
}

// PutBack puts a press or a run back, as an input of its own with its own entry.
func (e *Engine) PutBack(entry string, in Input) error {
	return e.call(func() error {
		it := e.restorableOf(entry)
		if it == nil {
			return errNotRestorable
		}
		e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput, Text: "Put back " + e.titleOf(it), Cause: entry,
			Origin: &journal.Origin{ControllerName: "Put back", Gesture: "put back", Via: in.Via, Actor: in.Actor}})
		e.putBackFor(it, in)
		return nil
	})
}

// Leave gives up what a run that was cut off has left behind.
func (e *Engine) Leave(entry string) error {
	return e.call(func() error {
		if e.restorableOf(entry) == nil {
			return errNotRestorable
		}
		e.dismissOffer(entry)
		return nil
	})
}

func (e *Engine) restorableOf(entry string) *restorable {
	for _, p := range e.restorables {
		if p.entry == entry && (p.left != "" || p.stays || time.Since(p.at) < RestorableFor || e.runs != nil && slices.ContainsFunc(e.runs, func(r *run) bool { return r.ID == entry })) {
			return p
		}
	}
	return nil
}

func (e *Engine) canSet(k reading.Key) bool {
	_, ok := e.program.Setter(k, nil, e.table)
	return ok
}

func (e *Engine) planBack(it *restorable) PutBackPlan {
	p := PutBackPlan{Entry: it.entry, Title: e.titleOf(it), Returns: []ReturnRow{}, Left: []LeftRow{}}
	back, left := it.bases.Back(0, e.table.Reading, e.canSet, e.movedBy(it.bases, 0))
	w := e.table
	for _, b := range back {
		p.Returns = append(p.Returns, ReturnRow{e.program.Called(b.Key, w), e.program.Word(b.Key, b.From, w), e.program.Word(b.Key, b.To, w)})
	}
	for _, l := range left {
		p.Left = append(p.Left, LeftRow{e.program.Called(l.Key, w), l.Why})
	}
	return p
}

// putBackFor puts back for an input that asks for it.
func (e *Engine) putBackFor(it *restorable, in Input) {
	n := e.putBack(it.bases, []int{0}, nil, -1, in)
	e.withdrawOffer(it)
	e.publishLeftOver()
	if n == 0 {
		e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: "There was nothing to put back", Outcome: journal.Sent})
	}
}

// putBack restores what a run, or one within it, has changed: as a together, so that
// all of it returns at the same moment. r is the run and at its step, nil and -1 where
// an input asks for it. It returns how many readings return.
func (e *Engine) putBack(bases macro.Baselines, runs []int, r *run, at int, in Input) int {
	w, now := e.table, time.Now()
	run := runs[len(runs)-1]
	if b := bases[run]; b != nil {
		for _, k := range b.Changed() {
			e.sendBefore(k.Device) // of a put back before this one
		}
	}
	back, left := bases.Back(run, e.table.Reading, e.canSet, e.movedBy(bases, run))
	f := e.factsOf(nil)
	type send struct {
		resp  *program.Response
		title string
		lag   time.Duration
	}
	var sends []send
	var slowest time.Duration
	for _, b := range back {
		title := fmt.Sprintf("Put back %s to %s", e.program.Called(b.Key, w), e.program.Word(b.Key, b.To, w))
		resp, ok := e.program.Setter(b.Key, b.To, w)
		if !ok {
			left = append(left, macro.Left{Key: b.Key, Why: macro.NoSetter})
			continue
		}
		lag, _ := f.Latency(e.program.Devices[resp.Device], resp.Call.Action)
		sends = append(sends, send{resp, title, lag})
		slowest = max(slowest, lag)
	}
	for _, l := range left {
		text := fmt.Sprintf("%s was left as it is: %s.", e.program.Called(l.Key, w), l.Why)
		e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: text})
		if r != nil {
			r.Left, r.dirty = append(r.Left, text), true
		}
	}
	group := &returning{entry: in.Entry, left: len(sends), outcome: journal.Sent}
	for _, s := range sends {
		by := cause{runs: runs, bases: bases, title: s.title, returns: true}
		if r == nil {
			by.back = group
		}
		if at >= 0 {
			by.run, by.step = r, at
		}
		do := func() { e.sendReturn(by, r, in, s.resp) }
		if wait := slowest - s.lag; wait > 0 {
			e.delayed = append(e.delayed, delayedSend{now.Add(wait), r, s.resp.Device, do})
			e.armStep(now.Add(wait))
			continue
		}
		do()
	}
	return len(sends)
}

// returning is a put back that somebody has asked for: it ends with its last command.
type returning struct {
	entry   string
	left    int // commands that have not ended
	outcome journal.Outcome
	reason  string
}

// returned takes in how a part of a put back has ended. All of it is confirmed when each part is; else it
// says what went wrong first.
func (e *Engine) returned(b *returning, outcome journal.Outcome, reason, title string, at time.Time) {
	b.left--
	switch {
	case b.reason != "":
	case outcome == journal.Confirmed || outcome == journal.Overtaken:
		b.outcome = journal.Confirmed
	case outcome != journal.Sent:
		b.outcome, b.reason = outcome, title+": "+reason
	}
	if b.left == 0 {
		e.log(journal.Event{Entry: b.entry, At: at, Outcome: b.outcome, Reason: b.reason})
	}
}

// sendReturn sends what lets one reading return.
func (e *Engine) sendReturn(by cause, r *run, in Input, resp *program.Response) {
	failed := func(reason string) {
		e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: by.title + ": " + reason, Reason: reason})
		if r != nil {
			r.Left, r.dirty = append(r.Left, by.title+": "+reason), true
		}
		if by.back != nil {
			e.returned(by.back, journal.Failed, reason, by.title, time.Now())
		}
	}
	if r != nil {
		if held := e.heldBySafe(r.in, r.began, resp); held != "" {
			failed(held)
			return
		}
	}
	if reason := e.refusal(in, "", resp); reason != "" {
		failed(reason)
		return
	}
	if resp.Device == program.SelfID {
		if err := e.returnOwn(by, in, resp); err != nil {
			failed("This cannot be done: " + err.Error() + ".")
		}
		return
	}
	cmd, err := e.dispatch(in, by, resp)
	if err != nil {
		failed(err.Error())
		return
	}
	e.logDispatch(cmd, resp)
}
