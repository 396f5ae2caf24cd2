package engine

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// KeptHold is what reflexes hold a reading at: it survives a restart, so that what was there before still returns.
type KeptHold struct {
	Key reading.Key `json:"key"`
	reflex.Holding
}

// HoldsChanged says what is held.
type HoldsChanged struct{ All []KeptHold }

// keyOf is the reading that a reflex holds; false: none.
func keyOf(r *program.Reflex) (reading.Key, bool) {
	if r.Source.On.Kind != reflex.OnWhile || r.Problem != "" || r.Then.Bound == nil {
		return reading.Key{}, false
	}
	return r.Then.Bound.Affects()[0], true
}

// holds tells whether a reflex holds something.
func (e *Engine) holds(id string) bool {
	for _, h := range e.holdings {
		if h.Holds(id) {
			return true
		}
	}
	return false
}

// holdOf gives how a reflex holds; without any it sets at once.
func holdOf(r *program.Reflex) show.Hold {
	if r.Source.Hold == nil {
		return show.Hold{}
	}
	return *r.Source.Hold
}

// followAll has all reflexes look at their conditions that have to do with a device.
func (e *Engine) followAll(device string) {
	for _, r := range e.program.Reflexes.By[program.What{Kind: reflex.OnWhile}] {
		for _, k := range append(r.Uses(), reading.Key{Device: r.Then.Device}) {
			if k.Device == device {
				e.follow(r)
				break
			}
		}
	}
}

// follow has a reflex begin to hold something while its condition holds, or end it a while after that.
func (e *Engine) follow(r *program.Reflex) {
	k, can := keyOf(r)
	if !can || !e.answers(k.Device) {
		return
	}
	for _, dep := range r.Uses() {
		if !e.answers(dep.Device) {
			return // nobody knows: what is held stays
		}
	}
	st := e.reflexState(r)
	_, met := r.Meets(nil, e.table)
	ok := met == program.IsMet
	switch is := e.holds(r.Source.ID); {
	case ok && e.offBecause(r) == "":
		st.ends = time.Time{}
		if !is {
			e.beginHold(st, k)
		}
	case is && st.ends.IsZero():
		st.ends = time.Now().Add(time.Duration(holdOf(r).AfterMs) * time.Millisecond)
		e.armReflex(st.ends, true)
	}
}

// answers tells whether a device's readings are its own.
func (e *Engine) answers(device string) bool {
	rt := e.devices[device]
	return device == program.SelfID || rt != nil && rt.state.Phase == link.Up
}

// beginHold has a reflex hold its reading.
func (e *Engine) beginHold(st *reflexState, k reading.Key) {
	r, hold := st.of, holdOf(st.of)
	h := happening{occasion{}, r, time.Now(), e.program.SoWords(r, e.table)}
	now := e.ahead().Reading(k).Value
	if now == nil {
		e.holdBack(st, h, "Nobody knows what "+e.program.Called(k, e.table)+" is, so nothing could return to it.")
		return
	}
	in, why := e.openReflex(st, h)
	if why != "" {
		return
	}
	if why := e.refusal(in, "", r.Then); why != "" {
		e.refuse(in, nil, time.Now(), why)
		e.holdBack(st, h, why)
		return
	}
	var at reading.Value
	for _, f := range r.Then.Bound.Effects(e.ahead()) {
		if f.Key == k && hold.By == 0 {
			at = f.Value
		}
	}
	holding := e.holdings[k]
	if holding == nil {
		holding = &reflex.Holding{}
		e.holdings[k] = holding
	}
	to, changes := holding.Begin(r.Source.ID, at, hold.By, now, e.slack(k))
	e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: "The reflex begins to hold " + e.program.Called(k, e.table), Title: e.title(r.Then), Device: r.Then.Name})
	e.bring(in, k, to, changes, hold.OverMs)
	e.stream.push(Judged{At: time.Now(), Reflex: r.Source.ID, Text: h.text, Does: "Holds " + e.program.Called(k, e.table), Entry: in.Entry})
	e.heldChanged(st)
}

// dueHold lets go of what is held by a reflex whose condition has been over for long enough.
func (e *Engine) dueHold(st *reflexState, now time.Time) {
	if st.ends.IsZero() {
		return
	}
	if now.Before(st.ends) {
		e.armReflex(st.ends, true)
		return
	}
	st.ends = time.Time{}
	e.letGo(st.of, "It is not so any more that "+strings.TrimPrefix(e.program.SoWords(st.of, e.table), "It is so that "))
}

// letGo ends what a reflex holds: it returns, unless a hand has moved it meanwhile.
func (e *Engine) letGo(r *program.Reflex, why string) {
	for k, holding := range e.holdings {
		if holding.Holds(r.Source.ID) {
			e.endHold(k, holding, r.Source.ID, r.Source.Name, why, holdOf(r).BackMs)
		}
	}
	if st := e.reflexes[r.Source.ID]; st != nil {
		st.ends = time.Time{}
		e.heldChanged(st)
	}
}

