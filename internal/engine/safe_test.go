package engine_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// safePictures give the first mix effect and two outputs their safe pictures: bars, and black.
func (r *rig) safePictures() {
	r.Edit(func(d *show.Draft, _ *show.Show) {
		d.Put(&show.SafePicture{ID: "dome-switcher.mix.1.program", Then: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "82"}}})
		for _, output := range []string{"1", "2"} {
			d.Put(&show.SafePicture{ID: "dome-switcher.out." + output + ".source", Then: show.Call{Device: "dome-switcher", Action: "route", Params: map[string]string{"output": output, "input": "81"}}})
		}
	})
}

// safe presses Safe, and gives its entry.
func (r *rig) safe() string {
	id := journal.NextID()
	r.Ask(engine.Safe{Request: r.request(id)})
	r.settle()
	return id
}

// areSafe fails unless the outputs show their safe pictures.
func (r *rig) areSafe() {
	r.Helper()
	r.is("dome-switcher:mix/1/program", "82")
	r.is("dome-switcher:out/1/source", "81")
	r.is("dome-switcher:out/2/source", "81")
}

// TestSafePutsItsPicturesOnAllOutputs at once, again with a second press, and what was there before the first returns.
func TestSafePutsItsPicturesOnAllOutputs(t *testing.T) {
	on(t, func(r *rig) {
		r.ends(r.safe(), journal.Refused, "no output has a safe picture")
		r.safePictures()
		before := map[string]any{}
		for _, k := range []string{"dome-switcher:mix/1/program", "dome-switcher:out/1/source", "dome-switcher:out/2/source"} {
			before[k] = r.value(k)
		}
		pressed := time.Now()
		entry := r.safe()
		if sent := got(r.Switcher, pressed); len(sent) != 3 {
			t.Errorf("in the same turn were sent %v", sent)
		}
		r.ends(entry, journal.Confirmed, "")
		r.areSafe()
		r.is("synaptor:safe/text", "3 of 3")
		r.ends(r.safe(), journal.Confirmed, "")
		r.areSafe()
		time.Sleep(10 * time.Minute)
		r.ends(r.own("safe-back", nil), journal.Confirmed, "")
		for k, want := range before {
			r.is(k, want)
		}
		r.is("synaptor:safe/text", "")
		r.ends(r.own("safe-back", nil), journal.Refused, "nothing that could be put back")
	})
}

// TestWhatRunsDoesNotChangeASafeOutput: neither a macro that went on, nor its put back, nor a reflex; a hand does, from then on a macro as well.
func TestWhatRunsDoesNotChangeASafeOutput(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.macro(show.Macro{ID: "m", Name: "M", Again: "both"}, program1("3"), wait(1000), program1("4"), keyer("1", true), wait(1000), putBack)
		r.reflex("cue", "5", show.On{Kind: reflex.OnSignal, Signal: "cue"})
		run := r.run("m")
		r.is("dome-switcher:mix/1/program", "3")
		r.safe()
		row := r.over(run)
		r.areSafe()
		if !strings.Contains(strings.Join(row.Left, " "), "stays so until a hand changes it") {
			t.Errorf("the run says %v", row.Left)
		}
		r.is("dome-switcher:keyer/1/on", false) // what it may do it has done: on, and back
		r.own("signal", map[string]string{"signal": "cue"})
		r.areSafe()
		if why := r.reflexes["cue"].Held; !strings.Contains(why, "safe picture") {
			t.Errorf("the reflex was held back because %q", why)
		}
		r.press("b1") // a hand: input 2 on program
		r.is("dome-switcher:mix/1/program", "2")
		r.is("synaptor:safe/text", "2 of 3")
		r.over(r.run("m"))
		r.is("dome-switcher:mix/1/program", "2") // it was put back by the macro itself
		r.own("signal", map[string]string{"signal": "cue"})
		r.is("dome-switcher:mix/1/program", "5")
	})
}

// TestSafeSaysWhatItCannotReach by name, and never sends it late.
func TestSafeSaysWhatItCannotReach(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.Edit(func(d *show.Draft, _ *show.Show) {
			d.Put(&show.SafePicture{ID: "sound-desk.main.level", Then: show.Call{Device: "sound-desk", Action: "main-level", Params: map[string]string{"level": "-60"}}})
		})
		r.Switcher.Cut()
		r.until("it is away", func() bool { return r.links["dome-switcher"].Phase != "up" })
		r.ends(r.safe(), journal.Confirmed, "")
		if failed, _ := r.value("synaptor:safe/failed").(string); strings.Count(failed, "does not answer") != 3 {
			t.Errorf("what failed is %q", failed)
		}
		r.is("synaptor:safe/text", "1 of 4")
		since := time.Now()
		_ = r.Switcher.Open()
		r.until("it is back", func() bool { return r.links["dome-switcher"].Phase == "up" })
		for _, m := range got(r.Switcher, since) {
			if strings.Contains(m, "program") || strings.Contains(m, "source") {
				t.Errorf("late it was sent %s", m)
			}
		}
	})
}

