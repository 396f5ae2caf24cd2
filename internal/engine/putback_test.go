package engine_test

import (
	"fmt"
	"math"
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

// TestAStepAfterAPutBackComesAfterIt: a put back tells the quick device later, so that all lands together; what
// follows is told after it, and is worked out from it.
func TestAStepAfterAPutBackComesAfterIt(t *testing.T) {
	on(t, func(r *rig) {
		if err := r.Desk.SetFaults(faults.Faults{LatencyMs: 120}); err != nil {
			t.Fatal(err)
		}
		r.macro(show.Macro{ID: "warm", Name: "Warm"}, mute("2", false), wait(300), mute("2", true), wait(300))
		r.over(r.run("warm"))
		toggle := show.Step{Kind: macro.Do, Action: &show.Call{Device: "dome-switcher", Action: "keyer-toggle", Params: map[string]string{"keyer": "1"}}}
		r.macro(show.Macro{ID: "m", Name: "On and on"}, keyer("1", true), mute("2", false), wait(300), putBack, toggle)
		r.ends(r.run("m"), journal.Confirmed, "")
		r.is("sound-desk:channel/2/mute", true)
		r.is("dome-switcher:keyer/1/on", true)
	})
}

// TestAPutBackOnTheHeelsOfAnotherReturnsWhatThatHasReturned: the inner one has not told the quick device yet.
func TestAPutBackOnTheHeelsOfAnotherReturnsWhatThatHasReturned(t *testing.T) {
	on(t, func(r *rig) {
		if err := r.Desk.SetFaults(faults.Faults{LatencyMs: 120}); err != nil {
			t.Fatal(err)
		}
		r.macro(show.Macro{ID: "warm", Name: "Warm"}, mute("2", false), wait(300), mute("2", true), wait(300))
		r.over(r.run("warm"))
		r.macro(show.Macro{ID: "inner", Name: "Inner"}, keyer("1", false), mute("2", false), wait(300), putBack)
		r.macro(show.Macro{ID: "outer", Name: "Outer"}, keyer("1", true), wait(200), show.Step{Kind: macro.Run, Run: "inner"}, putBack)
		r.ends(r.run("outer"), journal.Confirmed, "")
		r.is("sound-desk:channel/2/mute", true)
		r.is("dome-switcher:keyer/1/on", false)
	})
}

// TestARunThatBeginsInAPutBackFindsWhatThatBringsAbout: twice the same, the second one while the put back of the
// first is on its way.
func TestARunThatBeginsInAPutBackFindsWhatThatBringsAbout(t *testing.T) {
	on(t, func(r *rig) {
		if err := r.Desk.SetFaults(faults.Faults{LatencyMs: 120}); err != nil {
			t.Fatal(err)
		}
		r.macro(show.Macro{ID: "inner", Name: "Inner"}, program1("3"), mute("2", false), wait(300), putBack)
		r.macro(show.Macro{ID: "m", Name: "Twice"}, show.Step{ID: "twice", Kind: macro.Repeat, Count: 2}, in("twice", show.Step{Kind: macro.Run, Run: "inner"}))
		r.over(r.run("m"))
		r.ends(r.run("m"), journal.Confirmed, "")
		r.is("sound-desk:channel/2/mute", true)
		r.is("dome-switcher:mix/1/program", "1")
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

func TestSilenceIsPutBack(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", math.Inf(-1))
		r.macro(show.Macro{ID: "m", Name: "M"}, do("sound-desk", "level", map[string]string{"channel": "5", "level": "-20"}), keyer("1", true))
		id := r.run("m")
		r.over(id)
		r.is(level5, -20.0)
		p, err := r.PutBackPlan(id)
		if err != nil || len(p.Returns) != 2 {
			t.Fatalf("the plan: %+v, %v", p, err)
		}
		if err := r.PutBack(id, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Confirmed, "")
		time.Sleep(time.Second)
		r.is(level5, math.Inf(-1))
		r.is("dome-switcher:keyer/1/on", false)
	})
}

// TestAPutBackIsConfirmedWithItsLastCommand: those that are quicker wait, so that all return together.
func TestAPutBackIsConfirmedWithItsLastCommand(t *testing.T) {
	on(t, func(r *rig) {
		if err := r.Switcher.SetFaults(faults.Faults{LatencyMs: 300}); err != nil {
			t.Fatal(err)
		}
		r.macro(show.Macro{ID: "m", Name: "M"}, keyer("1", true), mute("5", false))
		id := r.run("m")
		r.over(id)
		if err := r.PutBack(id, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Confirmed, "")
		r.is("sound-desk:channel/5/mute", true)
		r.is("dome-switcher:keyer/1/on", false)
	})
}

func TestAPutBackSaysWhatCouldNotReturn(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "M"}, keyer("1", true), mute("5", false))
		id := r.run("m")
		r.over(id)
		r.deaf(true)
		if err := r.PutBack(id, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Unconfirmed, "Put back Sound desk: Music")
		r.is("dome-switcher:keyer/1/on", false)
	})
}

