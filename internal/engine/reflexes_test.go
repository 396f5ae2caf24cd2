package engine_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// reflex adds one that puts an input on the program of mix 1.
func (r *rig) reflex(id, input string, on show.On, change ...func(*show.Reflex)) {
	r.Helper()
	x := &show.Reflex{ID: id, Name: id, On: on, Then: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": input}}}
	for _, f := range change {
		f(x)
	}
	r.Edit(func(d *show.Draft, s *show.Show) {
		x.Position = len(s.Reflexes())
		d.Put(x)
	})
}

// fired counts the firings of a reflex that were carried out.
func (r *rig) fired(name string) (n int) {
	r.settle()
	for _, e := range r.Events() {
		if e.Text == "The reflex answers" && r.actorOf(e.Entry) == "Reflex "+name {
			n++
		}
	}
	return n
}

// actorOf is who caused an entry.
func (r *rig) actorOf(entry string) string {
	for _, e := range r.Events() {
		if e.Entry == entry && e.Origin != nil {
			return e.Origin.Actor
		}
	}
	return ""
}

var level = show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/5/level", Edge: reflex.Falls, Level: -30, Back: 5}

// TestAReflexWaitsUntilItHasBeenSo for as long as it says, and fires once.
func TestAReflexWaitsUntilItHasBeenSo(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", -10.0)
		waits := level
		waits.ForMs = 2000
		r.reflex("quiet", "6", waits)
		r.hand(r.Desk, "/channel/5/level", -40.0)
		time.Sleep(1900 * time.Millisecond)
		if n := r.fired("quiet"); n != 0 {
			t.Errorf("too early it has fired %d times", n)
		}
		r.hand(r.Desk, "/channel/5/level", -20.0) // it has gone back
		time.Sleep(5 * time.Second)
		r.hand(r.Desk, "/channel/5/level", -50.0)
		time.Sleep(2100 * time.Millisecond)
		if n := r.fired("quiet"); n != 1 {
			t.Errorf("after its time it has fired %d times", n)
		}
		time.Sleep(10 * time.Second)
		if n := r.fired("quiet"); n != 1 {
			t.Errorf("it has fired %d times", n)
		}
		r.is("dome-switcher:mix/1/program", "6")
	})
}

// TestWhatComesTooOftenWaitsInItsQueue and fires in its order, once in its time.
func TestWhatComesTooOftenWaitsInItsQueue(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", -10.0)
		changes := show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/5/level", Edge: reflex.Changes}
		r.reflex("all", "6", changes, func(x *show.Reflex) { x.EveryMs, x.Beyond, x.Length = 10_000, reflex.Queue, 2 })
		for i := range 6 {
			r.hand(r.Desk, "/channel/5/level", -20.0-float64(i))
		}
		for want := 1; want <= 3; want++ { // one at once, two that wait; the others were dropped
			if n := r.fired("all"); n != want {
				t.Fatalf("it has fired %d times, want %d", n, want)
			}
			time.Sleep(10 * time.Second)
		}
		if n := r.fired("all"); n != 3 {
			t.Errorf("it has fired %d times", n)
		}
	})
}

// TestReflexesOfOneEventAreTakenUpInTheirOrder, and one that was switched off, or whose device is away, does nothing.
func TestReflexesOfOneEventAreTakenUpInTheirOrder(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", -10.0)
		r.reflex("first", "5", level)
		r.reflex("second", "6", level)
		r.reflex("off", "3", level, func(x *show.Reflex) { x.Off = true })
		r.reflex("never", "2", level, func(x *show.Reflex) { x.Unless = "reading('sound-desk:channel/5/level') < 0" })
		r.reflex("guarded", "4", level, func(x *show.Reflex) { x.When = "event.was > 0" })
		r.hand(r.Desk, "/channel/5/level", -40.0)
		r.is("dome-switcher:mix/1/program", "6")
		for name, want := range map[string]int{"first": 1, "second": 1, "off": 0, "never": 0, "guarded": 0} {
			if n := r.fired(name); n != want {
				t.Errorf("%s has fired %d times", name, n)
			}
		}
	})
}

// TestAReflexThatSetsItselfOffIsBroken at once, by way of whichever others, and mended by an edit.
func TestAReflexThatSetsItselfOffIsBroken(t *testing.T) {
	on(t, func(r *rig) {
		of := func(mix string) show.On {
			return show.On{Kind: reflex.OnReading, Device: "dome-switcher", Path: "mix/" + mix + "/program", Edge: reflex.Changes}
		}
		flip := func(mix, input string) func(*show.Reflex) {
			return func(x *show.Reflex) { x.Then.Params = map[string]string{"mix": mix, "input": input} }
		}
		r.reflex("ping", "", of("1"), flip("2", "3"))
		r.reflex("pong", "", of("2"), flip("1", "4"))
		r.hand(r.Switcher, "/mix/1/program", 2)
		time.Sleep(3 * time.Second)
		if a, b := r.fired("ping"), r.fired("pong"); a != 1 || b != 1 {
			t.Errorf("ping has fired %d times, pong %d", a, b)
		}
		said := func(e journal.Event) bool {
			return strings.Contains(e.Reason, "It has set itself off, by way of ping, pong. It is switched off.")
		}
		if !slices.ContainsFunc(r.Events(), said) {
			t.Error("the journal does not say that one was switched off")
		}
		many := show.On{Kind: reflex.OnReading, Device: "sound-desk", Path: "channel/5/level", Edge: reflex.Changes}
		r.reflex("flood", "6", many)
		for i := range 40 {
			r.hand(r.Desk, "/channel/5/level", -20.0-float64(i%2))
		}
		if n := r.fired("flood"); n > reflex.BreakAfter {
			t.Errorf("a flood has fired it %d times", n)
		}
	})
}
