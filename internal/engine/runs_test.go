package engine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// again puts in a macro that takes a second, with what a second press does.
func (r *rig) again(what string) string {
	r.macro(show.Macro{ID: "m", Name: "M", Again: what}, keyer("1", true), wait(1000), keyer("1", false))
	return "m"
}

func TestASecondPressIsLeftOutWhereTheFirstIsLeftToFinish(t *testing.T) {
	on(t, func(r *rig) {
		r.again("finish")
		first := r.run("m")
		r.ends(r.run("m"), journal.Refused, "left to finish")
		if row := r.over(first); row.State != macro.Ended || row.TookMs != 1000 {
			t.Errorf("the first: %+v", row)
		}
	})
}

func TestASecondPressStopsTheFirst(t *testing.T) {
	on(t, func(r *rig) {
		r.again("stop")
		first := r.run("m")
		time.Sleep(500 * time.Millisecond)
		r.ends(r.run("m"), journal.Sent, "")
		if row := r.over(first); row.State != macro.Halted || len(row.Steps) != 1 {
			t.Errorf("the first: %+v", row)
		}
		time.Sleep(2 * time.Second)
		r.is("dome-switcher:keyer/1/on", true) // nothing came after
	})
}

func TestASecondPressStartsOver(t *testing.T) {
	on(t, func(r *rig) {
		r.again("restart")
		first := r.run("m")
		time.Sleep(500 * time.Millisecond)
		second := r.run("m")
		if row := r.over(first); row.State != macro.Halted {
			t.Errorf("the first: %+v", row)
		}
		if row := r.over(second); row.State != macro.Ended || len(row.Steps) != 2 || row.TookMs != 1000 {
			t.Errorf("the second: %+v", row)
		}
	})
}

func TestPressesWaitTheirTurnAndAHaltEndsTheirWait(t *testing.T) {
	on(t, func(r *rig) {
		r.again("queue")
		first, second := r.run("m"), r.run("m")
		a, b := r.over(first), r.over(second)
		if took := b.Started.Sub(a.Started); took < time.Second || took > 1100*time.Millisecond {
			t.Errorf("the second began %v after the first", took)
		}
		entries := []string{}
		for range 4 {
			entries = append(entries, r.run("m"))
		}
		for _, e := range entries {
			r.ends(e, journal.Confirmed, "")
		}
		first, second = r.run("m"), r.run("m")
		r.Halt(engine.Halt{Request: r.request("halt")})
		r.ends(first, journal.Halted, "")
		r.ends(second, journal.Refused, "halted")
		r.ends("halt", journal.Confirmed, "")
	})
}

func TestTheQueueOfAMacroHasAnEnd(t *testing.T) {
	on(t, func(r *rig) {
		r.again("queue")
		refused := 0
		for range 40 {
			if _, why := r.outcome(r.run("m")); strings.Contains(why, "wait their turn already") {
				refused++
			}
		}
		if refused != 19 {
			t.Errorf("%d of 40 presses were refused", refused)
		}
	})
}

func TestAHundredPressesAtOnceStartOneRun(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Once"}, keyer("1", true), wait(300), keyer("1", false))
		began := 0
		for range 100 {
			if o, _ := r.outcome(r.run("m")); o != journal.Refused {
				began++
			}
		}
		if began != 1 {
			t.Errorf("%d of 100 presses began a run", began)
		}
	})
}

func TestAHaltStopsEverythingAtOnceAndOffersWhatIsLeft(t *testing.T) {
	on(t, func(r *rig) {
		was := r.value("sound-desk:channel/5/level")
		r.macro(show.Macro{ID: "m", Name: "Long"}, keyer("2", true), show.Step{Kind: macro.Fade, Ms: 5000,
			Action: &show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "10"}}}, wait(5000), program1("6"))
		entry := r.run("m")
		time.Sleep(2 * time.Second)
		r.Halt(engine.Halt{Request: r.request("halt"), Macro: "another"})
		r.ends("halt", journal.Confirmed, "")
		if r.row(entry).State != macro.Going {
			t.Error("the halt of another macro has halted it")
		}
		r.Halt(engine.Halt{Request: r.request("all"), Macro: "m"})
		r.ends(entry, journal.Halted, "Tobin")
		at := r.value("sound-desk:channel/5/level")
		time.Sleep(10 * time.Second)
		r.is("sound-desk:channel/5/level", at)
		if len(r.left) != 1 || r.left[0].Entry != entry || r.left[0].Title != "Long" {
			t.Fatalf("offered: %+v", r.left)
		}
		if err := r.PutBack(entry, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		time.Sleep(time.Second)
		r.is("dome-switcher:keyer/2/on", false)
		r.is("sound-desk:channel/5/level", was)
		if len(r.left) != 0 {
			t.Errorf("still offered: %+v", r.left)
		}
	})
}

func TestNothingLeavesAfterAHaltHasCome(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Many"}, keyer("1", true), keyer("2", true), keyer("3", true))
		asked := false
		r.Sabotage(func(ev journal.Event) bool {
			if ev.Stage == journal.StageDispatch && ev.Text != "The run begins" && ev.Entry != "halt" && !asked {
				asked = true
				r.Halt(engine.Halt{Request: r.request("halt")}) // it comes while the steps leave
			}
			return false
		})
		entry := r.run("m")
		r.ends(entry, journal.Halted, "Tobin")
		if row := r.over(entry); !asked || len(row.Steps) != 1 {
			t.Errorf("asked %v, %d steps left", asked, len(row.Steps))
		}
		r.is("dome-switcher:keyer/2/on", false)
	})
}

