package engine

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// safety is what Safe has done. An output is safe until a hand changes it: what runs does not.
type safety struct {
	since map[reading.Key]time.Time // by the picture of the output
	// The outputs that could not be made safe by the last press: by name and why, and by name alone.
	failed, missing []string
}

// heldBySafe says why something is held back that was begun at a time, and no hand does now; empty: it is not.
func (e *Engine) heldBySafe(in Input, began time.Time, resp *program.Response) string {
	if len(e.safety.since) == 0 || resp.Bound == nil {
		return ""
	}
	for _, k := range resp.Bound.Affects() {
		if since, safe := e.safety.since[k]; safe && (len(in.chain) > 0 || !began.After(since)) {
			return e.program.Called(k, e.table) + " is at its safe picture, and stays so until a hand changes it."
		}
	}
	return ""
}

// unsafe notes that outputs are no longer at their safe pictures by somebody's doing.
func (e *Engine) unsafe(keys []reading.Key) {
	if len(e.safety.since) == 0 {
		return
	}
	for _, k := range keys {
		delete(e.safety.since, k)
	}
	e.publishSafe(e.reportOwn)
}

// makeSafe puts the safe pictures on all outputs, or on one, so that they land together; what could not take it is said by name. More presses send it again.
func (e *Engine) makeSafe(in Input, only string) (string, error) {
	all := e.program.Safe
	if only != "" {
		all = slices.DeleteFunc(slices.Clone(all), func(p *program.SafePicture) bool { return p.Source.ID != only })
	}
	if len(all) == 0 {
		return "", errors.New("no output has a safe picture yet: Rig says which it is")
	}
	now := time.Now()
	bases := e.safeBases(in.Entry)
	var sends []plan.SafeLanding
	e.safety.failed, e.safety.missing = nil, nil
	for _, l := range plan.RehearseSafe(e.factsOf(nil), all, func(r *program.Response) string { return e.refusal(in, "", r) }) {
		if l.Problem != "" {
			e.safeFailed(in.Entry, l.Of, l.Problem)
			continue
		}
		sends = append(sends, l)
	}
	if len(sends) == 0 {
		e.publishSafe(e.reportOwn)
		return "", errors.New(strings.Join(e.safety.failed, " "))
	}
	group := &returning{entry: in.Entry, left: len(sends), outcome: journal.Sent}
	for _, l := range sends {
		p := l.Of
		e.safety.since[p.Key] = now
		do := func() { e.sendSafe(in, p, group, bases) }
		if l.Wait > 0 {
			e.delayed = append(e.delayed, delayedSend{now.Add(l.Wait), nil, p.Then.Device, do})
			e.armStep(now.Add(l.Wait))
			continue
		}
		do()
	}
	e.publishSafe(e.reportOwn)
	text := fmt.Sprintf("%d of %d outputs are asked for their safe pictures", len(sends), len(all))
	if len(e.safety.failed) > 0 {
		text += ". " + strings.Join(e.safety.failed, " ")
	}
	return text, nil
}

// safeBases are what the outputs showed before the first of several presses.
func (e *Engine) safeBases(entry string) macro.Baselines {
	at := slices.IndexFunc(e.restorables, func(p *restorable) bool { return p.macro == safeMacro && len(e.safety.since) > 0 })
	bases := macro.Baselines{}
	if at >= 0 {
		bases = e.restorables[at].bases
		e.restorables = slices.Delete(e.restorables, at, at+1)
	} else {
		var keys []reading.Key
		for _, p := range e.program.Safe {
			keys = append(keys, p.Key)
		}
		bases.Capture([]int{0}, keys, e.ahead().Reading)
	}
	e.keepRestorable(&restorable{entry: entry, at: time.Now(), title: "Safe", macro: safeMacro, bases: bases, stays: true})
	return bases
}

// safeMacro marks what Safe has changed, among what can be put back.
const safeMacro = "safe"

// safeFailed notes that an output could not be made safe.
func (e *Engine) safeFailed(entry string, p *program.SafePicture, why string) {
	said := e.program.Called(p.Key, e.table) + ": " + strings.TrimSuffix(why, ".") + "."
	e.safety.failed = append(e.safety.failed, said)
	e.safety.missing = append(e.safety.missing, e.program.Title(p.Key, e.table))
	e.log(journal.Event{Entry: entry, At: time.Now(), Stage: journal.StageDecision, Text: said})
}

// notSafe takes in that an output which was asked for its safe picture has not taken it: it is away, has refused it, or has not said that it did.
func (e *Engine) notSafe(entry string, p *program.SafePicture, why string) {
	if _, asked := e.safety.since[p.Key]; !asked {
		return // a hand has changed it meanwhile
	}
	delete(e.safety.since, p.Key)
	e.safeFailed(entry, p, why)
	e.publishSafe(e.reportOwn)
}

// sendSafe sends one safe picture.
func (e *Engine) sendSafe(in Input, p *program.SafePicture, group *returning, bases macro.Baselines) {
	title := e.title(p.Then)
	cmd, err := e.dispatch(in, cause{title: title, back: group, bases: bases, runs: []int{0}, safe: p}, p.Then)
	if err != nil {
		e.notSafe(in.Entry, p, err.Error())
		e.returned(group, journal.Failed, err.Error(), title, time.Now())
		return
	}
	e.logDispatch(cmd, p.Then)
}

// safeBack puts back what Safe has changed, until a hand has changed that.
func (e *Engine) safeBack(in Input) (string, error) {
	for _, p := range slices.Backward(e.restorables) {
		if p.macro == safeMacro {
			clear(e.safety.since)
			e.safety.failed, e.safety.missing = nil, nil
			e.putBackFor(p, in)
			e.restorables = slices.DeleteFunc(e.restorables, func(o *restorable) bool { return o == p })
			e.publishSafe(e.reportOwn)
			return "Put back what was shown before Safe", nil
		}
	}
	return "", errors.New("Safe has changed nothing that could be put back")
}

// publishSafe says what is safe as readings of Synaptor.
func (e *Engine) publishSafe(say func(path string, v any)) {
	n := 0
	for _, p := range e.program.Safe {
		_, safe := e.safety.since[p.Key]
		if safe {
			n++
		}
		say("safe/"+p.Source.ID+"/on", safe)
	}
	say("safe/count", n)
	text := ""
	if n > 0 || len(e.safety.failed) > 0 {
		text = fmt.Sprintf("%d of %d", n, len(e.program.Safe))
	}
	say("safe/text", text)
	say("safe/failed", strings.Join(e.safety.failed, " "))
	say("safe/missing", strings.Join(e.safety.missing, ", "))
}

// Safe asks for the safe pictures without a control: of all outputs, or of one.
type Safe struct {
	Request
	Output string // empty: all
}

func (a Safe) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	e.openOwn(a.Request, "Safe", originOf("Safe", "safe", a.Request))
	in := Input{Entry: a.Entry, At: a.At, Via: a.Via, Actor: a.Actor, By: a.By}
	text, err := e.makeSafe(in, a.Output)
	if err != nil {
		e.refuse(in, nil, time.Now(), "This cannot be done: "+err.Error())
		return
	}
	e.log(journal.Event{Entry: a.Entry, At: time.Now(), Stage: journal.StageDecision, Text: text})
}
