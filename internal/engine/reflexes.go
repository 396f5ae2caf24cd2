package engine

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// happening is an event that starts a reflex, or may.
type happening struct {
	reflex *program.Reflex
	at     time.Time
	text   string         // in words
	fields map[string]any // event.*
	chain  []string       // the reflexes that have led to it, the first one first
}

// reflexState is what lives of a reflex.
type reflexState struct {
	of      *program.Reflex
	watch   reflex.Watch
	gate    reflex.Gate[happening]
	breaker reflex.Breaker
	row     ReflexChanged
}

// ReflexChanged says how a reflex stands.
type ReflexChanged struct {
	ID string `json:"id"`
	// Last is when it fired last, Count how often since Synaptor has started.
	Last  time.Time `json:"last"`
	Count int       `json:"count"`
	// Held is why it did not fire when its event came last, and HeldAt when that was; empty: it has fired since.
	Held   string    `json:"held,omitempty"`
	HeldAt time.Time `json:"heldAt"`
	// Waiting is how many events wait for their time.
	Waiting int `json:"waiting,omitempty"`
	// Broken is why it was switched off by itself; empty: it was not.
	Broken string `json:"broken,omitempty"`
	// Problem is why it can never fire.
	Problem string `json:"problem,omitempty"`
}

// maxHappenings is how many events may wait for reflexes.
//
//limit:count events that wait for reflexes | those beyond are dropped, and noted
const maxHappenings = 10_000

// reflexState is what lives of a reflex; what is another one by an edit begins anew, and is mended.
func (e *Engine) reflexState(r *program.Reflex) *reflexState {
	st := e.reflexes[r.Source.ID]
	if st == nil || st.of.Source != r.Source {
		row := ReflexChanged{ID: r.Source.ID}
		if st != nil {
			row.Last, row.Count = st.row.Last, st.row.Count
		}
		st = &reflexState{watch: r.Watch(), gate: reflex.Gate[happening]{Every: time.Duration(r.Source.EveryMs) * time.Millisecond, Beyond: r.Source.Beyond, Length: r.Source.Length}, row: row}
		e.reflexes[r.Source.ID] = st
	}
	st.of = r
	return st
}

// settleReflexes follows a new show.
func (e *Engine) settleReflexes() {
	for id := range e.reflexes {
		if e.program.Show.Reflex(id) == nil {
			delete(e.reflexes, id)
			e.stream.push(ReflexGone{id})
		}
	}
	for _, r := range e.program.Reflexes.All {
		st := e.reflexState(r)
		st.row.Problem = r.Problem
		e.publishReflex(st)
	}
}

// ReflexGone says that there is no such reflex any more.
type ReflexGone struct{ ID string }

func (e *Engine) publishReflex(st *reflexState) {
	st.row.Waiting = st.gate.Waiting()
	e.stream.push(st.row)
}

// sees tells the reflexes that wait for a reading what it was and is. What nobody knew before, as after a start or while a device tells all it has, is
// nothing that happens.
func (e *Engine) sees(k reading.Key, was reading.Reading, chain []string) {
	list := e.program.Reflexes.ByKey[k]
	if len(list) == 0 {
		return
	}
	now, at := e.table.Reading(k), time.Now()
	known := was.Quality != reading.Unknown && now.Quality != reading.Unknown
	if rt := e.devices[k.Device]; rt != nil && rt.state.Phase != link.Up {
		known = false
	}
	for _, r := range list {
		st := e.reflexState(r)
		if !known {
			st.watch.Forget()
			continue
		}
		if st.watch.See(was.Value, now.Value, at) {
			e.happens(e.ofReading(r, k, was.Value, at, chain))
		}
		e.armReflex(st.watch.Next())
	}
}

// armReflex has a reflex asked at a time.
func (e *Engine) armReflex(at time.Time, any bool) {
	if !any {
		return
	}
	if e.reflexDue.IsZero() || at.Before(e.reflexDue) {
		e.reflexDue = at
	}
	e.arm(at)
}

func (e *Engine) ofReading(r *program.Reflex, k reading.Key, was reading.Value, at time.Time, chain []string) happening {
	now := e.table.Reading(k).Value
	return happening{reflex: r, at: at, chain: chain, fields: map[string]any{"value": now, "was": was},
		text: fmt.Sprintf("%s is %s", e.program.Called(k, e.table), e.program.Word(k, now, e.table))}
}

// forgets has reflexes begin anew that wait for readings of a device that is away.
func (e *Engine) forgets(device string) {
	for k, list := range e.program.Reflexes.ByKey {
		if k.Device != device {
			continue
		}
		for _, r := range list {
			e.reflexState(r).watch.Forget()
		}
	}
}

// linked tells the reflexes that wait for a link that it has come or gone. The first time after a start is not a return, and parking is a hand's doing.
func (e *Engine) linked(rt *deviceState, id string, was, now link.Phase) {
	edge, word := "", ""
	switch {
	case now == link.Up && was != link.Up && rt.came:
		edge, word = show.Comes, "answers again"
	case away(now) && now != link.Parked && !away(was) && rt.came:
		edge, word = show.Goes, "does not answer any more"
	}
	if now == link.Up {
		rt.came = true
	}
	if edge == "" {
		return
	}
	for _, r := range e.program.Reflexes.ByLink[id] {
		if r.Source.On.Edge == edge {
			name := e.program.Devices[id].Name
			e.happens(happening{reflex: r, at: time.Now(), text: name + " " + word, fields: map[string]any{"device": name}})
		}
	}
}

