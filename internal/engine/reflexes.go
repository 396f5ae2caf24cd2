package engine

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// occasion is what something is carried out for.
type occasion struct {
	event map[string]any // what the event brings along; nil: there is none
	led
}

// led is what has led to something.
type led struct {
	chain []string // the reflexes, the first one first
	entry string   // the journal's of what has set it off; empty: nobody knows, or nothing of Synaptor has
}

// happening is an event that starts a reflex, or may.
type happening struct {
	occasion
	reflex *program.Reflex
	at     time.Time
	text   string // in words
}

// reflexState is what lives of a reflex.
type reflexState struct {
	reflex.Case[happening]
	of      *program.Reflex
	row     ReflexChanged
	told    ReflexChanged // what was published last
	toldAt  time.Time
	unsaid  bool       // it has changed since
	next    time.Time  // of its schedule; zero: there is none
	ends    time.Time  // when it lets go of what it holds; zero: its condition holds, or it holds nothing
	offered *happening // what waits for somebody to decide
	refused refusals
	notMet  map[program.Met]string // why its conditions are not met, in words
}

// refusals are firings that were refused one after the other, for the same reason: they are one entry of the journal.
type refusals struct {
	entry, reason string
	n             int
	since         time.Time
}

// ReflexChanged says how a reflex stands.
type ReflexChanged struct {
	ID string `json:"id"`
	On bool   `json:"on"`
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
	// Next is when its schedule comes next, and Skipped says that it is passed over then.
	Next    time.Time `json:"next"`
	Skipped bool      `json:"skipped,omitempty"`
	// Holds says that it holds something now.
	Holds bool `json:"holds,omitempty"`
	// Offered is what waits for somebody to decide whether it is to fire; empty: nothing does.
	Offered string `json:"offered,omitempty"`
}

// ReflexGone says that there is no such reflex any more.
type ReflexGone struct{ ID string }

// maxHappenings is how many events may wait for reflexes.
//
//limit:count events that wait for reflexes | those beyond are dropped, and noted
const maxHappenings = 10_000

