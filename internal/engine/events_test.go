package engine_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// count is how often a reflex has fired.
func (r *rig) count(id string) int {
	r.settle()
	return r.reflexes[id].Count
}

// counts fails unless reflexes have fired so often.
func (r *rig) counts(want map[string]int) {
	r.Helper()
	got := map[string]int{}
	for id := range want {
		got[id] = r.count(id)
	}
	if !maps.Equal(got, want) {
		r.Errorf("they have fired %v, want %v", got, want)
	}
}

// TestMacrosSignalsAndGesturesStartReflexes, each the ones that wait for it.
func TestMacrosSignalsAndGesturesStartReflexes(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "M"}, keyer("1", true), wait(1000), keyer("1", false))
		r.macro(show.Macro{ID: "bad", Name: "Bad"}, do("sound-desk", "open", map[string]string{"channel": "99"}))
		for _, edge := range show.MacroEdges {
			r.reflex("m "+edge, "2", show.On{Kind: reflex.OnMacro, Macro: "m", Edge: edge})
		}
		r.reflex("any begins", "3", show.On{Kind: reflex.OnMacro, Edge: show.Begins})
		r.reflex("cue", "4", show.On{Kind: reflex.OnSignal, Signal: "Cue the Dome"}, func(x *show.Reflex) { x.When = "event.who == 'Tobin'" })
		r.reflex("pressed", "5", show.On{Kind: reflex.OnGesture, Controller: "producer-grid", Control: "k1", Gesture: input.Press})
		r.reflex("any pressed", "5", show.On{Kind: reflex.OnGesture, Controller: "producer-grid", Gesture: input.Press})
		r.over(r.run("m"))
		entry := r.run("m")
		r.own("halt", nil)
		r.over(entry)
		r.own("signal", map[string]string{"signal": "cue the dome!"})
		r.Ask(engine.Signal{Request: r.request("s"), Name: "other"})
		r.press("k1")
		r.press("k2")
		r.counts(map[string]int{"m begins": 2, "m ends": 1, "m halts": 1, "m fails": 0, "any begins": 2, "cue": 1, "pressed": 1, "any pressed": 2})
		r.is("synaptor:signal/cue-the-dome/count", 1)
		r.is("synaptor:signal/other/count", 1)
		kinds := map[string]bool{}
		for _, h := range r.happened {
			kinds[h.On.Kind] = true
			for _, field := range reflex.Brings[h.On.Kind] {
				if _, has := h.Fields[field]; !has && field != "value" { // a signal may bring one
					t.Errorf("a %s does not bring %s: %v", h.On.Kind, field, h.Fields)
				}
			}
		}
		if len(kinds) != 4 { // the start of Synaptor too
			t.Errorf("there happened %v", kinds)
		}
	})
}

// TestWhatAnEventBringsFillsTheResponse, by itself and by a table.
func TestWhatAnEventBringsFillsTheResponse(t *testing.T) {
	on(t, func(r *rig) {
		r.reflex("to", "{event.input}", show.On{Kind: reflex.OnSignal, Signal: "to"})
		r.reflex("who", "{event.camera}", show.On{Kind: reflex.OnSignal, Signal: "who"}, func(x *show.Reflex) {
			x.Table = &reflex.Table{By: "name", Columns: []string{"camera"}, Rows: [][]string{{"Imke", "1"}, {"Oyelaran", "2"}}}
		})
		send := func(name string, fields map[string]any) {
			r.Ask(engine.Signal{Request: r.request(journal.NextID()), Name: name, Fields: fields})
			r.settle()
		}
		send("to", map[string]any{"input": 4})
		r.is("dome-switcher:mix/1/program", "4")
		send("who", map[string]any{"name": " oyelaran "})
		r.is("dome-switcher:mix/1/program", "2")
		send("who", map[string]any{"name": "nobody"})
		r.is("dome-switcher:mix/1/program", "2")
		send("who", nil)
		if why := r.reflexes["who"].Held; !strings.Contains(why, "has no row") {
			t.Errorf("it was held back because %q", why)
		}
		for _, wrong := range []any{"", "a house", "1'; 2", strings.Repeat("9", 3000), map[string]any{"a": []any{1}}, "🌠", nil} {
			send("to", map[string]any{"input": wrong})
		}
		r.is("dome-switcher:mix/1/program", "2")
	})
}