// unequal has the devices answer so much later, and be known for it.
func (r *rig) unequal(switcher, desk int) {
	r.Helper()
	for d, ms := range map[interface{ SetFaults(faults.Faults) error }]int{r.Switcher: switcher, r.Desk: desk} {
		if err := d.SetFaults(faults.Faults{LatencyMs: ms}); err != nil {
			r.Fatal(err)
		}
	}
	r.Edit(func(d *show.Draft, _ *show.Show) {
		d.Put(&show.SafePicture{ID: "sound-desk.main.level", Then: show.Call{Device: "sound-desk", Action: "main-level", Params: map[string]string{"level": "-60"}}})
	})
	for range 3 {
		r.safe()
		time.Sleep(2 * time.Second)
		r.own("safe-back", nil)
		time.Sleep(2 * time.Second)
	}
	r.settle()
}

// TestSafeLandsAsItWasRehearsed: together, and when the rehearsal says, where devices do not answer equally fast.
func TestSafeLandsAsItWasRehearsed(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.unequal(30, 90)
		stats := func(device, action string) reading.Stats {
			if action != "" {
				device += "/" + action
			}
			return r.stats[device]
		}
		facts := plan.NewFacts(context.Background(), r.Program, nil, r, func(string) string { return "" }, stats)
		want := plan.RehearseSafe(facts, r.Program.Safe, func(*program.Response) string { return "" })
		pressed := time.Now()
		r.safe()
		r.until("all are there", func() bool {
			return r.readings["sound-desk:main/level"].Value == -60.0 && r.readings["dome-switcher:out/2/source"].Value == "81"
		})
		took := time.Since(pressed)
		for _, l := range want {
			if l.Problem != "" || l.At != want[0].At {
				t.Errorf("rehearsed is %+v, and the first lands at %v", l, want[0].At)
			}
		}
		if at := want[0].At; took < at-time.Millisecond || took > at+5*time.Millisecond {
			t.Errorf("all were safe after %v, rehearsed was %v", took, at)
		}
	})
}

// TestADeviceThatIsLostInTheMiddleOfASafe is said by name, and what was held back for it so that all land together is not sent later.
func TestADeviceThatIsLostInTheMiddleOfASafe(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.unequal(30, 230)
		id := journal.NextID()
		r.Ask(engine.Safe{Request: r.request(id)})
		time.Sleep(50 * time.Millisecond) // the desk is told; the switcher is to be told 200 ms after it
		r.Switcher.Cut()
		r.until("it is away", func() bool { return r.links["dome-switcher"].Phase != "up" })
		r.until("the entry ends", func() bool { o, _ := r.outcome(id); return o != "" && o != journal.UnderWay })
		if outcome, _ := r.outcome(id); outcome == journal.Confirmed {
			t.Error("it says that all is well")
		}
		if failed, _ := r.value("synaptor:safe/failed").(string); strings.Count(failed, "Nothing was sent.") != 3 || strings.Contains(failed, "..") {
			t.Errorf("what failed is %q", failed)
		}
		r.is("synaptor:safe/text", "1 of 4")
		back := time.Now()
		_ = r.Switcher.Open()
		r.until("it is back", func() bool { return r.links["dome-switcher"].Phase == "up" })
		time.Sleep(time.Second)
		for _, m := range got(r.Switcher, back) {
			if strings.Contains(m, "program") || strings.Contains(m, "source") {
				t.Errorf("late it was sent %s", m)
			}
		}
	})
}

// TestWhatHasNotTakenItsSafePictureIsNotSafe: a device that says nothing, or refuses, is named, and the next press asks it again.
func TestWhatHasNotTakenItsSafePictureIsNotSafe(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.unequal(5, 5)
		if err := r.Switcher.SetFaults(faults.Faults{LossPercent: 100}); err != nil {
			t.Fatal(err)
		}
		id := r.safe()
		r.until("it is told", func() bool { o, _ := r.outcome(id); return o != "" && o != journal.UnderWay })
		r.until("what is missing is named", func() bool { return r.value("synaptor:safe/text") == "1 of 4" })
		if missing, _ := r.value("synaptor:safe/missing").(string); strings.Count(missing, ",") != 2 {
			t.Errorf("missing is %q", missing)
		}
		if err := r.Switcher.SetFaults(faults.Faults{}); err != nil {
			t.Fatal(err)
		}
		r.until("it is back", func() bool { return r.links["dome-switcher"].Phase == "up" })
		r.ends(r.safe(), journal.Confirmed, "")
		r.areSafe()
		r.is("synaptor:safe/text", "4 of 4")
		r.is("synaptor:safe/missing", "")
	})
}
