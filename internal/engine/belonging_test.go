package engine_test

import (
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/memory"
	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// slow makes the answers of both devices take so long.
func (r *rig) slow(ms int) {
	r.Helper()
	for _, d := range []*memory.Device{r.Desk, r.Switcher} {
		if err := d.SetFaults(faults.Faults{LatencyMs: ms}); err != nil {
			r.Fatal(err)
		}
	}
}

// TestAnAnswerToAnOlderQuestionContradictsNothing has the device asked for everything, and
// something else done before it answers.
func TestAnAnswerToAnOlderQuestionContradictsNothing(t *testing.T) {
	on(t, func(r *rig) {
		r.ends(r.press("a1"), journal.Confirmed, "")
		r.slow(60)
		for _, key := range []string{"b1", "c1", "d1", "a1"} {
			r.Refresh("dome-switcher")
			r.settle()
			time.Sleep(10 * time.Millisecond)
			r.ends(r.press(key), journal.Confirmed, "")
			time.Sleep(time.Second)
		}
	})
}

// TestAPressThatALaterOneOvertookIsNotConfirmed: the device has not said a word on it.
func TestAPressThatALaterOneOvertookIsNotConfirmed(t *testing.T) {
	on(t, func(r *rig) {
		r.slow(500)
		first, second := r.press("b1"), r.press("c1")
		r.Hear("dome-switcher", []device.Report{{Path: "mix/1/program", Value: "3"}})
		r.ends(first, journal.Overtaken, "A later command")
		r.ends(second, journal.Confirmed, "")
	})
}

// TestAFadeBeginsWithItsFirstStepAndEndsInTime, and not a tick later.
func TestAFadeBeginsWithItsFirstStepAndEndsInTime(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/channel/1/level", 0.0)
		fade := do("sound-desk", "level", map[string]string{"channel": "1", "level": "-20"})
		fade.Kind, fade.Ms = macro.Fade, 1000
		r.macro(show.Macro{ID: "m", Name: "M"}, fade)
		began := time.Now()
		r.over(r.run("m"))
		var at []time.Duration
		for _, g := range r.Desk.Got() {
			if strings.HasPrefix(g.Message.Address, "/channel/1/level") && !g.At.Before(began) {
				at = append(at, g.At.Sub(began))
			}
		}
		if len(at) < 20 || at[0] > 20*time.Millisecond {
			t.Fatalf("%d steps, the first after %v", len(at), at[0])
		}
		if last := at[len(at)-1]; last < 980*time.Millisecond || last > 1020*time.Millisecond {
			t.Errorf("the last step is after %v", last)
		}
	})
}

// TestALatencyThatChangesIsUsedAfterFiveCommands, whichever actions they were.
func TestALatencyThatChangesIsUsedAfterFiveCommands(t *testing.T) {
	on(t, func(r *rig) {
		r.slow(20)
		keys := []string{"a1", "b1", "c1", "d1"}
		for i := range 40 {
			r.ends(r.press(keys[i%4]), journal.Confirmed, "")
			time.Sleep(100 * time.Millisecond)
		}
		r.slow(200)
		for i := range 6 {
			r.ends(r.press(keys[i%4]), journal.Confirmed, "")
			time.Sleep(100 * time.Millisecond)
		}
		r.settle()
		for what, s := range r.stats {
			if s.Count > 0 && s.Median < 150*time.Millisecond && strings.HasPrefix(what, "dome-switcher") {
				t.Errorf("%s is still thought to take %v", what, s.Median)
			}
		}
		if s := r.stats["dome-switcher"]; s.Count == 0 {
			t.Error("nothing is known of the switcher")
		}
	})
}
