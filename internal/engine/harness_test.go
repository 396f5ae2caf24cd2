package engine_test

import (
	"cmp"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/memory"
	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// rig is an engine, and what it has told of.
type rig struct {
	*enginetest.Rig
	links    map[string]link.State
	rows     map[string]engine.RunRow
	left     []engine.LeftOver
	returned []engine.Returned
	notSent  map[string]int // by device
	held     []string       // of refusals: the control that a finger is on, or ""
	readings map[string]reading.Reading
	paths    map[string][]string // by device
	stats    map[string]reading.Stats
	runsKept map[string]engine.KeptRun  // by entry
	lost     []string                   // links, with why
	open     map[string]engine.OpenTalk // talks of the producer grid, by control
	reflexes map[string]engine.ReflexChanged
	judged   []engine.Judged
	happened []engine.Happened
	counted  []string         // controls, in the roll call
	live     engine.LiveState // of reflexes
}

func rigOf(r *enginetest.Rig) *rig {
	return &rig{Rig: r, links: map[string]link.State{}, rows: map[string]engine.RunRow{}, readings: map[string]reading.Reading{}, paths: map[string][]string{},
		stats: map[string]reading.Stats{}, runsKept: map[string]engine.KeptRun{}, reflexes: map[string]engine.ReflexChanged{}, notSent: map[string]int{}}
}

// on runs a test with a rig whose devices have said everything.
func on(t *testing.T, f func(r *rig)) {
	t.Helper()
	enginetest.On(t, func(_ *testing.T, base *enginetest.Rig) {
		r := rigOf(base)
		r.ready("dome-switcher", "sound-desk")
		f(r)
	})
}

// restart starts another engine with what lived.
func (r *rig) restart(live engine.LiveState) {
	clear(r.links)
	clear(r.runsKept)
	r.Restart(live)
	r.ready("dome-switcher", "sound-desk")
}

// waitReady is ready in real time.
func (r *rig) waitReady() {
	for r.links["dome-switcher"].Phase != link.Up || r.links["sound-desk"].Phase != link.Up {
		r.drain()
		time.Sleep(time.Millisecond)
	}
}

// drain takes in what the engine has told of.
func (r *rig) drain() {
	for _, c := range r.Changes().Take() {
		switch ev := c.What.(type) {
		case engine.LinkState:
			if r.links[ev.State.Device] = ev.State; ev.State.Phase == link.Down {
				r.lost = append(r.lost, ev.State.Device+": "+ev.State.Problem)
			}
		case engine.RunChanged:
			r.rows[ev.Row.ID] = ev.Row
		case engine.Refusal:
			r.held = append(r.held, ev.Held)
		case engine.LeftOverChanged:
			r.left = ev.Rows
		case engine.ReturnedChanged:
			r.returned = ev.List
		case engine.AwayChanged:
			r.notSent[ev.Device] = ev.NotSent
		case engine.PagesChanged:
			if ev.Controller == "producer-grid" {
				r.open = ev.Open
			}
		case engine.RunKept:
			r.runsKept[ev.Run.Entry] = ev.Run
		case engine.ReflexChanged:
			r.reflexes[ev.ID] = ev
		case engine.Happened:
			r.happened = append(r.happened, ev)
		case engine.TouchCounted:
			r.counted = append(r.counted, ev.Controller+"/"+ev.Control)
		case engine.Judged:
			r.judged = append(r.judged, ev)
		case engine.HoldsChanged:
			r.live.Holds = ev.All
		case engine.SwitchesChanged:
			r.live.Switches = ev.Now
		case engine.TimersChanged:
			r.live.Timers = ev.All
		case engine.Seen:
			r.live.Seen = ev.At
		case engine.LatencyChanged:
			r.stats[ev.Device], r.stats[ev.Device+"/"+ev.Action] = ev.All, ev.One
		case engine.ReadingChanged:
			if _, had := r.readings[ev.Key.String()]; !had {
				r.paths[ev.Key.Device] = append(r.paths[ev.Key.Device], ev.Key.Path)
			}
			r.readings[ev.Key.String()] = ev.Now
		}
	}
}

// ready waits until links are up.
func (r *rig) ready(devices ...string) {
	r.Helper()
	r.until("the devices are there", func() bool {
		return !slices.ContainsFunc(devices, func(id string) bool { return r.links[id].Phase != link.Up })
	})
}

// value gives a reading as it stands.
func (r *rig) value(key string) any {
	r.settle()
	return r.readings[key].Value
}

// is fails unless a reading has a value.
func (r *rig) is(key string, want any) {
	r.Helper()
	if got := r.value(key); got != want {
		r.Errorf("%s is %v, want %v", key, got, want)
	}
}

// row gives a run as it stands.
func (r *rig) row(entry string) engine.RunRow {
	r.settle()
	return r.rows[entry]
}

// over waits until a run has ended.
func (r *rig) over(entry string) engine.RunRow {
	r.Helper()
	r.until("the run has ended", func() bool { return r.rows[entry].Ended })
	return r.rows[entry]
}

// hand operates a device at its front panel.
func (r *rig) hand(d *memory.Device, address string, value any) {
	r.Helper()
	if err := d.Operate(deviceMessage(address, value)); err != nil {
		r.Fatal(err)
	}
	r.settle()
}

// until lets time go on until a condition holds.
func (r *rig) until(what string, holds func() bool) {
	r.Helper()
	for range 6000 {
		r.settle()
		if holds() {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	r.Fatalf("within a minute it was not so that %s", what)
}

// settle waits until everything has come to rest, and takes in what was told.
func (r *rig) settle() {
	r.Settle()
	r.drain()
}

// remove takes a device out of the rig.
func (r *rig) remove(id string) {
	r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Device(id).Ref()) })
}

