package engine

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
)

// pastKept is how long a press or a run can be put back.
const pastKept = 2 * time.Minute

// maxPast bounds how many presses and runs can be put back.
const maxPast = 500

// past is a press or a run that can be put back.
type past struct {
	entry string
	at    time.Time
	title string    // of a run
	resp  *Response // of a press
	macro string    // empty: it was a press
	bases macro.Baselines
	// left says that it was cut off and is offered until somebody decides.
	left string
}

// named is what a press or a run is called. It is worked out when somebody asks, and not
// on the way of a press.
func (e *Engine) named(p *past) string {
	if p.resp != nil {
		return e.title(p.resp)
	}
	return p.title
}

// keepPast remembers what can be put back, and now and then forgets what is too old.
func (e *Engine) keepPast(p *past) {
	if len(e.past) >= 2*maxPast {
		old := time.Now().Add(-pastKept)
		kept := make([]*past, 0, 2*maxPast)
		for i, o := range e.past {
			if o.left != "" || i >= maxPast && o.at.After(old) {
				kept = append(kept, o)
			}
		}
		e.past = kept
	}
	e.past = append(e.past, p)
}

// original is a reading as it was before any run that goes on has changed it.
func (e *Engine) original(k reading.Key) reading.Reading {
	now := e.table.Get(k)
	for _, r := range e.runs {
		if r.State != macro.Going {
			continue
		}
		if b := r.bases[0]; b != nil {
			if was, ok := b.Original(k, now); ok {
				return was
			}
		}
	}
	return now
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
var errPast = errors.New("this was more than two minutes ago, or it changed nothing, and cannot be put back")

var errEnding = errors.New("the engine is ending")

// ErrPast reports whether an error says that it is too late for a put back.
func ErrPast(err error) bool { return errors.Is(err, errPast) }

// PutBackPlan lists what putting a press or a run back would return to what. It fails
// when that is too long ago.
func (e *Engine) PutBackPlan(entry string) (p PutBackPlan, err error) {
	err = e.ask(func() error {
		it := e.pastOf(entry)
		if it == nil {
			return errPast
		}
		p = e.planBack(it)
		return nil
	})
	return p, err
}

// PutBack puts a press or a run back, as an input of its own with its own entry.
func (e *Engine) PutBack(entry string, in Input) error {
	return e.ask(func() error {
		it := e.pastOf(entry)
		if it == nil {
			return errPast
		}
		e.record(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput, Text: "Put back " + e.named(it),
			Origin: &journal.Origin{ControllerName: "Put back", Gesture: "put back", Via: in.Via, Actor: in.Actor}})
		e.backTo(it, in)
		return nil
	})
}

// Leave gives up what a run that was cut off has left behind.
func (e *Engine) Leave(entry string) error {
	return e.ask(func() error {
		if e.pastOf(entry) == nil {
			return errPast
		}
		e.decided(entry)
		return nil
	})
}

// ask runs a function in the engine's goroutine and waits for it.
func (e *Engine) ask(f func() error) error {
	done := make(chan error, 1)
	e.post(asked{f, done})
	select {
	case err := <-done:
		return err
	case <-e.quit:
		return errEnding
	}
}

type asked struct {
	do   func() error
	done chan error
}

func (e *Engine) pastOf(entry string) *past {
	for _, p := range e.past {
		if p.entry == entry && (p.left != "" || time.Since(p.at) < pastKept || e.runs != nil && slices.ContainsFunc(e.runs, func(r *run) bool { return r.ID == entry })) {
			return p
		}
	}
	return nil
}

func (e *Engine) canSet(k reading.Key) bool {
	_, ok := e.snap.setter(k, nil, world{e.table}, e.cfg.Drivers)
	return ok
}

func (e *Engine) planBack(it *past) PutBackPlan {
	p := PutBackPlan{Entry: it.entry, Title: e.named(it), Returns: []ReturnRow{}, Left: []LeftRow{}}
	back, left := it.bases.Back(0, e.table.Get, e.canSet)
	w := world{e.table}
	for _, b := range back {
		p.Returns = append(p.Returns, ReturnRow{e.snap.called(b.Key, w), e.snap.word(b.Key, b.From, w), e.snap.word(b.Key, b.To, w)})
	}
	for _, l := range left {
		p.Left = append(p.Left, LeftRow{e.snap.called(l.Key, w), l.Why})
	}
	return p
}

// backTo puts back for an input that asks for it.
func (e *Engine) backTo(it *past, in Input) {
	n := e.putBack(it.bases, []int{0}, nil, -1, in)
	it.left = ""
	e.tellLeft()
	if n == 0 {
		e.record(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: "There was nothing to put back", Outcome: journal.Sent})
	}
}

