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

// TestALevelThatNobodyHearsSaysSo on its key and in its trace, until the channel is opened.
func TestALevelThatNobodyHearsSaysSo(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "sound-desk", "action": "level", "params": map[string]string{"channel": "1", "level": "-3"}}, nil)
	l := r.follow("page:cut")
	id := r.pages("")["cut"].Controls["a4"]
	where := func(want string) func() bool {
		return func() bool { return strings.Contains(string(l.values["face/"+id]), `"where":"`+want+`"`) }
	}
	l.until("its key says that it is muted", where("MUTED"))
	said := func() bool {
		pressed := r.press("a4")
		r.entry(pressed) // by its end it is written
		return strings.Contains(r.text("/api/v1/journal/"+pressed), "Imke is muted, and nobody hears it")
	}
	if !said() {
		t.Error("its trace does not say so")
	}
	r.operateOn("mixer", "/channel/1/mute", 0)
	l.until("its key says where it goes", where("LEVEL"))
	if said() {
		t.Error("it says so although it is open")
	}
}

// TestASlideThatIsNotThereIsRefused with a sentence, and the talk goes on where it was.
func TestASlideThatIsNotThereIsRefused(t *testing.T) {
	r := start(t)
	r.connected("talk-slides")
	try := func(action string, params map[string]string) journal.Entry {
		t.Helper()
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/devices/talk-slides/try", map[string]any{"action": action, "params": params}, &made)
		return r.entry(made.ID)
	}
	if e := try("goto-number", map[string]string{"number": "3"}); e.Outcome != journal.Refused || e.Reason != "The talk has not started." {
		t.Errorf("before the talk it ended %s: %s", e.Outcome, e.Reason)
	}
	if e := try("start", nil); e.Outcome != journal.Confirmed {
		t.Fatalf("the talk ended %s: %s", e.Outcome, e.Reason)
	}
	if e := try("goto-number", map[string]string{"number": "99"}); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "there is no slide 99; the talk has 24") {
		t.Errorf("slide 99 ended %s: %s", e.Outcome, e.Reason)
	}
	if got := r.readingOf("talk-slides", "at").Word; got != "Why meteors burn" {
		t.Errorf("it shows %s", got)
	}
}

// TestAnApplicationHasItsOwnIcon, as the computer gives it; one that there is not is a window.
func TestAnApplicationHasItsOwnIcon(t *testing.T) {
	r := start(t).ready()
	r.connected("workstation")
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "workstation", "action": "start", "params": map[string]string{"app": "2"}}, nil)
	l := r.follow("page:cut")
	glyph := func(want string) func() bool {
		return func() bool {
			return strings.Contains(string(l.values["face/"+r.pages("")["cut"].Controls["a4"]]), `"glyph":"`+want+`"`)
		}
	}
	l.until("the key has the icon of the slides", glyph("presentation-file"))
	r.operateOn("workstation", "/app/2/icon", "no such glyph")
	l.until("and that of a window", glyph("window"))
}
