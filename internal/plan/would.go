package plan

import (
	"context"
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Moment is something of a recorded night: what a reading became, or what happened.
type Moment struct {
	At    time.Time
	Key   reading.Key // empty: something happened
	Value reading.Value
	// On says what happened, as a reflex does that waits for it.
	On     show.On
	Text   string
	Fields map[string]any
}

// Night is a recorded time.
type Night struct {
	From, To time.Time
	// Before is what readings were at its beginning. Those that it has not are not known.
	Before map[reading.Key]reading.Value
	// Moments are in the order of time.
	Moments []Moment
}

// WouldRow is a moment at which a reflex would have done something, or would have been held back.
type WouldRow struct {
	At    time.Time `json:"at"`
	Text  string    `json:"text"`
	Fires bool      `json:"fires"`
	Why   string    `json:"why,omitempty"` // it would not have
	Does  string    `json:"does,omitempty"`
	// Until is when what it would have held had returned; zero: it holds nothing.
	Until   time.Time   `json:"until"`
	Changes []WouldTurn `json:"changes"`
}

// WouldTurn is a reading that would have changed, in words.
type WouldTurn struct {
	Title string `json:"title"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// Would is what a reflex would have done in a night.
type Would struct {
	Fired int        `json:"fired"`
	Held  int        `json:"held"`
	Rows  []WouldRow `json:"rows"`
	More  int        `json:"more"` // rows that are left out
}

const (
	//limit:count moments at which a reflex would have done something that are listed | in the list, as more
	maxWould = 500
	//limit:count firings whose effects are worked out | nowhere; those beyond have no effects beside them
	maxWouldChanges = 50
)

// would plays a reflex against a night, with what the live one is judged by.
type would struct {
	reflex.Case[Moment]
	ctx   context.Context
	p     *program.Program
	r     *program.Reflex
	facts Facts
	past  past
	away  map[string]bool
	out   Would
	next  time.Time // of its schedule
	// What follows a condition.
	holds bool
	since int // the row in which it has begun
	ends  time.Time
}

// past is a world at a moment of a night: what it has recorded, else what is now.
type past struct {
	device.Known
	values   map[reading.Key]reading.Value
	recorded map[reading.Key]bool
}

// Reading implements expr.World.
func (w past) Reading(k reading.Key) reading.Reading {
	if !w.recorded[k] {
		return w.Known.Reading(k)
	}
	v, known := w.values[k]
	if !known {
		return reading.Reading{Quality: reading.Unknown}
	}
	return reading.Reading{Value: v, Quality: reading.Confirmed}
}

// WouldHave plays a reflex against a recorded night: every moment at which it would have fired, and what would have come of it. facts are the present ones,
// for what the night has not recorded. What the reflex did itself that night is in the record.
func WouldHave(ctx context.Context, r *program.Reflex, night Night, facts Facts) Would {
	w := &would{Case: reflex.Case[Moment]{Watch: r.Watch(), Gate: program.GateOf[Moment](r)}, ctx: ctx, p: facts.Program, r: r, facts: facts,
		past: past{facts.Known, map[reading.Key]reading.Value{}, map[reading.Key]bool{}}, away: map[string]bool{}, out: Would{Rows: []WouldRow{}}}
	for k, v := range night.Before {
		w.past.values[k], w.past.recorded[k] = v, true
	}
	for _, m := range night.Moments {
		if m.Key.Device != "" {
			w.past.recorded[m.Key] = true
		}
	}
	on := r.Source.On
	if on.Kind == reflex.OnSchedule {
		w.next, _ = on.Schedule.Next(night.From, facts.Program.TimeZone)
	}
	w.follow(night.From)
	for _, m := range night.Moments {
		if ctx.Err() != nil {
			break
		}
		w.until(m.At)
		w.take(m)
	}
	w.until(night.To)
	return w.out
}

// until takes up what is due before a moment.
func (w *would) until(at time.Time) {
	for {
		next, any := w.Next()
		for _, t := range []time.Time{w.next, w.ends} {
			if !t.IsZero() && (!any || t.Before(next)) {
				next, any = t, true
			}
		}
		if !any || next.After(at) {
			return
		}
		w.due(next)
	}
}

func (w *would) due(now time.Time) {
	if w.Watch.Due(now) {
		k := reading.Key{Device: w.r.Source.On.Device, Path: w.r.Source.On.Path}
		w.judge(w.ofReading(now, k, nil))
	}
	for _, m := range w.Gate.Due(now) {
		w.fire(m, now)
	}
	if !w.next.IsZero() && !now.Before(w.next) {
		at := w.next.In(w.p.TimeZone).Format("15:04:05")
		w.judge(Moment{At: w.next, Text: "It is " + at, Fields: map[string]any{"at": at}})
		w.next, _ = w.r.Source.On.Schedule.Next(now, w.p.TimeZone)
	}
	if !w.ends.IsZero() && !now.Before(w.ends) {
		w.ends, w.holds = time.Time{}, false
		if w.since < len(w.out.Rows) {
			w.out.Rows[w.since].Until = now
		}
	}
}

// take takes in a moment of the night.
func (w *would) take(m Moment) {
	on := w.r.Source.On
	if m.Key.Device == "" {
		if m.On.Kind == reflex.OnLink {
			w.away[m.On.Device] = m.On.Edge == show.Goes
			w.Watch.Forget()
		}
		if on.Kind != reflex.OnSchedule && Means(on, m.On) {
			w.judge(m)
		}
		return
	}
	was, known := w.past.values[m.Key]
	w.past.values[m.Key] = m.Value
	if on.Kind == reflex.OnReading && m.Key.Device == on.Device && m.Key.Path == on.Path && known && !w.away[on.Device] && w.Watch.See(was, m.Value, m.At) {
		w.judge(w.ofReading(m.At, m.Key, was))
	}
	w.follow(m.At)
}

func (w *would) ofReading(at time.Time, k reading.Key, was reading.Value) Moment {
	now := w.past.values[k]
	return Moment{At: at, Text: fmt.Sprintf("%s is %s", w.p.Called(k, w.past), w.p.Word(k, now, w.past)), Fields: map[string]any{"value": now, "was": was}}
}

// Means tells whether a reflex waits for what has happened.
func Means(on, what show.On) bool {
	if on.Kind != what.Kind || on.Edge != what.Edge {
		return false
	}
	switch on.Kind {
	case reflex.OnLink:
		return on.Device == what.Device
	case reflex.OnDevice:
		return on.Device == what.Device && on.Event == what.Event
	case reflex.OnGesture:
		return on.Controller == what.Controller && on.Gesture == what.Gesture && (on.Control == "" || on.Control == what.Control)
	case reflex.OnSignal:
		return show.SignalKey(on.Signal) == show.SignalKey(what.Signal)
	case reflex.OnMacro:
		return on.Macro == "" || on.Macro == what.Macro
	}
	return on.Kind == reflex.OnPanel
}

// judge finds out what would have become of an event.
func (w *would) judge(m Moment) {
	if w.Broken != "" {
		return
	}
	h, met := w.r.Meets(m.Fields, w.past)
	m.Fields = h.Fields
	switch {
	case met.Conditional():
		w.out.Held++ // as usual as messages are: no row
		return
	case met != program.IsMet:
		w.held(m, w.p.WhyNot(w.r, met, m.Fields, w.past))
		return
	}
	if verdict, why := w.Judge(w.r.Key(m.Fields), m, m.At); verdict != reflex.Fires {
		w.held(m, why)
		return
	}
	w.fire(m, m.At)
}

func (w *would) held(m Moment, why string) {
	w.out.Held++
	w.add(WouldRow{At: m.At, Text: m.Text, Why: why})
}

func (w *would) add(row WouldRow) {
	if len(w.out.Rows) >= maxWould {
		w.out.More++
		return
	}
	if row.Changes == nil {
		row.Changes = []WouldTurn{}
	}
	w.out.Rows = append(w.out.Rows, row)
}

func (w *would) fire(m Moment, at time.Time) {
	if why := w.Fire(w.r.Source.ID, nil, func([]string) string { return "" }, at); why != "" {
		w.held(m, why+" It would have been switched off.")
		return
	}
	h := program.Happening{World: w.past, Fields: m.Fields}
	resp := w.p.Response(w.r, h)
	row := WouldRow{At: at, Text: m.Text, Fires: true}
	switch {
	case resp.Problem != "":
		row.Fires, row.Why = false, resp.Problem
	case resp.Bound.Refusal(h) != "":
		row.Fires, row.Why = false, resp.Bound.Refusal(h)
	}
	if !row.Fires {
		w.out.Held++
		w.add(row)
		return
	}
	row.Does = resp.Bound.Title.Text(w.past)
	if w.out.Fired++; w.out.Fired <= maxWouldChanges {
		row.Changes = w.changes(resp, h)
	}
	w.add(row)
}

// changes is what a response would have changed, as things were.
func (w *would) changes(resp *program.Response, h program.Happening) (out []WouldTurn) {
	f := w.facts
	f.Known = w.past
	if mac := w.p.RunsMacro(resp); mac != nil {
		f = NewFacts(w.ctx, w.p, mac, f.Known, f.Taken, f.Stats)
		f.During = h.Fields
		r, err := Rehearse(w.ctx, f, 1)
		if err != nil {
			return []WouldTurn{{Title: mac.Source.Name, To: err.Error()}}
		}
		for _, c := range r.Changes {
			out = append(out, WouldTurn{c.Title, c.From, c.To})
		}
		return out
	}
	for _, e := range resp.Bound.Effects(h) {
		now := w.past.Reading(e.Key).Value
		out = append(out, WouldTurn{w.p.Called(e.Key, w.past), w.p.Word(e.Key, now, w.past), w.p.Word(e.Key, e.Value, w.past)})
	}
	return out
}

// follow has a reflex that follows its condition look at it.
func (w *would) follow(at time.Time) {
	if w.r.Source.On.Kind != reflex.OnWhile || w.r.Problem != "" || w.Broken != "" {
		return
	}
	for _, k := range w.r.Uses() {
		if w.away[k.Device] || w.past.Reading(k).Value == nil {
			return // nobody knows
		}
	}
	switch _, met := w.r.Meets(nil, w.past); {
	case met == program.IsMet:
		w.ends = time.Time{}
		if !w.holds {
			w.begin(at)
		}
	case w.holds && w.ends.IsZero():
		after := time.Duration(0)
		if h := w.r.Source.Hold; h != nil {
			after = time.Duration(h.AfterMs) * time.Millisecond
		}
		w.ends = at.Add(after)
	}
}

func (w *would) begin(at time.Time) {
	m := Moment{At: at, Text: w.p.SoWords(w.r, w.past)}
	if why := w.Fire(w.r.Source.ID, nil, func([]string) string { return "" }, at); why != "" {
		w.held(m, why+" It would have been switched off.")
		return
	}
	w.holds, w.since = true, len(w.out.Rows)
	w.out.Fired++
	k := w.r.Then.Bound.Affects()[0]
	w.add(WouldRow{At: at, Text: m.Text, Fires: true, Does: "Holds " + w.p.Called(k, w.past)})
}

// Tried is what a reflex would do with an event, as things stand.
type Tried struct {
	Fires   bool        `json:"fires"`
	Why     string      `json:"why,omitempty"` // it would not
	Does    string      `json:"does,omitempty"`
	Changes []WouldTurn `json:"changes"`
}

// TryReflex rehearses what a reflex would do with an event, but for its rate.
func TryReflex(ctx context.Context, r *program.Reflex, fields map[string]any, facts Facts) Tried {
	p := facts.Program
	out := Tried{Changes: []WouldTurn{}}
	h, met := r.Meets(fields, facts.Known)
	if out.Why = p.WhyNot(r, met, h.Fields, facts.Known); out.Why != "" {
		return out
	}
	resp := p.Response(r, h)
	if out.Why = resp.Problem; out.Why != "" {
		return out
	}
	out.Does = resp.Bound.Title.Text(h)
	if out.Why = resp.Bound.Refusal(h); out.Why != "" {
		return out
	}
	w := &would{ctx: ctx, p: p, facts: facts, past: past{facts.Known, nil, nil}}
	out.Fires, out.Changes = true, append(out.Changes, w.changes(resp, h)...)
	return out
}