// putBack restores what a run, or one within it, has changed: as a together, so that
// all of it returns at the same moment. r is the run and at its step, nil and -1 where
// an input asks for it. It returns how many readings return.
func (e *Engine) putBack(bases macro.Baselines, runs []int, r *run, at int, in Input) int {
	w, now := world{e.table}, time.Now()
	back, left := bases.Back(runs[len(runs)-1], e.table.Get, e.canSet)
	f := e.factsOf(nil)
	type send struct {
		resp  *Response
		title string
		lag   time.Duration
	}
	var sends []send
	var slowest time.Duration
	for _, b := range back {
		title := fmt.Sprintf("Put back %s to %s", e.snap.called(b.Key, w), e.snap.word(b.Key, b.To, w))
		resp, ok := e.snap.setter(b.Key, b.To, w, e.cfg.Drivers)
		if !ok {
			left = append(left, macro.Left{Key: b.Key, Why: macro.NoSetter})
			continue
		}
		lag, _ := f.lag(e.snap.Devices[resp.Device], resp.Call.Action)
		sends = append(sends, send{resp, title, lag})
		slowest = max(slowest, lag)
	}
	for _, l := range left {
		text := fmt.Sprintf("%s was left as it is: %s.", e.snap.called(l.Key, w), l.Why)
		e.record(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: text})
		if r != nil {
			r.Left, r.dirty = append(r.Left, text), true
		}
	}
	for _, s := range sends {
		by := cause{runs: runs, bases: bases, title: s.title}
		if at >= 0 {
			by.run, by.step = r, at
		}
		do := func() { e.sendBack(by, r, in, s.resp) }
		if wait := slowest - s.lag; wait > 0 {
			e.later = append(e.later, later{now.Add(wait), r, do})
			e.armStep(now.Add(wait))
			continue
		}
		do()
	}
	return len(sends)
}

// sendBack sends what lets one reading return.
func (e *Engine) sendBack(by cause, r *run, in Input, resp *Response) {
	failed := func(reason string) {
		e.record(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: by.title + ": " + reason, Reason: reason})
		if r != nil {
			r.Left, r.dirty = append(r.Left, by.title+": "+reason), true
		}
	}
	if reason := e.refusal(in, "", resp); reason != "" {
		failed(reason)
		return
	}
	cmd, err := e.dispatch(in, by, resp)
	if err != nil {
		failed(err.Error())
		return
	}
	e.handed(cmd, resp)
}

// later is something that is sent at a time.
type later struct {
	at  time.Time
	run *run
	do  func()
}

func (e *Engine) dueLater(now time.Time) {
	var due []later
	e.later = slices.DeleteFunc(e.later, func(l later) bool {
		if l.at.After(now) {
			e.armStep(l.at)
			return false
		}
		due = append(due, l)
		return true
	})
	slices.SortStableFunc(due, func(a, b later) int { return a.at.Compare(b.at) })
	for _, l := range due {
		l.do()
	}
}

func (e *Engine) laterOf(r *run) bool {
	return slices.ContainsFunc(e.later, func(l later) bool { return l.run == r })
}

// leftOver offers what a run that was cut off has changed and not put back.
func (e *Engine) leftOver(r *run) {
	for _, p := range e.past {
		if p.entry != r.ID {
			continue
		}
		if plan := e.planBack(p); len(plan.Returns) > 0 {
			p.left = r.Reason
			e.tellLeft()
		}
	}
}

// decided takes an offer away.
func (e *Engine) decided(entry string) {
	for _, p := range e.past {
		if p.entry == entry && p.left != "" {
			p.left = ""
			e.tellLeft()
		}
	}
}

// takeUp offers what runs have left behind that went on when Synaptor ended.
func (e *Engine) takeUp(runs []KeptRun) {
	for _, k := range runs {
		e.past = append(e.past, &past{entry: k.Entry, at: k.At, title: k.Title, macro: k.Macro,
			bases: macro.Baselines{0: macro.Restored(k.Changed)}, left: "Synaptor was ended in the middle of it."})
	}
	if len(runs) > 0 {
		e.tellLeft()
	}
}

// keepRun has what a run has changed so far survive a restart; a run that has ended
// normally leaves nothing to decide.
func (e *Engine) keepRun(r *run) {
	k := KeptRun{Entry: r.ID, Title: r.Name, Macro: r.Macro, At: r.began}
	if b := r.bases[0]; b != nil && !r.Ended {
		k.Changed = b.Kept()
	}
	e.stream.push(runKept{k})
}

// LeftOver is what a run that was cut off has left behind, for somebody to decide.
type LeftOver struct {
	Entry  string    `json:"entry"`
	Title  string    `json:"title"`
	At     time.Time `json:"at"`
	Reason string    `json:"reason"`
}

func (e *Engine) tellLeft() {
	rows, kept := []LeftOver{}, []KeptRun{}
	for _, p := range e.past {
		if p.left != "" {
			if b := p.bases[0]; b != nil {
				kept = append(kept, KeptRun{p.entry, e.named(p), p.macro, p.at, b.Kept()})
			}
			rows = append(rows, LeftOver{p.entry, e.named(p), p.at, p.left})
		}
	}
	e.stream.push(leftChanged{rows, kept})
}