// TestSchedulesComeByTheClockOfTheShow, are skipped once, and what was missed is noted and not caught up.
func TestSchedulesComeByTheClockOfTheShow(t *testing.T) {
	on(t, func(r *rig) { // it begins at 01:00 in Berlin
		r.reflex("half past", "3", show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{At: "01:30"}})
		r.reflex("often", "4", show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{Cron: "*/10 * * * *"}})
		r.settle()
		if at := r.reflexes["half past"].Next.UTC().Format(time.DateTime); at != "2000-01-01 00:30:00" {
			t.Errorf("it comes next at %s", at)
		}
		r.Ask(engine.SkipOnce{Request: r.request("skip"), Reflex: "often"})
		r.settle()
		if !r.reflexes["often"].Skipped {
			t.Error("it is not said to be skipped")
		}
		time.Sleep(31 * time.Minute)
		r.counts(map[string]int{"half past": 1, "often": 2})
		live := r.live
		if live.Seen.IsZero() {
			t.Fatal("that Synaptor was there is not kept")
		}
		r.Off = 15 * time.Minute
		r.restart(live)
		time.Sleep(time.Second)
		r.counts(map[string]int{"half past": 0, "often": 0})
		if why := r.reflexes["often"].Held; !strings.Contains(why, "missed at 01:40") {
			t.Errorf("it was held back because %q", why)
		}
		if why := r.reflexes["half past"].Held; why != "" {
			t.Errorf("that had fired; but %q", why)
		}
		time.Sleep(10 * time.Minute)
		r.counts(map[string]int{"often": 1})
	})
}

// TestStartsAndReturnsAreOfferedAfterAnUncleanEnd, and fire by themselves after a clean one.
func TestStartsAndReturnsAreOfferedAfterAnUncleanEnd(t *testing.T) {
	on(t, func(r *rig) {
		r.reflex("start", "3", show.On{Kind: reflex.OnStart})
		r.reflex("clean", "3", show.On{Kind: reflex.OnStart, Edge: show.Clean})
		r.reflex("link", "4", show.On{Kind: reflex.OnLink, Device: "sound-desk", Edge: show.Comes})
		r.counts(map[string]int{"start": 0, "clean": 0, "link": 0})
		r.restart(engine.LiveState{})
		r.counts(map[string]int{"start": 1, "clean": 1, "link": 0})
		r.is("dome-switcher:mix/1/program", "3") // it has waited for its switcher
		r.Unclean(true)
		r.restart(engine.LiveState{})
		r.counts(map[string]int{"start": 0, "clean": 0, "link": 0})
		if r.reflexes["start"].Offered == "" || r.reflexes["link"].Offered == "" || r.reflexes["clean"].Offered != "" {
			t.Errorf("offered are %+v", r.reflexes)
		}
		r.Ask(engine.TakeOffer{Request: r.request("take"), Reflex: "link"})
		r.Ask(engine.TakeOffer{Request: r.request("leave"), Reflex: "start", Leave: true})
		r.counts(map[string]int{"start": 0, "link": 1})
		r.is("dome-switcher:mix/1/program", "4")
		if r.reflexes["start"].Offered+r.reflexes["link"].Offered != "" {
			t.Error("they are offered still")
		}
	})
}

// TestSwitchesSurviveARestart: of one, of all, and of the audience.
func TestSwitchesSurviveARestart(t *testing.T) {
	on(t, func(r *rig) {
		cue := show.On{Kind: reflex.OnSignal, Signal: "cue"}
		r.reflex("one", "3", cue)
		r.reflex("two", "4", cue, func(x *show.Reflex) { x.Off = true })
		send := func() { r.own("signal", map[string]string{"signal": "cue"}) }
		send()
		r.counts(map[string]int{"one": 1, "two": 0})
		r.own("reflex", map[string]string{"reflex": "one", "to": "off"})
		r.own("reflex", map[string]string{"reflex": "two", "to": "the other"})
		r.is("synaptor:reflex/one/on", false)
		send()
		r.counts(map[string]int{"one": 1, "two": 1})
		r.own("reflexes", map[string]string{"to": "off"})
		r.restart(r.live)
		r.is("synaptor:reflex/two/on", true)
		r.is("synaptor:reflexes/on", false)
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Reflex("one").Ref()) }) // as another show is opened, or an edit undone
		r.reflex("one", "3", cue)
		r.is("synaptor:reflex/one/on", false)
		send()
		r.counts(map[string]int{"one": 0, "two": 0})
		r.own("reflexes", map[string]string{"to": "the other"})
		send()
		r.counts(map[string]int{"one": 0, "two": 1})
	})
}

