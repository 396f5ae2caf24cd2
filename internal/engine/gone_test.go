package engine_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

func TestAPressReachesTheDeviceAndIsConfirmed(t *testing.T) {
	on(t, func(r *rig) {
		since := time.Now()
		r.ends(r.press("b1"), journal.Confirmed, "")
		if g := got(r.Switcher, since); len(g) != 1 || g[0] != "/mix/1/program 2" {
			t.Errorf("the switcher got %v", g)
		}
	})
}

// What takes a device away while something still wants it.
var takeAway = map[string]func(*rig, string){
	"removed": (*rig).remove,
	"parked":  func(r *rig, id string) { r.Change(id, func(d *show.Device) { d.Parked = true }) },
	"moved":   func(r *rig, id string) { r.Change(id, func(d *show.Device) { d.Port = 9 }) },
}

func eachWay(t *testing.T, f func(r *rig, take func(*rig, string))) {
	for name, take := range takeAway {
		t.Run(name, func(t *testing.T) { on(t, func(r *rig) { f(r, take) }) })
	}
}

func TestAMacroWhoseDeviceIsTakenAwayStopsWithASentence(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.macro(show.Macro{ID: "m", Name: "M"}, program1("2"), wait(1000), program1("3"))
		id := r.run("m")
		time.Sleep(100 * time.Millisecond)
		take(r, "dome-switcher")
		r.ends(id, journal.Failed, "Dome switcher")
	})
}

func TestAHeldKeyWhoseDeviceIsTakenAwayIsRefused(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			call := m.Responses[0].Action
			m.Responses = append(m.Responses, show.Response{Gesture: input.Hold, Action: call}, show.Response{Gesture: input.Release, Action: call},
				show.Response{Gesture: input.Repeat, Action: call})
			d.Put(m)
		})
		r.touch("producer-grid", "c1", input.Down, 0)
		take(r, "dome-switcher")
		time.Sleep(2 * time.Second)
		r.touch("producer-grid", "c1", input.Up, 0)
		r.ends(r.press("b1"), journal.Refused, "")
	})
}

func TestARunThatWaitsItsTurnDoesNotStartOnADeviceThatIsTakenAway(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.macro(show.Macro{ID: "q", Name: "Q", Again: "queue"}, program1("2"), wait(500), program1("3"))
		first, second := r.run("q"), r.run("q")
		// The last command is under way when the device goes: its end lets the next press have its turn.
		r.Switcher.Jam(true)
		time.Sleep(501 * time.Millisecond)
		r.settle()
		take(r, "dome-switcher")
		time.Sleep(5 * time.Second)
		if o, _ := r.outcome(first); o == "" {
			t.Error("the first run has not ended")
		}
		if o, _ := r.outcome(second); o != journal.Refused && o != journal.Failed {
			t.Errorf("the press that waited ended %q", o)
		}
	})
}

func TestAPutBackThatIsStaggeredEndsWhenItsDeviceIsTakenAway(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.macro(show.Macro{ID: "p", Name: "P"}, program1("2"), do("sound-desk", "mute", map[string]string{"channel": "1"}), wait(300), show.Step{Kind: macro.PutBack})
		// The slower device is sent to first, so that the other one's command waits.
		r.Change("sound-desk", func(d *show.Device) { d.LatencyMs = 900 })
		id := r.run("p")
		time.Sleep(400 * time.Millisecond)
		take(r, "dome-switcher")
		take(r, "sound-desk")
		time.Sleep(5 * time.Second)
		if o, _ := r.outcome(id); o == "" {
			t.Error("the run has not ended")
		}
	})
}

func TestADialWhoseDeviceIsTakenAwayWhileItIsPushedIsRefused(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("faders", "dial1").Clone()
			call := show.Call{Device: "dome-switcher", DeviceName: "Dome switcher", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": "1"}}
			m.Responses = []show.Response{{Gesture: input.PushTurn, Action: call}}
			d.Put(m)
		})
		r.touch("scope-console", "dial1", input.Down, 0)
		r.touch("scope-console", "dial1", input.Turns, 1)
		take(r, "dome-switcher")
		r.touch("scope-console", "dial1", input.Turns, 1)
		time.Sleep(100 * time.Millisecond)
		r.touch("scope-console", "dial1", input.Turns, 1)
		r.touch("scope-console", "dial1", input.Up, 0)
		r.settle()
	})
}

