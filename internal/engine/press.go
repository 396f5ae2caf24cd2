package engine

import (
	"fmt"
	"runtime"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// command is a command under way.
type command struct {
	id      uint64
	entry   string
	device  string
	action  string
	mapping string
	sent    time.Time
	after   time.Duration
	waiting int // expectations that are not settled
	matched bool
	outcome journal.Outcome
	reason  string
	askAt   time.Time // when to ask whether the device is there; zero: asked
}

// input takes in an edge or a gesture.
func (e *Engine) input(in Input) {
	c := e.snap.Controllers[in.Controller]
	if c == nil {
		return // removed a moment ago
	}
	if in.Gesture != "" {
		e.gesture(in, c, in.Gesture, e.answering(in, c))
		if in.Gesture == input.Press {
			e.stream.push(letGo{in.Controller + "/" + in.Control, time.Now()})
		}
		return
	}
	key := in.Controller + "/" + in.Control
	h := e.controls[key]
	if h == nil {
		h = &held{}
		e.controls[key] = h
	}
	switch h.Edge(in.Link, in.Edge) {
	case input.Press:
		h.mapping = e.answering(in, c)
		e.gesture(in, c, input.Press, h.mapping)
	case input.Release:
		if h.mapping != nil && h.mapping.Responses[input.Release] != nil {
			e.gesture(in, c, input.Release, h.mapping)
		}
		e.stream.push(letGo{key, time.Now()})
		delete(e.controls, key)
	}
}

func (e *Engine) answering(in Input, c *Controller) *Mapping {
	page := e.snap.PageInForce(c)
	if in.Page != "" {
		page = e.snap.Show.Page(in.Page)
	}
	return e.snap.Answering(page, in.Control)
}

// gesture starts the response to a gesture: what is checked, what leaves, and
// what the journal is told, in this order.
func (e *Engine) gesture(in Input, c *Controller, gesture string, m *Mapping) {
	first := journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput,
		Text: fmt.Sprintf("%s %s on %s", in.Control, gesture, c.Name),
		Origin: &journal.Origin{Controller: c.Slug, ControllerName: c.Name, Control: in.Control, Gesture: gesture,
			Via: in.Via, Actor: in.Actor}}
	decided := time.Now()
	if m == nil {
		e.record(first)
		e.refuse(in, nil, decided, "Nothing is mapped to this control on this page.")
		return
	}
	r := m.Responses[gesture]
	if r == nil {
		e.record(first)
		e.refuse(in, m, decided, "This key does nothing when it gets a "+gesture+".")
		return
	}
	if reason := e.refusal(in, m, r); reason != "" {
		e.record(first)
		e.decision(in, c, m, r, decided)
		e.refuse(in, m, decided, reason)
		return
	}
	cmd, err := e.dispatch(in, m, r)
	e.record(first)
	e.decision(in, c, m, r, decided)
	if err != nil {
		e.refuse(in, m, decided, fmt.Sprintf("This cannot be sent to %s: %v.", r.Name, err))
		return
	}
	e.record(journal.Event{Entry: in.Entry, At: cmd.sent, Stage: journal.StageDispatch, Text: "Handed to the link of " + r.Name})
}

// refusal says why a response cannot be sent now, or "".
func (e *Engine) refusal(in Input, m *Mapping, r *Response) string {
	if r.Problem != "" {
		return r.Problem
	}
	rt := e.devices[r.Device]
	if rt == nil || rt.state.Phase != link.Up && rt.state.Phase != link.Syncing {
		d := e.snap.Devices[r.Device]
		since := ""
		if rt != nil && !rt.heard.IsZero() {
			since = fmt.Sprintf(" Last heard %s ago.", brief(time.Since(rt.heard)))
		}
		return fmt.Sprintf("%s does not answer at %s.%s Nothing was sent.", d.Name, d.Address(), since)
	}
	if reason := access.Allow(access.Command{Actor: access.Actor{Name: in.Actor, Via: in.Via}, Cause: m.Source.ID, Entry: in.Entry,
		Device: r.Device, Action: r.Call.Action, Changes: r.Bound.Affects()}); reason != "" {
		return reason
	}
	if rt.state.Phase == link.Up {
		return r.Bound.Refusal(world{e.table})
	}
	return ""
}

func brief(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s", int(d.Seconds()))
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	}
	return fmt.Sprintf("%d h", int(d.Hours()))
}