// letGoOfOthers ends what is held by reflexes that are gone, or hold something else by now.
func (e *Engine) letGoOfOthers() {
	for k, holding := range e.holdings {
		if e.program.Devices[k.Device] == nil {
			delete(e.holdings, k)
			continue
		}
		for _, by := range append([]reflex.Hold(nil), holding.By...) {
			r := e.program.Reflex(by.Reflex)
			if r == nil {
				e.endHold(k, holding, by.Reflex, "that is gone", "The reflex is gone", 0)
				continue
			}
			if is, can := keyOf(r); !can || is != k {
				e.letGo(r, "It was changed")
			}
		}
	}
}

// endHold ends what one reflex holds of a reading.
func (e *Engine) endHold(k reading.Key, holding *reflex.Holding, id, name, why string, backMs int) {
	actor := "Reflex " + name
	in := Input{Entry: journal.NextID(), At: time.Now(), Via: "reflex", Actor: actor}
	if r := e.program.Reflex(id); r != nil {
		in.By = r.Source.Owner
	}
	in.led = led{chain: []string{id}}
	e.doing.entry = in.Entry
	e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput, Text: why, Title: "Give back " + e.program.Called(k, e.table),
		Origin: &journal.Origin{ControllerName: "Reflexes", Control: name, Gesture: reflex.OnWhile, Via: "reflex", Actor: actor}})
	now := e.ahead().Reading(k).Value
	to, changes, moved := holding.End(id, now, e.slack(k))
	if len(holding.By) == 0 {
		delete(e.holdings, k)
	}
	e.stream.push(HoldsChanged{e.keptHolds()})
	if moved {
		text := e.program.Called(k, e.table) + " was left as it is: a hand has moved it meanwhile"
		e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: text, Outcome: journal.Confirmed})
		return
	}
	e.bring(in, k, to, changes, backMs)
}

// slack is how far what a device reports of a reading may be from what it was sent.
func (e *Engine) slack(k reading.Key) float64 {
	if d := e.program.Devices[k.Device]; d != nil && d.Type != nil {
		return slackOf(d, k)
	}
	return 0
}

// bring brings a reading to a value over a time, for an entry that ends with it.
func (e *Engine) bring(in Input, k reading.Key, to reading.Value, changes bool, overMs int) {
	if !changes {
		e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: e.program.Called(k, e.table) + " is so already", Outcome: journal.Confirmed})
		return
	}
	if least, has := e.leastOf(k); has {
		if n, is := reading.Number(to); is && n < least {
			to = least
		}
	}
	resp, ok := e.program.Setter(k, to, e.table)
	if !ok {
		e.refuse(in, nil, time.Now(), "Nothing sets "+e.program.Called(k, e.table)+" to "+e.program.Word(k, to, e.table)+".")
		return
	}
	if why := e.refusal(in, "", resp); why != "" {
		e.refuse(in, nil, time.Now(), why)
		return
	}
	was := e.during
	e.during = in.occasion
	defer func() { e.during = was }()
	if why := e.bringOver(in, resp, time.Duration(overMs)*time.Millisecond); why != "" {
		e.refuse(in, nil, time.Now(), why)
	}
}

// leastOf is the least number that a reading can be.
func (e *Engine) leastOf(k reading.Key) (float64, bool) {
	d := e.program.Devices[k.Device]
	if d == nil || d.Type == nil {
		return 0, false
	}
	def := d.Type.Reading(k.Path)
	if def == nil || def.Min == nil {
		return 0, false
	}
	return *def.Min, true
}

// bringOver sends a response at once, or as a fade over a time; why says why not.
func (e *Engine) bringOver(in Input, resp *program.Response, over time.Duration) (why string) {
	if own := resp.Bound.Action.Fade; own != "" && over > 0 {
		resp = e.withParam(resp, own, fmt.Sprint(over.Milliseconds()))
	} else if over > 0 {
		_, why := e.beginFade(&fade{in: in, resp: resp, title: e.title(resp), order: macro.Order{Step: &show.Step{}, Over: over, At: time.Now()}})
		return why
	}
	cmd, err := e.dispatch(in, cause{title: e.title(resp)}, resp)
	if err != nil {
		return fmt.Sprintf("This cannot be sent to %s: %v.", resp.Name, err)
	}
	e.logDispatch(cmd, resp)
	return ""
}

func (e *Engine) heldChanged(st *reflexState) {
	e.stream.push(HoldsChanged{e.keptHolds()})
	e.publishReflex(st)
}

func (e *Engine) keptHolds() []KeptHold {
	out := []KeptHold{}
	for k, h := range e.holdings {
		c := *h
		c.By = append([]reflex.Hold(nil), h.By...)
		out = append(out, KeptHold{k, c})
	}
	return out
}

// haltHolds stops where they are the fades of what is held.
func (e *Engine) haltHolds() (n int) {
	for _, f := range append([]*fade(nil), e.fades...) {
		if f.run == nil {
			e.endFade(f)
			e.log(journal.Event{Entry: f.in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: f.title + " was halted.", Outcome: journal.Halted, Reason: cmp.Or(f.title, "It") + " was halted."})
			n++
		}
	}
	return n
}