// reflexState is what lives of a reflex; what is another one by an edit begins anew, and is mended.
func (e *Engine) reflexState(r *program.Reflex) *reflexState {
	st := e.reflexes[r.Source.ID]
	if st == nil || st.of.Source != r.Source {
		was := st
		st = &reflexState{Case: reflex.Case[happening]{Watch: r.Watch(), Gate: program.GateOf[happening](r)}, row: ReflexChanged{ID: r.Source.ID}, notMet: map[program.Met]string{}}
		if was != nil {
			st.row.Last, st.row.Count, st.told = was.row.Last, was.row.Count, was.told
		}
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
	if e.switches.tidy(e.program.Show) {
		e.stream.push(SwitchesChanged{e.switches.clone()})
	}
	e.letGoOfOthers()
	for _, r := range e.program.Reflexes.All {
		st := e.reflexState(r)
		st.row.Problem = r.Problem
		e.schedule(st, time.Now())
		e.publishReflex(st)
		if r.Source.On.Kind == reflex.OnWhile {
			e.follow(r)
		}
	}
	e.started()
}

// publishEvery is how often it is told at most how a reflex stands that only holds back.
const publishEvery = 250 * time.Millisecond

// publishSoon tells how a reflex stands, at once or a little later where that was a moment ago.
func (e *Engine) publishSoon(st *reflexState) {
	if now := time.Now(); now.Sub(st.toldAt) < publishEvery {
		st.unsaid = true
		e.armReflex(st.toldAt.Add(publishEvery), true)
		return
	}
	e.publishReflex(st)
}

func (e *Engine) publishReflex(st *reflexState) {
	st.unsaid, st.toldAt = false, time.Now()
	id := st.of.Source.ID
	st.row.Waiting, st.row.On, st.row.Broken, st.row.Holds = st.Gate.Waiting(), e.isOn(st.of), st.Broken, e.holds(id)
	st.row.Next, st.row.Skipped = st.next, !st.next.IsZero() && e.switches.Skips[id].Equal(st.next)
	if st.row.Offered = ""; st.offered != nil {
		st.row.Offered = st.offered.text
	}
	if st.row != st.told {
		st.told = st.row
		e.stream.push(st.row)
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

// happens notes an event for its turn: reflexes are carried out by themselves, never in the middle of something else.
func (e *Engine) happens(h happening) {
	if len(e.happenings) < maxHappenings {
		e.happenings = append(e.happenings, h)
		return
	}
	e.holdBack(e.reflexState(h.reflex), h, fmt.Sprintf("%d events wait already.", maxHappenings))
}

// takeHappening carries out the oldest event that waits; false: none does.
func (e *Engine) takeHappening() bool {
	if len(e.happenings) == 0 {
		return false
	}
	h := e.happenings[0]
	e.happenings = e.happenings[1:]
	if e.program.Show.Reflex(h.reflex.Source.ID) != h.reflex.Source {
		return true // it is another one, or gone
	}
	e.judge(h)
	return true
}

// judge finds out whether a reflex fires on an event, now, later or not.
func (e *Engine) judge(h happening) {
	st := e.reflexState(h.reflex)
	if why := e.offBecause(h.reflex); why != "" {
		return
	}
	if on := h.reflex.Source.On; on.Kind == reflex.OnReading {
		e.stream.push(Happened{h.at, on, h.text, h.event})
	}
	met, m := h.reflex.Meets(h.event, e.ahead())
	h.event = met.Fields
	switch {
	case m.Conditional(): // nothing for the timeline
		if st.notMet[m] == "" {
			st.notMet[m] = e.program.WhyNot(h.reflex, m, h.event, e.table)
		}
		st.row.Held, st.row.HeldAt = st.notMet[m], time.Now()
		e.publishSoon(st)
		return
	case m != program.IsMet:
		e.holdBack(st, h, e.program.WhyNot(h.reflex, m, h.event, e.table))
		return
	}
	if verdict, why := st.Judge(h.reflex.Key(h.event), h, time.Now()); verdict != reflex.Fires {
		e.holdBack(st, h, why)
		e.armReflex(st.Gate.Next())
		return
	}
	e.fireReflex(st, h)
}

func (e *Engine) holdBack(st *reflexState, h happening, why string) {
	st.row.Held, st.row.HeldAt = why, time.Now()
	e.stream.push(Judged{At: time.Now(), Reflex: st.of.Source.ID, Text: h.text, Held: why})
	e.publishReflex(st)
}

// dueReflexes takes up what has been so for long enough, what has waited for its time, schedules, and what is to be let go of.
func (e *Engine) dueReflexes(now time.Time) {
	if e.reflexDue.IsZero() {
		return
	}
	if now.Before(e.reflexDue) {
		e.arm(e.reflexDue) // what has woken the engine was something else
		return
	}
	e.reflexDue = time.Time{}
	jumped := e.clock.See(now.Round(0), now.Sub(e.began))
	for _, r := range e.program.Reflexes.All {
		st := e.reflexState(r)
		if st.Watch.Due(now) {
			e.happens(e.ofReading(r, nil, now, led{}))
		}
		for _, h := range st.Gate.Due(now) {
			if e.offBecause(r) == "" {
				e.fireReflex(st, h)
			}
		}
		if st.unsaid {
			e.publishSoon(st)
		}
		e.dueSchedule(st, now, jumped)
		e.dueHold(st, now)
		e.armReflex(st.Next())
	}
	e.dueStart(now)
	e.dueTimers(now)
	e.dueOverlays(now)
	e.keepSeen(now)
}

// openReflex opens the entry of a firing; why says that it may not, and its entry has ended with that.
func (e *Engine) openReflex(st *reflexState, h happening) (in Input, why string) {
	source, now := st.of.Source, time.Now()
	actor := "Reflex " + source.Name
	in = Input{Entry: journal.NextID(), At: h.at, Via: "reflex", Actor: actor, By: source.Owner,
		occasion: occasion{event: h.event, led: led{chain: append(slices.Clone(h.chain), source.ID)}}}
	e.doing.entry = in.Entry
	e.log(journal.Event{Entry: in.Entry, At: h.at, Stage: journal.StageInput, Text: h.text, Cause: h.led.entry,
		Origin: &journal.Origin{ControllerName: "Reflexes", Control: source.Name, Gesture: source.On.Kind, Via: "reflex", Actor: actor}})
	if len(h.chain) > 0 {
		e.log(journal.Event{Entry: in.Entry, At: now, Stage: journal.StageDecision, Text: "Set off by " + e.named(h.chain)})
	}
	if why = st.Fire(source.ID, h.chain, e.named, now); why == "" {
		st.row.Last, st.row.Held = now, ""
		st.row.Count++
		return in, ""
	}
	if st.Broken != "" {
		why += " It is switched off."
		e.letGo(st.of, "It was switched off")
	}
	e.refuse(in, nil, now, why)
	e.holdBack(st, h, why)
	return in, why
}

// fireReflex carries out the response of a reflex.
func (e *Engine) fireReflex(st *reflexState, h happening) {
	was := e.during
	defer func() { e.during = was }()
	e.during = h.occasion
	r := e.program.Response(st.of, program.Happening{World: e.ahead(), Fields: h.event})
	if e.refusedAgain(st, h, r) {
		return
	}
	in, why := e.openReflex(st, h)
	defer e.publishReflex(st)
	if why != "" {
		return
	}
	e.during = in.occasion
	e.log(journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageDecision, Text: "The reflex answers", Title: e.title(r), Device: r.Name})
	refused := e.respond(in, time.Now(), r)
	e.stream.push(Judged{At: time.Now(), Reflex: st.of.Source.ID, Text: h.text, Does: e.title(r), Held: refused, Entry: in.Entry})
	if refused != "" {
		st.row.Held, st.row.HeldAt = refused, time.Now()
		st.refused = refusals{in.Entry, refused, 1, time.Now()}
	}
}

// refusedFor is how long refusals for the same reason are one entry of the journal.
const refusedFor = time.Minute

// refusedAgain tells whether a response is refused for the reason of the last time, a moment ago: then its entry counts that, and no other is made.
func (e *Engine) refusedAgain(st *reflexState, h happening, r *program.Response) bool {
	last := &st.refused
	if last.entry == "" || time.Since(last.since) > refusedFor || !sameReason(e.refusal(Input{By: st.of.Source.Owner}, "", r), last.reason) {
		st.refused = refusals{}
		return false
	}
	last.n++
	e.log(journal.Event{Entry: last.entry, Outcome: journal.Refused, Reason: fmt.Sprintf("%s (%d times)", last.reason, last.n)})
	e.holdBack(st, h, fmt.Sprintf("%s That was so %d times.", last.reason, last.n))
	return true
}

// sameReason tells whether two refusals say the same, but for numbers such as when something was last heard.
func sameReason(a, b string) bool {
	plain := func(s string) string {
		return strings.Map(func(r rune) rune {
			if r >= '0' && r <= '9' {
				return -1
			}
			return r
		}, s)
	}
	return plain(a) == plain(b)
}

// named are the names of reflexes.
func (e *Engine) named(ids []string) string {
	var out []string
	for _, id := range ids {
		if r := e.program.Show.Reflex(id); r != nil {
			out = append(out, r.Name)
		}
	}
	return strings.Join(out, ", ")
}

// Judged says what became of an event for a reflex.
type Judged struct {
	At     time.Time `json:"at"`
	Reflex string    `json:"reflex"`
	Text   string    `json:"text"`
	Does   string    `json:"does,omitempty"`  // what it did
	Held   string    `json:"held,omitempty"`  // why it did not
	Entry  string    `json:"entry,omitempty"` // of the journal
}

// Happened is something that can start a reflex, whether one waits for it or not.
type Happened struct {
	At     time.Time      `json:"at"`
	On     show.On        `json:"on"` // as a reflex says it that waits for it
	Text   string         `json:"text"`
	Fields map[string]any `json:"fields,omitempty"`
}