func TestARunWithinReturnsWhatItFoundItself(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "inner", Name: "Inner"}, program1("2"), wait(200), putBack)
		r.macro(show.Macro{ID: "outer", Name: "Outer"}, program1("3"), wait(200), show.Step{Kind: macro.Run, Run: "inner"}, wait(200), program1("5"), wait(200), putBack)
		r.hand(r.Switcher, "/mix/1/program", 1)
		var seen []any
		entry := r.run("outer")
		for range 150 {
			if now := r.value("dome-switcher:mix/1/program"); len(seen) == 0 || seen[len(seen)-1] != now {
				seen = append(seen, now)
			}
			time.Sleep(10 * time.Millisecond)
		}
		r.over(entry)
		if got := fmt.Sprint(seen); got != "[1 3 2 3 5 1]" && got != "[3 2 3 5 1]" {
			t.Errorf("the program was %s", got)
		}
	})
}

// TestWhatIsWorkedOutFromAReadingThatWasJustSetIsRight: the picture goes on preview and is cut to at once.
func TestWhatIsWorkedOutFromAReadingThatWasJustSetIsRight(t *testing.T) {
	for _, ms := range []int{0, 80, 300} {
		on(t, func(r *rig) {
			r.slow(ms)
			time.Sleep(5 * time.Second)
			preview := do("dome-switcher", "put-on-preview", map[string]string{"mix": "1", "input": "4"})
			together := show.Step{ID: "mt", Kind: macro.Together}
			r.macro(show.Macro{ID: "m", Name: "M"}, preview, together, in("mt", do("dome-switcher", "cut", map[string]string{"mix": "1"})), in("mt", mute("5", false)), keyer("1", true))
			entry := r.run("m")
			row := r.over(entry)
			if row.State != macro.Ended || len(row.Left) > 0 {
				t.Errorf("at %d ms it has %s: %s, left %q", ms, row.State, row.Reason, row.Left)
			}
			r.is("dome-switcher:mix/1/program", "4")
			r.is("dome-switcher:keyer/1/on", true)
		})
	}
}

// TestAPutBackAfterAKillIsComplete: what lived was stored before the last steps, and the last step was
// still on its way.
func TestAPutBackAfterAKillIsComplete(t *testing.T) {
	t.Parallel()
	for ms := 0; ms <= 1500; ms += 50 {
		on(t, func(r *rig) {
			r.hand(r.Desk, "/channel/5/level", -30.0)
			r.macro(show.Macro{ID: "m", Name: "M"}, keyer("1", true), wait(200), mute("5", false), wait(200), fade5("0", 800), program1("4"), wait(900), keyer("2", true), wait(5000))
			entry := r.run("m")
			time.Sleep(time.Duration(ms) * time.Millisecond)
			r.settle()
			// Nothing of the run had been stored when it was killed.
			r.restart(engine.LiveState{}.WithIntents(r.Intended()))
			if len(r.left) != 1 || r.left[0].Entry != entry || r.left[0].Title != "M" {
				t.Fatalf("after %d ms there is offered %+v", ms, r.left)
			}
			if err := r.PutBack(entry, engine.Input{Entry: "back", At: time.Now()}); err != nil {
				t.Fatal(err)
			}
			time.Sleep(3 * time.Second)
			for k, want := range map[string]any{"dome-switcher:keyer/1/on": false, "dome-switcher:keyer/2/on": false, "sound-desk:channel/5/mute": true, level5: -30.0, "dome-switcher:mix/1/program": "1"} {
				if got := r.value(k); got != want {
					t.Errorf("killed after %d ms and put back, %s is %v, want %v", ms, k, got, want)
				}
			}
			if n := len(r.Intended()); n != 0 {
				t.Errorf("after %d ms and a put back %d are still noted", ms, n)
			}
		})
	}
}

func TestARunThatHasEndedIsNotOfferedAfterAKill(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "M"}, keyer("1", true), wait(200), mute("5", false))
		entry := r.run("m")
		time.Sleep(100 * time.Millisecond)
		stored := r.kept() // what lived, as it was stored last
		r.over(entry)
		r.restart(engine.LiveState{Runs: stored}.WithIntents(r.Intended()))
		if len(stored) != 1 || len(r.left) != 0 {
			t.Errorf("stored %+v, offered %+v", stored, r.left)
		}
	})
}