// TestTimersRunAndSurviveARestart: up, down and to a time of day.
func TestTimersRunAndSurviveARestart(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, _ *show.Show) {
			d.Put(&show.Timer{ID: "up", Name: "On air", Kind: reflex.Up})
			d.Put(&show.Timer{ID: "down", Name: "Break", Kind: reflex.Down, Seconds: 90, Coarse: true})
			d.Put(&show.Timer{ID: "peak", Name: "Peak", Kind: reflex.To, At: "02:00:30"})
		})
		r.reflex("last minute", "3", show.On{Kind: reflex.OnReading, Device: "synaptor", Path: "timer/down/seconds", Edge: reflex.Falls, Level: 60})
		r.reflex("over", "4", show.On{Kind: reflex.OnReading, Device: "synaptor", Path: "timer/down/ended", Edge: reflex.Becomes, Value: "true"})
		text := func(want map[string]string) {
			t.Helper()
			for id, w := range want {
				if got := r.value("synaptor:timer/" + id + "/text"); got != w {
					t.Errorf("%s shows %v, want %s", id, got, w)
				}
			}
		}
		text(map[string]string{"up": "0:00", "down": "2 min", "peak": "0:00"})
		for _, id := range []string{"up", "down", "peak"} {
			r.own("timer", map[string]string{"timer": id})
		}
		time.Sleep(29500 * time.Millisecond)
		text(map[string]string{"up": "0:29", "down": "2 min"})
		r.counts(map[string]int{"last minute": 0})
		time.Sleep(time.Second)
		text(map[string]string{"up": "0:30", "down": "1:00"})
		r.counts(map[string]int{"last minute": 1, "over": 0})
		r.own("timer-stop", map[string]string{"timer": "up"})
		r.restart(r.live)
		time.Sleep(30 * time.Second)
		text(map[string]string{"up": "0:30"})
		r.is("synaptor:timer/up/running", false)
		r.is("synaptor:timer/down/running", true)
		time.Sleep(time.Minute)
		text(map[string]string{"down": "0:00"})
		r.is("synaptor:timer/down/ended", true)
		r.counts(map[string]int{"over": 1})
		r.own("timer", map[string]string{"timer": "down"}) // it begins anew
		r.own("timer-set", map[string]string{"timer": "down", "seconds": "10"})
		text(map[string]string{"down": "0:10"})
		r.own("timer-reset", map[string]string{"timer": "down"})
		text(map[string]string{"down": "2 min"})
	})
}

// TestARefusalIsOneLineWithACount, however often it comes.
func TestARefusalIsOneLineWithACount(t *testing.T) {
	on(t, func(r *rig) {
		r.reflex("cue", "3", show.On{Kind: reflex.OnSignal, Signal: "cue"}, func(x *show.Reflex) { x.Owner = "somebody who is gone" })
		r.Switcher.Cut()
		r.until("it is away", func() bool { return r.links["dome-switcher"].Phase != "up" })
		lines := map[string]bool{}
		for range 300 {
			r.Ask(engine.Signal{Request: r.request(journal.NextID()), Name: "cue"})
			time.Sleep(10 * time.Millisecond)
		}
		last := ""
		r.settle()
		for _, e := range r.Events() {
			if r.actorOf(e.Entry) == "Reflex cue" {
				lines[e.Entry] = true
				last = e.Reason
			}
		}
		if len(lines) != 1 || !strings.Contains(last, "(300 times)") {
			t.Errorf("the journal has %d lines, the last %q", len(lines), last)
		}
	})
}

// TestChainsReachThroughMacrosAndSynaptor: a circle by way of a signal is broken as any other.
func TestChainsReachThroughMacrosAndSynaptor(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "M"}, wait(100), do("synaptor", "signal", map[string]string{"signal": "again"}))
		r.reflex("echo", "", show.On{Kind: reflex.OnSignal, Signal: "again"}, func(x *show.Reflex) {
			x.Then = show.Call{Device: "synaptor", Action: "run", Params: map[string]string{"macro": "m"}}
		})
		if found := r.Program.ReflexFindings(time.Now(), r); len(found) != 1 || found[0].ID != "reflex-loop" {
			t.Errorf("found is %+v", found)
		}
		r.own("signal", map[string]string{"signal": "again"})
		time.Sleep(2 * time.Second)
		r.settle()
		if st := r.reflexes["echo"]; st.Count != 1 || st.Broken == "" {
			t.Errorf("it stands at %+v", st)
		}
	})
}

