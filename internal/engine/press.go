package engine

import (
	"fmt"
	"time"

	"synaptor/internal/program"

	"synaptor/internal/access"
	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
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
	sent    time.Time
	wire    time.Time // when it was written at once; zero: it was queued
	waiting int       // expectations that are not settled
	matched bool
	left    bool // it was written
	outcome journal.Outcome
	reason  string
	askAt   time.Time // when to ask whether the device is there; zero: asked
	// confirms says that the device's answer means that it is done; effects are
	// what that brings about then.
	confirms bool
	effects  []device.Effect
	// answers says that the device answers every command; until is how long its
	// answer is waited for.
	answers bool
	// refuses says that the device tells what it refuses: one that changes
	// nothing waits a moment for that.
	refuses bool
	until   time.Time
	cause
}

// cause is what a command is sent for: a mapping, or a step of a run.
type cause struct {
	mapping string
	run     *run
	step    int        // of the run's steps
	call    *show.Call // what a press asked for; nil: no press asked for it
	title   string     // what the trace of a run calls it
	quiet   bool       // one of many steps of a fade, which the trace leaves out
	runs    []int
	bases   macro.Baselines // what it was before, for a put back; nil: not kept
}

// try sends an action that no control has asked for.
func (e *Engine) try(in Input) {
	r, decided := in.Try, time.Now()
	text, origin := "Tried in Rig", &journal.Origin{ControllerName: "Rig", Gesture: "try", Via: in.Via, Actor: in.Actor}
	if in.Via == "macros" {
		text, origin.ControllerName, origin.Gesture = "Asked for in Macros", "Macros", r.Call.Action
	}
	c := e.program.Controllers[in.Controller]
	if c != nil {
		text, origin.Controller, origin.ControllerName, origin.Gesture = "Asked for on the drawing of "+c.Name, c.Slug, c.Name, "page"
	}
	e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput, Text: text, Origin: origin})
	e.log(journal.Event{Entry: in.Entry, At: decided, Stage: journal.StageDecision, Text: "The action was tried by hand", Title: e.title(r), Device: r.Name})
	if reason := e.refusal(in, "", r); reason != "" {
		e.refuse(in, nil, decided, reason)
		return
	}
	if r.Device == program.SelfID {
		e.ownAction(in, c, nil, r)
		return
	}
	cmd, err := e.dispatch(in, e.restorableCause(in, "", r), r)
	if err != nil {
		e.refuse(in, nil, decided, fmt.Sprintf("This cannot be sent to %s: %v.", r.Name, err))
		return
	}
	e.logDispatch(cmd, r)
}

// restorableCause is the cause of a press, which can be put back for a while.
func (e *Engine) restorableCause(in Input, mapping string, r *program.Response) cause {
	p := &restorable{entry: in.Entry, at: in.At, resp: r, bases: macro.Baselines{}}
	e.keepRestorable(p)
	return cause{mapping: mapping, runs: []int{0}, bases: p.bases, call: &r.Call}
}

// logDispatch notes that a command was handed to its link, and written if it was.
func (e *Engine) logDispatch(cmd *command, r *program.Response) {
	e.trace(cmd, cmd.sent, journal.StageDispatch, "Handed to the link of "+r.Name)
	if !cmd.wire.IsZero() {
		e.written(written{cmd.id, cmd.wire})
	}
}

// logInput opens the journal's entry of an input.
func (e *Engine) logInput(in Input, c *program.Controller, gesture string) {
	e.log(journal.Event{Entry: in.Entry, At: in.At, Stage: journal.StageInput,
		Text: fmt.Sprintf("%s %s on %s", in.Control, gesture, c.Name),
		Origin: &journal.Origin{Controller: c.Slug, ControllerName: c.Name, Control: in.Control, Gesture: gesture,
			Via: in.Via, Actor: in.Actor}})
}

// refusal says why a response cannot be sent now, or "".
func (e *Engine) refusal(in Input, mapping string, r *program.Response) string {
	if r.Problem != "" {
		return r.Problem
	}
	if reason := e.unreachable(in, mapping, r); reason != "" {
		return reason
	}
	if r.Device == program.SelfID || e.devices[r.Device].state.Phase == link.Up {
		return r.Bound.Refusal(e.table)
	}
	return ""
}

