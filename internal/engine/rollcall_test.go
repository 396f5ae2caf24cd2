package engine_test

import (
	"slices"
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// rollCall begins or ends the roll call.
func (r *rig) rollCall(on bool) {
	r.Ask(engine.RollCall{Request: r.request(journal.NextID()), On: on})
	r.settle()
}

// TestTouchesAreCountedInTheRollCallAndNothingIsSent: but what is urgent works, a press ends as it began, and a program is refused.
func TestTouchesAreCountedInTheRollCallAndNothingIsSent(t *testing.T) {
	on(t, func(r *rig) {
		r.safePictures()
		r.key(nil, map[string]show.Call{input.Press: channel("mute", "1"), input.Release: channel("open", "1")})
		sent := func(what string, want []string, do func()) {
			t.Helper()
			time.Sleep(time.Second)
			at := time.Now()
			if do(); !slices.Equal(r.desk(at), want) {
				t.Errorf("%s: sent was %v, want %v", what, r.desk(at), want)
			}
		}
		edge := func(e input.Edge) func() { return func() { r.touch("producer-grid", "c1", e, 0) } }
		sent("a press before it", []string{"/channel/1/mute 1"}, edge(input.Down))
		r.rollCall(true)
		sent("the end of that press", []string{"/channel/1/mute 0"}, edge(input.Up))
		sent("a press", nil, func() { edge(input.Down)(); edge(input.Up)() })
		sent("a turn", nil, func() { r.touch("scope-console", "dial1", input.Turns, 3) })
		if !slices.Equal(r.counted, []string{"producer-grid/c1", "scope-console/dial1"}) {
			t.Errorf("counted are %v", r.counted)
		}
		id := journal.NextID()
		r.Input(engine.Input{Entry: id, At: time.Now(), Controller: "producer-grid", Control: "c1", Gesture: input.Press, Via: "http", Announced: true})
		r.ends(id, journal.Refused, "The roll call is on")
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			m.Responses = []show.Response{{Gesture: input.Press, Action: show.Call{Device: "synaptor", Action: "safe"}}}
			d.Put(m)
		})
		r.press("c1")
		r.settle()
		r.areSafe()
		r.touch("producer-grid", "b1", input.Down, 0)
		r.rollCall(false)
		time.Sleep(time.Second)
		pressed := time.Now()
		r.touch("producer-grid", "b1", input.Up, 0)
		r.settle()
		if all := got(r.Switcher, pressed); len(all) > 0 {
			t.Errorf("the end of a press that was counted sent %v", all)
		}
		r.press("b1")
		r.settle()
		r.is("dome-switcher:mix/1/program", "2")
	})
}