// TestAJumpOfTheClockDoesNothingByItself: what it has passed over is offered; set back an hour, no schedule comes twice.
func TestAJumpOfTheClockDoesNothingByItself(t *testing.T) {
	on(t, func(r *rig) {
		r.reflex("often", "3", show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{Cron: "*/10 * * * *"}})
		time.Sleep(9*time.Minute + 59*time.Second)
		r.Jump(time.Hour) // as a computer that has slept
		time.Sleep(5 * time.Second)
		r.counts(map[string]int{"often": 0})
		if offered := r.reflexes["often"].Offered; !strings.Contains(offered, "jumped over 01:10") {
			t.Errorf("offered is %q", offered)
		}
		next := r.reflexes["often"].Next
		r.Jump(-time.Hour)
		time.Sleep(time.Minute)
		r.settle()
		if now := r.reflexes["often"].Next; !now.Equal(next) {
			t.Errorf("set back an hour, it comes at %v and not at %v", now, next)
		}
		time.Sleep(10 * time.Minute)
		r.counts(map[string]int{"often": 1})
	})
}

// TestAReflexThatIsEditedWhileItRunsBeginsAnew: what waited for the old one is let go of, and its macro goes on.
func TestAReflexThatIsEditedWhileItRunsBeginsAnew(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "M", Again: "both"}, keyer("1", true), wait(5000), keyer("1", false))
		r.reflex("cue", "", show.On{Kind: reflex.OnSignal, Signal: "cue"}, func(x *show.Reflex) {
			x.Then = show.Call{Device: "synaptor", Action: "run", Params: map[string]string{"macro": "m"}}
			x.EveryMs, x.Beyond, x.Length = 2000, reflex.Queue, 5
		})
		for range 4 {
			r.own("signal", map[string]string{"signal": "cue"})
		}
		r.counts(map[string]int{"cue": 1})
		r.Edit(func(d *show.Draft, s *show.Show) {
			c := *s.Reflex("cue")
			c.EveryMs = 1000
			d.Put(&c)
		})
		r.is("dome-switcher:keyer/1/on", true)
		time.Sleep(20 * time.Second)
		r.counts(map[string]int{"cue": 1})
		r.is("dome-switcher:keyer/1/on", false)
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Reflex("cue").Ref()) })
		r.own("signal", map[string]string{"signal": "cue"})
	})
}

// TestALoopIsAlwaysBroken within two seconds, for rings at random of toggles that each set off the next, some of them by way of a macro: then nothing moves any more.
func TestALoopIsAlwaysBroken(t *testing.T) {
	t.Parallel()
	toggles := []struct{ device, action, param, value, path string }{}
	for i := 1; i <= 3; i++ {
		toggles = append(toggles, struct{ device, action, param, value, path string }{"dome-switcher", "keyer-toggle", "keyer", fmt.Sprint(i), fmt.Sprintf("keyer/%d/on", i)})
	}
	for i := 1; i <= 6; i++ {
		toggles = append(toggles, struct{ device, action, param, value, path string }{"sound-desk", "mute-toggle", "channel", fmt.Sprint(i), fmt.Sprintf("channel/%d/mute", i)})
	}
	for seed := range uint64(20) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			on(t, func(r *rig) {
				rnd := rand.New(rand.NewPCG(seed, 19))
				rnd.Shuffle(len(toggles), func(i, j int) { toggles[i], toggles[j] = toggles[j], toggles[i] })
				ring := toggles[:1+rnd.IntN(len(toggles))]
				for i, from := range ring {
					to := ring[(i+1)%len(ring)]
					call := show.Call{Device: to.device, Action: to.action, Params: map[string]string{to.param: to.value}}
					if rnd.IntN(3) == 0 {
						id := fmt.Sprint("m", i)
						r.macro(show.Macro{ID: id, Name: id, Again: "both"}, show.Step{Kind: "do", Action: &call})
						call = show.Call{Device: "synaptor", Action: "run", Params: map[string]string{"macro": id}}
					}
					r.reflex(fmt.Sprint("r", i), "", show.On{Kind: reflex.OnReading, Device: from.device, Path: from.path, Edge: reflex.Changes}, func(x *show.Reflex) { x.Then = call })
				}
				r.own("signal", map[string]string{"signal": "nothing"})
				r.Ask(engine.Try{Request: r.request(journal.NextID()), Response: r.Program.CompileCall(show.Call{Device: ring[0].device, Action: ring[0].action, Params: map[string]string{ring[0].param: ring[0].value}})})
				time.Sleep(2 * time.Second)
				r.settle()
				fired := 0
				for _, st := range r.reflexes {
					fired += st.Count
				}
				if most := reflex.MaxDepth + 1; fired == 0 || fired > most {
					t.Errorf("a ring of %d has fired %d times", len(ring), fired)
				}
				stopped := fired
				time.Sleep(10 * time.Second)
				r.settle()
				fired = 0
				for _, st := range r.reflexes {
					fired += st.Count
				}
				if fired != stopped {
					t.Errorf("after two seconds a ring of %d has fired %d times more", len(ring), fired-stopped)
				}
			})
		})
	}
}