// dispatch sends a response's command and notes what it is to bring about.
func (e *Engine) dispatch(in Input, m *Mapping, r *Response) (*command, error) {
	d, rt, w := e.snap.Devices[r.Device], e.devices[r.Device], world{e.table}
	payload := r.Payload
	if payload == nil {
		var err error
		if payload, err = Encode(r.Bound, e.cfg.Drivers[d.Type.Sheet.Link.Driver], w); err != nil {
			return nil, err
		}
	}
	effects := r.Bound.Effects(w)
	e.lastID++
	now := time.Now()
	c := &command{id: e.lastID, entry: in.Entry, device: r.Device, action: r.Call.Action, mapping: m.Source.ID, sent: now, waiting: len(effects),
		outcome: journal.Confirmed}
	stats := rt.statsOf(r.Call.Action)
	so := make([]bool, len(effects))
	for i, f := range effects {
		c.after = max(c.after, f.After)
		cur := e.table.Get(f.Key)
		so[i] = f.After == 0 && cur.Quality == reading.Confirmed && reading.Equal(cur.Value, f.Value, f.Tolerance)
		if so[i] {
			// It is so already, and the device may keep quiet about it: ask.
			if ask, ok := d.Type.Ask(f.Key.Path); ok {
				if p, err := e.cfg.Drivers[d.Type.Sheet.Link.Driver].Encode(ask); err == nil {
					payload = append(payload[:len(payload):len(payload)], p...)
				}
			}
		}
	}
	if err := rt.link.Send(link.Command{ID: c.id, Payload: payload, Deadline: now.Add(d.Type.Deadline)}); err != nil {
		return nil, err
	}
	// The link's writer goes first; everything else about this press can wait.
	runtime.Gosched()
	c.askAt = now.Add(stats.AskLimit())
	e.commands[c.id] = c
	for i, f := range effects {
		e.table.Expect(reading.Expectation{Key: f.Key, Value: f.Value, Tolerance: f.Tolerance, Command: c.id, Entry: in.Entry, Sent: now,
			After: f.After, Limit: now.Add(f.After + stats.SettleLimit()), NoSample: so[i]})
		e.changed(f.Key)
	}
	e.arm()
	return c, nil
}

func (rt *deviceState) statsOf(action string) reading.Stats {
	if l := rt.actions[action]; l != nil {
		return l.stats
	}
	return reading.Stats{}
}

func (e *Engine) record(ev journal.Event) { e.cfg.Journal.Record(ev) }

func (e *Engine) decision(in Input, c *Controller, m *Mapping, r *Response, at time.Time) {
	page := e.snap.PageInForce(c)
	if in.Page != "" {
		page = e.snap.Show.Page(in.Page)
	}
	e.record(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDecision, Text: decisionText(m, page, in.Control),
		Mapping: m.Source.ID, Title: e.title(r), Device: r.Name})
}

func decisionText(m *Mapping, page *show.Page, control string) string {
	if page != nil && m.Source.PlacementOn(page.ID, control) < 0 {
		return "The mapping stands on every page"
	}
	if page == nil {
		return "No page is in force"
	}
	return "The mapping of page " + page.Name + " answers"
}

func (e *Engine) title(r *Response) string {
	if r.Bound == nil {
		return r.Call.Action
	}
	return r.Bound.Title.Text(world{e.table})
}

// refuse ends an entry before anything left, and says why on the key.
func (e *Engine) refuse(in Input, m *Mapping, at time.Time, reason string) {
	e.record(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDecision, Text: reason, Outcome: journal.Refused, Reason: reason})
	if m != nil {
		e.stream.push(refusedPress{m.Source.ID, in.Controller + "/" + in.Control, reason, time.Now()})
	}
}

// releaseAll lets go of every control that a lost link holds.
func (e *Engine) releaseAll(link string) {
	for key, h := range e.controls {
		if !h.Held(link) {
			continue
		}
		controller, control := splitKey(key)
		e.input(Input{Entry: journal.NextID(), At: time.Now(), Controller: controller, Control: control, Edge: input.Up, Link: link,
			Via: "lost link", Actor: "Synaptor"})
	}
}

func splitKey(key string) (controller, control string) {
	for i := range key {
		if key[i] == '/' {
			return key[:i], key[i+1:]
		}
	}
	return key, ""
}