func TestADeviceThatGoesInTheMiddleStopsTheRunUnlessItGoesOn(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "stops", Name: "Cut off"}, keyer("1", true), wait(1500), keyer("2", true))
		r.macro(show.Macro{ID: "goes", Name: "Goes on", OnError: "go-on"}, keyer("1", true), wait(1500), keyer("2", true), mute("1", true))
		first, second := r.run("stops"), r.run("goes")
		time.Sleep(100 * time.Millisecond)
		if err := r.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		r.ends(first, journal.Failed, "Dome switcher")
		if row := r.over(second); row.State != macro.Ended || len(row.Left) == 0 {
			t.Errorf("goes on: %+v", row)
		}
		r.is("sound-desk:channel/1/mute", true)
		r.ends(r.run("stops"), journal.Refused, "nothing was started")
	})
}

func TestWhatNeverComesIsGivenUpAtItsLimit(t *testing.T) {
	on(t, func(r *rig) {
		waitFor := func(otherwise string, ms int) show.Step {
			return show.Step{Kind: macro.WaitFor, LimitMs: ms, Else: otherwise, When: "reading('dome-switcher:keyer/3/on') == true"}
		}
		r.macro(show.Macro{ID: "stops", Name: "Stops"}, waitFor("", 300), keyer("1", true))
		r.ends(r.run("stops"), journal.Failed, "has not come within 300ms")
		r.macro(show.Macro{ID: "goes", Name: "Goes on"}, waitFor("go-on", 300), keyer("1", true))
		if row := r.over(r.run("goes")); row.State != macro.Ended || row.TookMs != 300 {
			t.Errorf("goes on: %+v", row)
		}
		r.macro(show.Macro{ID: "comes", Name: "Comes"}, waitFor("", 9000), keyer("2", true))
		entry := r.run("comes")
		time.Sleep(time.Second)
		if r.row(entry).WaitsAt == "" {
			t.Error("it does not wait")
		}
		r.hand(r.Switcher, "/keyer/3/on", 1)
		if row := r.over(entry); row.State != macro.Ended || row.TookMs != 1000 {
			t.Errorf("comes: %+v", row)
		}
	})
}

func TestAnEditOfARunningMacroWaitsForTheNextRun(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Edited"}, keyer("1", true), wait(1200), keyer("2", true))
		entry := r.run("m")
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.StepsOf("m")[2].Ref()) })
		if row := r.over(entry); len(row.Steps) != 2 {
			t.Errorf("the run goes on with what it began with: %+v", row)
		}
		r.is("dome-switcher:keyer/2/on", true)
		if row := r.over(r.run("m")); len(row.Steps) != 1 {
			t.Errorf("the next run: %+v", row)
		}
		r.macro(show.Macro{ID: "gone", Name: "Deleted"}, keyer("3", true), wait(1000), keyer("3", false))
		entry = r.run("gone")
		r.Edit(func(d *show.Draft, s *show.Show) {
			for _, st := range s.StepsOf("gone") {
				d.Delete(st.Ref())
			}
			d.Delete(s.Macro("gone").Ref())
		})
		if row := r.over(entry); row.State != macro.Ended {
			t.Errorf("deleted: %+v", row)
		}
		r.is("dome-switcher:keyer/3/on", false)
	})
}

func TestStepsAreDispatchedWhenThePlanSays(t *testing.T) {
	on(t, func(r *rig) {
		steps := []show.Step{}
		for i := range 20 {
			steps = append(steps, keyer(fmt.Sprint(i%3+1), i%2 == 0), wait(37))
		}
		r.macro(show.Macro{ID: "m", Name: "Even"}, steps...)
		for _, s := range r.over(r.run("m")).Steps {
			if s.DispatchedUs != s.PlannedUs {
				t.Errorf("step %s was planned at %d µs and dispatched at %d µs", s.Step, s.PlannedUs, s.DispatchedUs)
			}
		}
	})
}

func TestATogetherLandsAtOnceOnDevicesThatWereMeasured(t *testing.T) {
	on(t, func(r *rig) {
		for d, ms := range map[string]int{"switcher": 30, "desk": 170} {
			dev := map[string]interface{ SetFaults(faults.Faults) error }{"switcher": r.Switcher, "desk": r.Desk}[d]
			if err := dev.SetFaults(faults.Faults{LatencyMs: ms}); err != nil {
				t.Fatal(err)
			}
		}
		r.macro(show.Macro{ID: "warm", Name: "Warm"}, keyer("1", true), mute("1", true), wait(300), keyer("1", false), mute("1", false), wait(300))
		for range 3 {
			r.over(r.run("warm"))
		}
		r.macro(show.Macro{ID: "m", Name: "Both"}, show.Step{ID: "t", Kind: macro.Together}, in("t", keyer("2", true)), in("t", mute("2", true)))
		row := r.over(r.run("m"))
		if len(row.Together) != 1 || row.Together[0].MeasuredUs > 2000 || row.Steps[0].StartedUs < 160_000 {
			t.Errorf("%+v", row)
		}
	})
}