func TestAFadeWhoseDeviceIsTakenAwayStops(t *testing.T) {
	eachWay(t, func(r *rig, take func(*rig, string)) {
		r.macro(show.Macro{ID: "f", Name: "F"}, show.Step{Kind: macro.Fade, Ms: 2000,
			Action: &show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "-40"}}})
		id := r.run("f")
		time.Sleep(500 * time.Millisecond)
		take(r, "sound-desk")
		r.ends(id, journal.Failed, "Sound desk")
	})
}

func TestAControlOfAControllerThatIsRemovedGetsItsRelease(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			m.Responses = append(m.Responses, show.Response{Gesture: input.Release, Action: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "5"}}})
			d.Put(m)
		})
		since := time.Now()
		r.touch("producer-grid", "c1", input.Down, 0)
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(show.Ref{Kind: show.KindController, ID: "producer-grid"}) })
		time.Sleep(time.Second)
		if g := got(r.Switcher, since); len(g) != 2 || g[1] != "/mix/1/program 5" {
			t.Errorf("the switcher got %v", g)
		}
	})
}

func TestADeviceThatReportsTooManyReadingsKeepsSoMany(t *testing.T) {
	on(t, func(r *rig) {
		many := make([]device.Report, 6000)
		for i := range many {
			many[i] = device.Report{Path: fmt.Sprintf("input/%d/name", i+1000), Value: "Cam"}
		}
		r.Hear("dome-switcher", many)
		r.settle()
		problem := r.links["dome-switcher"].Problem
		if !strings.Contains(problem, "more than 5000 readings") {
			t.Errorf("the problem is %q", problem)
		}
		r.ends(r.press("b1"), journal.Confirmed, "")
	})
}

func TestADeviceWhosePasswordCannotBeOpenedIsNotTriedWithoutIt(t *testing.T) {
	on(t, func(r *rig) {
		r.Sources.Password = func(id string) (string, error) {
			if id == "unreadable" {
				return "", errors.New("the key has changed")
			}
			return "open", nil
		}
		r.Program = program.Compile(nil, r.Program.Show, enginetest.Library(), r.Sources)
		since := time.Now()
		r.Change("dome-switcher", func(d *show.Device) { d.Secret = "unreadable" })
		r.settle()
		const why = "The password of Dome switcher cannot be opened: the key has changed. Enter it again."
		if l := r.links["dome-switcher"]; l.Phase != link.Locked || l.Problem != why {
			t.Errorf("the link is %v, %q", l.Phase, l.Problem)
		}
		r.ends(r.press("b1"), journal.Refused, "Dome switcher")
		time.Sleep(time.Minute)
		if g := got(r.Switcher, since); len(g) != 0 {
			t.Errorf("the switcher got %v", g)
		}
		r.Change("dome-switcher", func(d *show.Device) { d.Secret = "entered again" })
		r.ready("dome-switcher")
		r.ends(r.press("b1"), journal.Confirmed, "")
	})
}

// TestANeedIsLookedAtAgainWhenItsReadingsChange: that it was met a moment ago says nothing.
func TestANeedIsLookedAtAgainWhenItsReadingsChange(t *testing.T) {
	on(t, func(r *rig) {
		r.ends(r.press("a3"), journal.Confirmed, "")
		r.hand(r.Switcher, "/mix/1/transition/position", 0.5)
		r.ends(r.press("a3"), journal.Refused, "A transition is under way")
		r.hand(r.Switcher, "/mix/1/transition/position", 0.0)
		r.ends(r.press("a3"), journal.Confirmed, "")
		r.ends(r.press("a3"), journal.Confirmed, "")
	})
}
