package engine

import (
	"errors"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// command is a command under way.
type command struct {
	id        uint64
	entry     string
	device    string
	action    string
	payload   []byte
	sent      time.Time
	wire      time.Time // when it was written at once; zero: it was queued
	waiting   int       // expectations that are not settled
	matched   bool
	begun     bool      // its effect is on its way
	leaving   time.Time // when its write began, out of the queue
	left      bool      // it was written
	overtaken bool      // something that it was to bring about was changed by a later command
	outcome   journal.Outcome
	reason    string
	askAt     time.Time // when to ask whether the device is there; zero: asked
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
	// inOrder says that the device answers its commands one after the other.
	inOrder bool
	until   time.Time
	affects []reading.Key // what it changes
	actor   string        // who caused it
	chain   []string      // the reflexes that have
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
	joined  bool       // the entry has had a command before: a turn or a slide that goes on
	runs    []int
	bases   macro.Baselines      // what it was before, for a put back; nil: not kept
	fade    *fade                // that it is a step of; nil: of none
	ramp    *program.Response    // that the device fades by itself; nil: it does not
	aside   bool                 // how it ends says nothing about its entry
	returns bool                 // it is one of a put back, which tells each device when it is to land
	back    *returning           // the put back that it is a part of; nil: of none, or of a run's
	closes  *closing             // it closes what a hand has opened; nil: it does not
	safe    *program.SafePicture // that it puts on an output; nil: none
}

// dispatch sends a response's command, then notes what it is to bring about:
// nothing can be reported in between, since reports come to this goroutine.
func (e *Engine) dispatch(in Input, by cause, r *program.Response) (*command, error) {
	to, why := e.reach(r)
	if why == "" && by.closes == nil { // what one has opened oneself may be closed
		why = e.forbidden(in, by.mapping, r)
	}
	if why != "" {
		return nil, errors.New(why)
	}
	d := to.device
	if !by.returns && by.fade == nil {
		e.sendBefore(r.Device)
	}
	payload := r.Payload
	if payload == nil {
		var err error
		if payload, err = e.program.Encode(d, r.Bound, e.ahead()); err != nil {
			return nil, err
		}
	}
	e.lastID++
	e.doing.driven = r.Device
	now := e.dispatchTime()
	c := &command{id: e.lastID, entry: in.Entry, device: r.Device, action: r.Call.Action, payload: payload, cause: by, sent: now, outcome: journal.Confirmed,
		confirms: r.Bound.Action.Confirms, answers: d.Type.Answers(),
		refuses: d.Type.Sheet.Link.Refusal != nil, inOrder: d.Type.AnswersInOrder(), affects: r.Bound.Affects(), actor: in.Actor, chain: in.chain}
	if by.run != nil {
		by.run.waiting++
	}
	if by.safe == nil {
		e.unsafe(c.affects)
	}
	var effects []device.Effect
	if by.run != nil {
		effects = r.Bound.Effects(e.ahead())
		e.intend(by.run, by.runs, by.bases, effects)
	}
	written, err := to.link.Send(link.Command{ID: c.id, Payload: payload, Deadline: now.Add(d.Type.Deadline)})
	if err != nil {
		if by.run != nil {
			by.run.waiting--
		}
		return nil, err
	}
	if written {
		c.wire = time.Now()
	}
	if by.run == nil {
		effects = r.Bound.Effects(e.ahead()) // after it was sent: a press waits for nothing
	}
	e.expect(c, to, effects)
	return c, nil
}

// dispatchTime is the present time, later than that of the command before and of its questions: what was
// asked before a command is told from what was asked after it by that.
func (e *Engine) dispatchTime() time.Time {
	now := time.Now()
	if least := e.lastSent.Add(2 * time.Nanosecond); now.Before(least) {
		now = least
	}
	e.lastSent = now
	return now
}

// sent is how things will stand once what was sent has been done. A dial goes on from there.
func (e *Engine) sent() reading.Ahead { return reading.Ahead{Table: e.table} }

// ahead is how things will stand once what is on its way has been done, fades included. Commands are worked
// out from it.
func (e *Engine) ahead() ahead { return ahead{e.sent(), e.fades, e.during.event} }

type ahead struct {
	reading.Ahead
	fades []*fade
	event map[string]any
}

// Event implements expr.Eventful.
func (a ahead) Event() map[string]any { return a.event }

// Reading implements expr.World.
func (a ahead) Reading(k reading.Key) reading.Reading {
	r := a.Ahead.Reading(k)
	for _, f := range a.fades {
		if f.key == k {
			r.Value = f.end
		}
	}
	return r
}

// expect notes the effects of a command that was sent. Where it is so already,
// the device may keep quiet about it and is asked.
func (e *Engine) expect(c *command, to reached, effects []device.Effect) {
	stats := to.state.statsOf(c.action)
	c.askAt = c.sent.Add(stats.AskLimit())
	c.until = c.sent.Add(stats.SettleLimit())
	if !c.answers {
		c.until = c.askAt
	}
	e.overtakeRepeats(c)
	e.overtakeFades(c)
	e.commands[c.id] = c
	e.arm(c.until)
	expects := c.entry
	if c.quiet {
		expects = "" // the trace of a fade leaves its steps out
	}
	e.recordCommand(c, effects)
	for _, f := range effects {
		if c.bases != nil {
			c.bases.Capture(c.runs, []reading.Key{f.Key}, e.original(c.run))
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
		if so && e.ask(to, f.Key.Path, c.sent) {
			e.table.Asked(f.Key, c.sent.Add(time.Nanosecond))
		}
		e.table.Expect(reading.Expectation{Key: f.Key, Value: f.Value, Tolerance: f.Tolerance, Command: c.id, Entry: expects, Sent: c.sent,
			After: f.After, Over: f.Over, Grace: f.Grace, Limit: c.sent.Add(f.After + stats.SettleLimit()), Unsent: c.wire.IsZero(), Apart: to.device.Type.Driver.Apart(), NoSample: so})
		e.asked.Ask(f.Key, f.Value, f.Tolerance)
		e.changed(f.Key, expects, "")
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

// logDispatch notes that a command was handed to its link, and written if it was.
func (e *Engine) logDispatch(cmd *command, r *program.Response) {
	if cmd.joined {
		e.log(journal.Event{Entry: cmd.entry, Title: e.title(r), Outcome: journal.UnderWay})
	}
	e.trace(cmd, cmd.sent, journal.StageDispatch, "Handed to the link of "+r.Name)
	if !cmd.wire.IsZero() {
		e.written(written{cmd.id, cmd.wire})
	}
}

// ask asks a device for a reading; false where its sheet does not say how.
func (e *Engine) ask(to reached, path string, at time.Time) bool {
	m, can := to.device.Type.Ask(path)
	if !can {
		return false
	}
	if p, err := e.program.EncodeMessage(to.device, m); err == nil {
		_, _ = to.link.Send(link.Command{Payload: p, Deadline: at.Add(to.device.Type.Deadline)}) // unanswered, it expires
	}
	return true
}
