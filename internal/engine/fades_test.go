package engine_test

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

const level5 = "sound-desk:channel/5/level"

// fade5 is a step that fades channel 5.
func fade5(to string, ms int) show.Step {
	return show.Step{Kind: macro.Fade, Ms: ms, Action: &show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": to}}}
}

// level is where channel 5 stands.
func (r *rig) level() float64 {
	v, _ := r.value(level5).(float64)
	return v
}

// steadily fails where channel 5 jumps or turns back on its way.
func (r *rig) steadily(d time.Duration, up bool) {
	r.Helper()
	last := r.level()
	for range int(d / (20 * time.Millisecond)) {
		time.Sleep(20 * time.Millisecond)
		now := r.level()
		if up && now < last-0.1 || !up && now > last+0.1 || math.Abs(now-last) > 5 {
			r.Fatalf("it goes from %v to %v", last, now)
		}
		last = now
	}
}

// takenOver fails unless a run says that its fade was taken over.
func (r *rig) takenOver(entry, by string) {
	r.Helper()
	row := r.over(entry)
	if !strings.Contains(strings.Join(row.Left, "\n"), "was taken over by "+by) {
		r.Errorf("the run has left %q, and says nothing of %s", row.Left, by)
	}
	if row.State != macro.Ended {
		r.Errorf("its run has %s: %s", row.State, row.Reason)
	}
}

func TestTheYoungerFadeTakesOver(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", -20.0)
		r.macro(show.Macro{ID: "up", Name: "Up"}, fade5("0", 4000))
		r.macro(show.Macro{ID: "down", Name: "Down"}, fade5("-40", 4000))
		up := r.run("up")
		r.steadily(2*time.Second, true)
		down := r.run("down")
		time.Sleep(100 * time.Millisecond)
		r.steadily(3800*time.Millisecond, false)
		r.takenOver(up, "Set Music to -40 dB")
		r.ends(down, journal.Confirmed, "")
		r.is(level5, -40.0)
	})
}

// TestWhateverSetsAReadingTakesItsFadeOver: a dial, a press, and a hand on the desk itself.
func TestWhateverSetsAReadingTakesItsFadeOver(t *testing.T) {
	for name, c := range map[string]struct {
		by   string
		does func(r *rig)
		to   func(at float64) float64
	}{
		"a dial": {"", func(r *rig) {
			r.touch("scope-console", "dial1", input.Turns, -1)
		}, func(at float64) float64 { return at - 0.5 }},
		"a press": {"", func(r *rig) { r.hold("c1", tap) }, func(float64) float64 { return -50 }},
		"a hand":  {"a hand on Sound desk", func(r *rig) { r.hand(r.Desk, "/channel/5/level", -60.0) }, func(float64) float64 { return -60 }},
	} {
		t.Run(name, func(t *testing.T) {
			on(t, func(r *rig) {
				level := show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "-50"}}
				r.dial(input.Turn, &show.Dial{Step: 0.5}, level)
				r.key(nil, map[string]show.Call{input.Press: level})
				r.hand(r.Desk, "/channel/5/level", -20.0)
				r.macro(show.Macro{ID: "up", Name: "Up"}, fade5("0", 4000))
				up := r.run("up")
				r.steadily(2*time.Second, true)
				at := r.level()
				c.does(r)
				time.Sleep(100 * time.Millisecond)
				if got, want := r.level(), c.to(at); math.Abs(got-want) > 0.25 {
					t.Errorf("from %v it leads to %v, want %v", at, got, want)
				}
				now := r.level()
				time.Sleep(5 * time.Second)
				r.is(level5, now)
				r.takenOver(up, c.by)
			})
		})
	}
}

