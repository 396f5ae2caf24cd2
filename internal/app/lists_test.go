package app_test

import (
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// TestAListOfFiveThousandNamesLeavesTheDeviceWorkable: what does not fit is said, and what the device is worked by is there also after it was away.
func TestAListOfFiveThousandNamesLeavesTheDeviceWorkable(t *testing.T) {
	r := start(t)
	r.connected("name-plates")
	titles := r.Bench.StandIn("titles")
	if err := titles.Operate(device.Message{Address: "/fill", Args: []any{5000}}); err != nil {
		t.Fatal(err)
	}
	full := func() bool { return strings.Contains(r.phase("name-plates").Problem, "more than 5000 readings") }
	r.eventually("it is said that not all fits", full)
	for range 2 {
		for _, f := range []faults.Faults{{Cut: true}, {}} {
			if err := titles.SetFaults(f); err != nil {
				t.Fatal(err)
			}
			r.eventually("its cable is out, and back", func() bool { return (r.phase("name-plates").Phase == link.Up) != f.Cut })
		}
		r.eventually("what there is one of is known", func() bool {
			return r.readingOf("name-plates", "shown").Quality == "confirmed" && r.readingOf("name-plates", "position").Quality == "confirmed"
		})
		r.eventually("and that not all fits", full)
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/devices/name-plates/try", map[string]any{"action": "toggle"}, &made)
		if e := r.entry(made.ID); e.Outcome != journal.Confirmed {
			t.Errorf("a press ended %s: %s", e.Outcome, e.Reason)
		}
	}
}

// TestACameraThatForgetsIsSetAgain: what the head was set to is lost with its power, and a macro recalls it.
func TestACameraThatForgetsIsSetAgain(t *testing.T) {
	r := start(t)
	r.connected("dome-camera")
	recall := func() {
		t.Helper()
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/input/producer-grid/e1/press", map[string]any{"page": "lights"}, &made)
		if e := r.entry(made.ID); e.Outcome != journal.Confirmed {
			t.Errorf("it ended %s: %s", e.Outcome, e.Reason)
		}
	}
	is := func(white string) func() bool {
		return func() bool { return r.readingOf("dome-camera", "white").Value == white }
	}
	recall()
	r.eventually("it has its look", is("moonlight"))
	r.must(204, "POST", "/api/v1/bench/camera/restart", nil, nil)
	r.eventually("it has forgotten", is("auto"))
	r.connected("dome-camera")
	recall()
	if v := r.Bench.StandIn("camera").View().Values; v["/white"] != "moonlight" || v["/gain"] != 55 || v["/iris"] != "open" {
		t.Errorf("it is set to %v", v)
	}
}