// touch hands in a touch of a control and gives the journal entry.
func (r *rig) touch(controller, control string, edge input.Edge, amount float64) string {
	id := journal.NextID()
	r.Input(engine.Input{Entry: id, At: time.Now(), Controller: controller, Control: control, Edge: edge, Amount: amount, Link: "hand", Via: "panel", Actor: "Tobin"})
	r.settle()
	return id
}

// press presses a key of the producer grid's page Cut and lets it go.
func (r *rig) press(control string) string {
	id := r.touch("producer-grid", control, input.Down, 0)
	r.touch("producer-grid", control, input.Up, 0)
	return id
}

// own asks for an action of Synaptor itself, and gives its entry.
func (r *rig) own(action string, params map[string]string) string {
	id := journal.NextID()
	r.Ask(engine.Try{Request: r.request(id), Response: r.Program.CompileCall(show.Call{Device: "synaptor", Action: action, Params: params})})
	r.settle()
	return id
}

// macro puts a macro into the show.
func (r *rig) macro(m show.Macro, steps ...show.Step) {
	r.Edit(func(d *show.Draft, _ *show.Show) {
		d.Put(&m)
		for i, s := range steps {
			s.ID, s.Macro, s.Position = cmp.Or(s.ID, m.ID+string(rune('a'+i))), m.ID, i+1
			d.Put(&s)
		}
	})
}

// run starts a macro and gives the journal entry.
func (r *rig) run(id string) string {
	entry := journal.NextID()
	r.RunMacro(engine.Input{Entry: entry, At: time.Now(), Via: "macros", Actor: "Tobin"}, id)
	r.settle()
	return entry
}

// outcome gives what became of an entry, and why.
func (r *rig) outcome(entry string) (o journal.Outcome, reason string) {
	r.settle()
	for _, ev := range r.Events() {
		if ev.Entry == entry && ev.Outcome != "" {
			o, reason = ev.Outcome, ev.Reason
		}
	}
	return o, reason
}

// ends waits for the end of an entry and fails when it is another one.
func (r *rig) ends(entry string, want journal.Outcome, reason string) {
	r.Helper()
	r.until("the entry ends", func() bool { o, _ := r.outcome(entry); return o != "" && o != journal.Guarded && o != journal.UnderWay })
	if o, why := r.outcome(entry); o != want || !strings.Contains(why, reason) {
		r.Errorf("the entry ended %q, %q; want %q, …%s…", o, why, want, reason)
	}
}

// got lists the addresses that reached a device since a time.
func got(d *memory.Device, since time.Time) (out []string) {
	for _, g := range d.Got() {
		if !g.At.Before(since) {
			out = append(out, g.Message.String())
		}
	}
	return out
}

// do is a step that does something.
func do(device, action string, params map[string]string) show.Step {
	return show.Step{Kind: macro.Do, Action: &show.Call{Device: device, Action: action, Params: params}}
}

// keyer is a step that switches a downstream keyer.
func keyer(n string, on bool) show.Step {
	action := "keyer-off"
	if on {
		action = "keyer-on"
	}
	return do("dome-switcher", action, map[string]string{"keyer": n})
}

// mute is a step that mutes or opens a channel.
func mute(channel string, on bool) show.Step {
	action := "open"
	if on {
		action = "mute"
	}
	return do("sound-desk", action, map[string]string{"channel": channel})
}

// in puts a step into another one.
func in(parent string, s show.Step) show.Step {
	s.Parent = parent
	return s
}

// putBack is a step that restores what the macro has changed.
var putBack = show.Step{Kind: macro.PutBack}

// wait is a step that waits.
func wait(ms int) show.Step { return show.Step{Kind: macro.Wait, Ms: ms} }

// program1 is the action that cuts the first mix effect to an input.
func program1(input string) show.Step {
	return do("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": input})
}

// request is somebody who asks for something without a control.
func (r *rig) request(entry string) engine.Request {
	return engine.Request{Entry: entry, At: time.Now(), Via: "macros", Actor: "Tobin"}
}

// Reading implements expr.World: what the engine has told of.
func (r *rig) Reading(k reading.Key) reading.Reading {
	if now, has := r.readings[k.String()]; has {
		return now
	}
	return reading.Reading{Quality: reading.Unknown}
}

// Paths implements device.Known.
func (r *rig) Paths(device string) []string { return r.paths[device] }

// deviceMessage is a message to a device with one value.
func deviceMessage(address string, value any) device.Message {
	return device.Message{Address: address, Args: []any{value}}
}