// TestASlowDeskIsNoHand: what a device reports late was sent before.
func TestASlowDeskIsNoHand(t *testing.T) {
	for _, ms := range []int{40, 300, 900} {
		on(t, func(r *rig) {
			r.hand(r.Desk, "/channel/5/level", -20.0)
			r.slow(ms)
			time.Sleep(10 * time.Second)
			r.macro(show.Macro{ID: "up", Name: "Up"}, fade5("0", 4000))
			r.macro(show.Macro{ID: "down", Name: "Down"}, fade5("-90", 2000))
			for _, id := range []string{"up", "down", "up"} {
				if row := r.over(r.run(id)); row.State != macro.Ended || len(row.Left) > 0 {
					t.Errorf("at %d ms the run has %s, %s, and left %q", ms, row.State, row.Reason, row.Left)
				}
			}
			time.Sleep(2 * time.Second)
			r.is(level5, 0.0)
		})
	}
}

// TestAPutBackFindsAFadeThatHasJustBegun: no step of it was confirmed, and it is ended all the same.
func TestAPutBackFindsAFadeThatHasJustBegun(t *testing.T) {
	on(t, func(r *rig) {
		slow := fade5("0", 4000)
		slow.Curve = "slow-start" // its first step changes nothing that could be told apart
		for i, first := range []show.Step{fade5("0", 400), slow} {
			r.hand(r.Desk, "/channel/5/level", -20.0)
			id := fmt.Sprint("there", i)
			r.macro(show.Macro{ID: id, Name: "There and back"}, first, putBack)
			r.ends(r.run(id), journal.Confirmed, "")
			time.Sleep(5 * time.Second)
			r.is(level5, -20.0)
		}
	})
}

// TestAHaltInAPutBackOffersWhatTheFadeHasMoved: the put back waits for the slower device, and never comes to the desk.
func TestAHaltInAPutBackOffersWhatTheFadeHasMoved(t *testing.T) {
	on(t, func(r *rig) {
		if err := r.Switcher.SetFaults(faults.Faults{LatencyMs: 120}); err != nil {
			t.Fatal(err)
		}
		r.macro(show.Macro{ID: "warm", Name: "Warm"}, keyer("1", true), wait(300), keyer("1", false), wait(300))
		r.over(r.run("warm"))
		r.hand(r.Desk, "/channel/5/level", -20.0)
		r.macro(show.Macro{ID: "m", Name: "There and back"}, keyer("1", true), fade5("0", 4000), wait(500), putBack)
		id := r.run("m")
		time.Sleep(550 * time.Millisecond)
		r.Halt(engine.Halt{Request: engine.Request{Entry: "halt", At: time.Now()}})
		r.over(id)
		time.Sleep(time.Second)
		if at := r.level(); at == -20 || len(r.left) != 1 {
			t.Fatalf("it is at %v, and this is offered: %+v", at, r.left)
		}
		if err := r.PutBack(id, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Confirmed, "")
		r.is(level5, -20.0)
	})
}

// TestAFadeBeginsWhereTheStepBeforeItPutTheLevel, though the desk has not said so yet.
func TestAFadeBeginsWhereTheStepBeforeItPutTheLevel(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", 0.0)
		r.slow(40)
		set := show.Step{Kind: macro.Do, Action: &show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "-40"}}}
		r.macro(show.Macro{ID: "on", Name: "On"}, set, fade5("-30", 400))
		entry := r.run("on")
		time.Sleep(100 * time.Millisecond)
		if at := r.level(); at < -40.1 || at > -30 {
			t.Errorf("on its way from -40 to -30 it is at %v", at)
		}
		r.over(entry)
		r.is(level5, -30.0)
	})
}

func TestAPutBackEndsTheFadeAndReturnsWhatWas(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/5/level", -20.0)
		r.macro(show.Macro{ID: "up", Name: "Up"}, fade5("0", 4000))
		up := r.run("up")
		time.Sleep(2 * time.Second)
		if err := r.PutBack(up, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.ends("back", journal.Confirmed, "")
		time.Sleep(5 * time.Second)
		r.is(level5, -20.0)
	})
}
