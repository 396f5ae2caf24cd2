package engine_test

import (
	"fmt"
	"testing"
	"time"

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
		r.leftovers(70)
		if n := len(r.left); n == 0 || n > 50 {
			t.Fatalf("%d are offered", n)
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
