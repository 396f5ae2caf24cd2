package engine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
)

// leftovers has so many runs cut off by a device that goes away.
func (r *rig) leftovers(n int) {
	r.macro(show.Macro{ID: "m", Name: "M", Again: "both"}, keyer("1", true), wait(5000), keyer("2", true))
	for i := range n {
		r.hand(r.Switcher, "/keyer/1/on", 0)
		id := r.run("m")
		time.Sleep(100 * time.Millisecond)
		r.settle()
		r.Halt(engine.Halt{Request: r.request(fmt.Sprint("halt-", id, i))})
		r.settle()
	}
}

func TestOffersToPutBackAreBoundedAndGoWithTheirDevices(t *testing.T) {
	on(t, func(r *rig) {
		r.leftovers(30)
		if n := len(r.left); n != 1 {
			t.Fatalf("%d are offered, though all but the last have been settled by hand", n)
		}
		r.remove("dome-switcher")
		r.settle()
		if n := len(r.left); n != 0 {
			t.Errorf("%d are offered once the device is gone", n)
		}
	})
}

func TestWhatLivesOfThingsThatAreGoneIsLetGo(t *testing.T) {
	on(t, func(r *rig) {
		r.restart(engine.LiveState{
			Zones:    []engine.KeptZone{{Controller: "gone", Zone: "keys", Profile: "meteor-night"}, {Controller: "producer-grid", Zone: "keys", Profile: "gone"}},
			Profiles: map[string]string{"gone": "meteor-night", "producer-grid": "gone"},
			Turns:    map[string]string{"gone": "b"},
		})
		r.settle()
		zones, profiles, turns := r.Alive()
		for _, what := range []string{"gone/keys/meteor-night", "producer-grid/keys/gone"} {
			if zones[what] {
				t.Errorf("the pages of %s are still known", what)
			}
		}
		if len(profiles) != 0 || len(turns) != 0 || len(zones) == 0 {
			t.Errorf("the profiles are %v, the turns %v, the zones %v", profiles, turns, zones)
		}
	})
}

// TestAnOfferKeepsItsReasonAndGoesOnceItIsSettled, also over a restart.
func TestAnOfferKeepsItsReasonAndGoesOnceItIsSettled(t *testing.T) {
	on(t, func(r *rig) {
		var kept []engine.KeptRun
		for i := range 25 {
			kept = append(kept, engine.KeptRun{Entry: fmt.Sprint("run", i), Title: "Run", At: time.Now(), Reason: fmt.Sprint("Halted by Tobin, ", i),
				Changed: []macro.Kept{{Device: "sound-desk", Path: fmt.Sprintf("channel/%d/mute", i%6+1), Was: true, Quality: "confirmed", Gave: false}}})
		}
		for n := range 6 {
			r.hand(r.Desk, fmt.Sprintf("/channel/%d/mute", n+1), 0)
		}
		r.restart(engine.LiveState{Runs: kept})
		if n := len(r.left); n != 20 {
			t.Fatalf("%d are offered", n)
		}
		for _, l := range r.left {
			if !strings.HasPrefix(l.Reason, "Halted by Tobin, ") {
				t.Errorf("the reason is %q", l.Reason)
			}
		}
		for n := range 6 {
			r.hand(r.Desk, fmt.Sprintf("/channel/%d/mute", n+1), 1)
		}
		if n := len(r.left); n != 0 {
			t.Errorf("%d are offered, though everything is as it was", n)
		}
	})
}