// unreachable says why a response cannot be sent whatever the state of its device, or
// "".
func (e *Engine) unreachable(in Input, mapping string, r *program.Response) string {
	if r.Problem != "" {
		return r.Problem
	}
	if r.Device == program.SelfID {
		return ""
	}
	rt := e.devices[r.Device]
	if rt == nil || rt.state.Phase != link.Up && rt.state.Phase != link.Syncing {
		d := e.program.Devices[r.Device]
		if rt != nil && rt.state.Phase == link.Parked {
			return d.Name + " is parked. Nothing was sent."
		}
		if rt != nil && rt.state.Phase == link.Locked {
			return d.Name + " does not let Synaptor in: its password has to be entered again. Nothing was sent."
		}
		since := ""
		if rt != nil && !rt.heard.IsZero() {
			since = fmt.Sprintf(" Last heard %s ago.", brief(time.Since(rt.heard)))
		}
		return fmt.Sprintf("%s does not answer at %s.%s Nothing was sent.", d.Name, d.Address(), since)
	}
	if reason := access.Allow(access.Command{Actor: access.Actor{Name: in.Actor, Via: in.Via}, Cause: mapping, Entry: in.Entry,
		Device: r.Device, Action: r.Call.Action, Changes: r.Bound.Affects()}); reason != "" {
		return reason
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

// dispatch sends a response's command, then notes what it is to bring about:
// nothing can be reported in between, since reports come to this goroutine.
func (e *Engine) dispatch(in Input, by cause, r *program.Response) (*command, error) {
	d, rt := e.program.Devices[r.Device], e.devices[r.Device]
	payload := r.Payload
	if payload == nil {
		var err error
		if payload, err = e.program.Encode(d, r.Bound, e.table); err != nil {
			return nil, err
		}
	}
	e.lastID++
	now := time.Now()
	c := &command{id: e.lastID, entry: in.Entry, device: r.Device, action: r.Call.Action, cause: by, sent: now, outcome: journal.Confirmed,
		confirms: r.Bound.Action.Confirms, answers: d.Type.Answers(),
		refuses: d.Type.Sheet.Link.Refusal != nil}
	if by.run != nil {
		by.run.waiting++
	}
	written, err := rt.link.Send(link.Command{ID: c.id, Payload: payload, Deadline: now.Add(d.Type.Deadline)})
	if err != nil {
		if by.run != nil {
			by.run.waiting--
		}
		return nil, err
	}
	if written {
		c.wire = time.Now()
	}
	e.expect(c, d, rt, r.Bound.Effects(e.table))
	return c, nil
}

func (e *Engine) driver(d *program.Device) link.Driver { return e.cfg.Drivers.For(d.Type) }

// expect notes the effects of a command that was sent. Where it is so already,
// the device may keep quiet about it and is asked.
func (e *Engine) expect(c *command, d *program.Device, rt *deviceState, effects []device.Effect) {
	stats := rt.statsOf(c.action)
	c.askAt = c.sent.Add(stats.AskLimit())
	c.until = c.sent.Add(stats.SettleLimit())
	if !c.answers {
		c.until = c.askAt
	}
	e.commands[c.id] = c
	e.arm(c.until)
	expects := c.entry
	if c.quiet {
		expects = "" // the trace of a fade leaves its steps out
	}
	e.recordCommand(c, effects)
	for _, f := range effects {
		if c.bases != nil {
			c.bases.Capture(c.runs, []reading.Key{f.Key}, e.original)
			c.bases.Gave(c.runs, f.Key, f.Value, f.Tolerance)
		}
		if f.Assumed || c.confirms {
			c.effects = append(c.effects, f)
			if f.Assumed {
				e.assume(c, f)
				continue
			}
		}
		c.waiting++
		cur := e.table.Reading(f.Key)
		so := cur.Quality == reading.Confirmed && reading.Equal(cur.Value, f.Value, f.Tolerance)
		ask, canAsk := d.Type.Ask(f.Key.Path)
		if so && canAsk {
			if p, err := e.driver(d).Encode(ask); err == nil {
				_, _ = rt.link.Send(link.Command{Payload: p, Deadline: c.sent.Add(d.Type.Deadline)}) // unanswered, it expires
			}
		}
		e.table.Expect(reading.Expectation{Key: f.Key, Value: f.Value, Tolerance: f.Tolerance, Command: c.id, Entry: expects, Sent: c.sent,
			After: f.After, Limit: c.sent.Add(f.After + stats.SettleLimit()), NoSample: so, Asked: so && canAsk})
		e.changed(f.Key, expects)
		e.arm(c.sent.Add(f.After + stats.SettleLimit()))
	}
	e.arm(c.askAt)
}

func (rt *deviceState) statsOf(action string) reading.Stats {
	if l := rt.actions[action]; l != nil {
		return l.stats
	}
	return reading.Stats{}
}

func (e *Engine) log(ev journal.Event) { e.cfg.Journal.Record(ev) }

func (e *Engine) title(r *program.Response) string {
	if r.Bound == nil {
		return r.Call.Action
	}
	return r.Bound.Title.Text(e.table)
}

// refuse ends an entry before anything left, and says why on the key.
func (e *Engine) refuse(in Input, m *program.Mapping, at time.Time, reason string) {
	e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDecision, Text: reason, Outcome: journal.Refused, Reason: reason})
	if m != nil {
		e.stream.push(Refusal{m.Source.ID, in.Controller + "/" + in.Control, reason, time.Now()})
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
