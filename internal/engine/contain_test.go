package engine_test

import (
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

func TestAPressThatFailsInsideEndsFailedAndTheNextOneWorks(t *testing.T) {
	on(t, func(r *rig) {
		r.Sabotage(func(ev journal.Event) bool {
			return ev.Stage == journal.StageDecision && ev.Title == "Put Telescope feed on program"
		})
		since := time.Now()
		r.ends(r.press("b1"), journal.Failed, "contained")
		r.ends(r.press("c1"), journal.Confirmed, "")
		if r.Incidents() == 0 {
			t.Error("nothing was noted")
		}
		if g := got(r.Switcher, since); g[len(g)-1] != "/mix/1/program 3" {
			t.Errorf("the switcher got %v", g)
		}
	})
}

func TestWhatAFailedPressHeldIsReleased(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			m.Responses = append(m.Responses, show.Response{Gesture: input.Release,
				Action: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "5"}}})
			d.Put(m)
		})
		r.Sabotage(func(ev journal.Event) bool { return ev.Title == "Put All-sky cam on program" })
		since := time.Now()
		r.touch("producer-grid", "c1", input.Down, 0)
		time.Sleep(time.Second)
		if g := got(r.Switcher, since); len(g) == 0 || g[len(g)-1] != "/mix/1/program 5" {
			t.Errorf("the switcher got %v", g)
		}
	})
}

func TestARunThatFailsInsideEndsAndAnotherGoesOn(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "bad", Name: "Bad"}, wait(100), do("dome-switcher", "keyer-on", map[string]string{"keyer": "1"}), wait(100), program1("4"))
		r.macro(show.Macro{ID: "good", Name: "Good"}, program1("2"), wait(150), do("sound-desk", "mute", map[string]string{"channel": "1"}))
		r.Sabotage(func(ev journal.Event) bool {
			return ev.Stage == journal.StageDispatch && strings.Contains(ev.Text, "Logo")
		})
		bad, good := r.run("bad"), r.run("good")
		r.ends(good, journal.Confirmed, "")
		r.ends(bad, journal.Failed, "inside Synaptor")
		time.Sleep(time.Second)
		for _, g := range r.Switcher.Got() {
			if g.Message.String() == "/mix/1/program 4" {
				t.Error("the run that failed went on")
			}
		}
	})
}

func TestWhatFailsThreeTimesAMinuteIsLeftAloneUntilItIsEdited(t *testing.T) {
	on(t, func(r *rig) {
		r.Sabotage(func(ev journal.Event) bool {
			return ev.Stage == journal.StageDecision && ev.Title == "Put Telescope feed on program"
		})
		for range 3 {
			r.ends(r.press("b1"), journal.Failed, "contained")
		}
		noted := r.Incidents()
		r.ends(r.press("b1"), journal.Refused, "until it is edited")
		if r.Incidents() != noted {
			t.Error("it was tried a fourth time")
		}
		r.ends(r.press("c1"), journal.Confirmed, "")
		r.Sabotage(func(journal.Event) bool { return false })
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "b1").Clone()
			m.Name = "Telescope"
			d.Put(m)
		})
		r.ends(r.press("b1"), journal.Confirmed, "")
	})
}

func TestADeviceWhoseReportsFailInsideIsParked(t *testing.T) {
	on(t, func(r *rig) {
		r.Sabotage(func(ev journal.Event) bool { return strings.HasPrefix(ev.Text, "mix/1/program is") })
		for range 3 {
			r.press("b1")
			r.press("c1")
			time.Sleep(time.Second)
		}
		if len(r.Parked()) == 0 || r.Parked()[0] != "dome-switcher" {
			t.Errorf("parked are %v", r.Parked())
		}
		r.Sabotage(func(journal.Event) bool { return false })
		r.ends(r.touch("scope-console", "a1", input.Down, 0), journal.Confirmed, "")
	})
}