// hears tells the reflexes that wait for a device's own events of them.
func (e *Engine) hears(id string, at time.Time, events []device.Event) {
	for _, ev := range events {
		list := e.program.Reflexes.ByEvent[[2]string{id, ev.ID}]
		if len(list) == 0 {
			continue
		}
		fields := map[string]any{}
		for name, value := range ev.Fields {
			fields[name] = value
		}
		for _, r := range list {
			e.happens(happening{reflex: r, at: at, text: ev.Title, fields: fields})
		}
	}
}

// happens notes an event for its turn: reflexes are carried out by themselves, never in the middle of something else.
func (e *Engine) happens(h happening) {
	if len(e.happenings) >= maxHappenings {
		return
	}
	e.happenings = append(e.happenings, h)
}

// takeHappening carries out the oldest event that waits; false: none does.
func (e *Engine) takeHappening() bool {
	if len(e.happenings) == 0 {
		return false
	}
	h := e.happenings[0]
	e.happenings = slices.Delete(e.happenings, 0, 1)
	if e.program.Show.Reflex(h.reflex.Source.ID) != h.reflex.Source {
		return true // it is another one, or gone
	}
	e.judge(h)
	return true
}

// judge finds out whether a reflex fires on an event, now, later or not.
func (e *Engine) judge(h happening) {
	st := e.reflexState(h.reflex)
	source := h.reflex.Source
	switch {
	case source.Off, st.row.Broken != "":
		return
	case h.reflex.Problem != "":
		e.holdBack(st, h.reflex.Problem)
		return
	}
	if ok, why := h.reflex.Holds(program.Happening{World: e.ahead(), Fields: h.fields}); !ok {
		e.holdBack(st, why+".")
		return
	}
	switch st.gate.Ask(h.reflex.Key(h.fields), h, time.Now()) {
	case reflex.Fires:
		e.fireReflex(st, h)
		return
	case reflex.Dropped:
		e.holdBack(st, fmt.Sprintf("It fires at most once in %s.", brief(st.gate.Every)))
	default:
		e.holdBack(st, "It waits for its time.")
	}
	e.armReflex(st.gate.Next())
}

func (e *Engine) holdBack(st *reflexState, why string) {
	st.row.Held, st.row.HeldAt = why, time.Now()
	e.publishReflex(st)
}

// dueReflexes takes up what has been so for long enough, and what has waited for its time.
func (e *Engine) dueReflexes(now time.Time) {
	if e.reflexDue.IsZero() {
		return
	}
	if now.Before(e.reflexDue) {
		e.arm(e.reflexDue) // what has woken the engine was something else
		return
	}
	e.reflexDue = time.Time{}
	for _, r := range e.program.Reflexes.All {
		st := e.reflexState(r)
		if on := r.Source.On; st.watch.Due(now) {
			k := reading.Key{Device: on.Device, Path: on.Path}
			e.happens(e.ofReading(r, k, nil, now, nil))
		}
		for _, h := range st.gate.Due(now) {
			if st.row.Broken == "" {
				e.fireReflex(st, h)
			}
		}
		e.armReflex(st.watch.Next())
		e.armReflex(st.gate.Next())
	}
}

// fireReflex carries out the response of a reflex.
func (e *Engine) fireReflex(st *reflexState, h happening) {
	source, r, now := h.reflex.Source, h.reflex.Then, time.Now()
	actor := "Reflex " + source.Name
	in := Input{Entry: journal.NextID(), At: h.at, Via: "reflex", Actor: actor, chain: append(slices.Clone(h.chain), source.ID)}
	e.doing.entry = in.Entry
	e.log(journal.Event{Entry: in.Entry, At: h.at, Stage: journal.StageInput, Text: h.text,
		Origin: &journal.Origin{ControllerName: "Reflexes", Control: source.Name, Gesture: source.On.Kind, Via: "reflex", Actor: actor}})
	switch {
	case slices.Contains(h.chain, source.ID):
		e.breakReflex(st, in, "It has set itself off, by way of "+e.named(h.chain)+".")
		return
	case len(h.chain) >= reflex.MaxDepth:
		e.refuse(in, nil, now, fmt.Sprintf("%d reflexes have set each other off: that is as far as it goes.", len(h.chain)))
		e.holdBack(st, "Too many reflexes have set each other off.")
		return
	case st.breaker.Fired(now):
		e.breakReflex(st, in, fmt.Sprintf("It has fired more than %d times in %s.", reflex.BreakAfter, brief(reflex.BreakWithin)))
		return
	}
	st.row.Last, st.row.Held = now, ""
	st.row.Count++
	defer e.publishReflex(st)
	e.during = h.fields
	defer func() { e.during = nil }()
	e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: "The reflex answers", Title: e.title(r), Device: r.Name})
	e.respond(in, now, r)
}

// named are the names of reflexes.
func (e *Engine) named(ids []string) (out string) {
	for _, id := range ids {
		if r := e.program.Show.Reflex(id); r != nil {
			if out != "" {
				out += ", "
			}
			out += r.Name
		}
	}
	return out
}

// breakReflex switches a reflex off, loudly, until somebody edits it or switches it on.
func (e *Engine) breakReflex(st *reflexState, in Input, why string) {
	st.row.Broken = why
	e.refuse(in, nil, time.Now(), why+" It is switched off.")
	e.publishReflex(st)
}
