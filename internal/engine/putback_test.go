package engine_test

import (
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

func TestPutBackLeavesWhatAHandHasChanged(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Special"}, program1("3"), keyer("1", true), keyer("2", true), wait(1500), putBack)
		entry := r.run("m")
		r.hand(r.Switcher, "/mix/1/program", 5)
		row := r.over(entry)
		r.is("dome-switcher:keyer/1/on", false)
		r.is("dome-switcher:keyer/2/on", false)
		r.is("dome-switcher:mix/1/program", "5")
		if len(row.Left) != 1 || !strings.Contains(row.Left[0], "somebody has changed it since") {
			t.Errorf("left %q", row.Left)
		}
	})
}

func TestARunWithinARestoresOnlyItsOwn(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "inner", Name: "Inner"}, keyer("2", true), wait(800), putBack)
		r.macro(show.Macro{ID: "outer", Name: "Outer"}, keyer("1", true), show.Step{Kind: macro.Run, Run: "inner"}, wait(300), putBack)
		entry := r.run("outer")
		time.Sleep(900 * time.Millisecond)
		r.is("dome-switcher:keyer/2/on", false)
		r.is("dome-switcher:keyer/1/on", true)
		r.over(entry)
		r.is("dome-switcher:keyer/1/on", false)
	})
}

func TestStartedOverItKeepsWhatTheFirstRunFound(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Over", Again: "restart"}, program1("3"), wait(1200), putBack)
		r.run("m")
		time.Sleep(500 * time.Millisecond)
		r.over(r.run("m"))
		r.is("dome-switcher:mix/1/program", "1")
		if len(r.left) != 0 {
			t.Errorf("starting over left something to decide: %+v", r.left)
		}
	})
}

func TestASecondRunNeverTakesWhatTheFirstHasSetForWhatWasThere(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "first", Name: "First"}, program1("3"), wait(1000), putBack)
		r.macro(show.Macro{ID: "second", Name: "Second"}, program1("5"), wait(1800), putBack)
		a := r.run("first")
		time.Sleep(100 * time.Millisecond)
		b := r.run("second")
		if row := r.over(a); len(row.Left) != 1 {
			t.Errorf("the first left %q", row.Left)
		}
		if row := r.over(b); len(row.Left) != 1 || !strings.Contains(row.Left[0], "changes the same things") {
			t.Errorf("the second left %q", row.Left)
		}
		r.is("dome-switcher:mix/1/program", "1")
	})
}

func TestADeviceThatIsGoneAtThePutBackIsLeftAndNamed(t *testing.T) {
	on(t, func(r *rig) {
		was := r.value("sound-desk:channel/3/mute")
		r.macro(show.Macro{ID: "m", Name: "Both", OnError: "go-on"}, keyer("1", true), mute("3", was == false), wait(1800), putBack)
		entry := r.run("m")
		time.Sleep(time.Second)
		if err := r.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		if row := r.over(entry); !strings.Contains(strings.Join(row.Left, " "), "nobody knows what it is now") {
			t.Errorf("left %q", row.Left)
		}
		r.is("sound-desk:channel/3/mute", was) // the rest returned
	})
}

func TestAPressCanBePutBackForTwoMinutesAndNotLonger(t *testing.T) {
	on(t, func(r *rig) {
		first, second := r.press("c1"), ""
		time.Sleep(time.Minute)
		second = r.press("d1")
		time.Sleep(61 * time.Second)
		if _, err := r.PutBackPlan(first); !engine.NotRestorable(err) {
			t.Errorf("after two minutes: %v", err)
		}
		p, err := r.PutBackPlan(second)
		if err != nil || len(p.Returns) != 1 || p.Returns[0].To != "All-sky cam" {
			t.Errorf("%+v, %v", p, err)
		}
		if err := r.PutBack(second, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Confirmed, "")
		r.is("dome-switcher:mix/1/program", "3")
	})
}

func TestWhatARunLeftBehindIsOfferedAfterARestartAndNeverDoneByItself(t *testing.T) {
	on(t, func(r *rig) {
		since := time.Now()
		r.restart(engine.LiveState{Runs: []engine.KeptRun{{Entry: "old", Title: "Interrupted", Macro: "m", At: time.Now().Add(-time.Hour),
			Changed: []macro.Kept{{Device: "dome-switcher", Path: "keyer/1/on", Was: true, Quality: reading.Confirmed, Gave: false}}}}})
		if len(r.left) != 1 || r.left[0].Title != "Interrupted" {
			t.Fatalf("offered: %+v", r.left)
		}
		time.Sleep(time.Minute)
		if g := got(r.Switcher, since); len(g) != 0 {
			t.Errorf("it was done by itself: %v", g)
		}
		if err := r.Leave("old"); err != nil || len(r.left) != 1 {
			t.Error(err, r.left)
		}
		r.settle()
		if len(r.left) != 0 {
			t.Errorf("still offered: %+v", r.left)
		}
	})
}
