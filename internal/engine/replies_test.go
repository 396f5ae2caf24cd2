package engine_test

import (
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// onKey gives an action to a key of the page Cut.
func (r *rig) onKey(control string, does show.Step) {
	r.Edit(func(d *show.Draft, s *show.Show) {
		m := s.MappingAt("cut", control).Clone()
		m.Responses[0].Action = *does.Action
		d.Put(m)
	})
}

// TestARefusalGoesToTheCommandThatItNames has a command that takes its time, and one after it
// that the device refuses at once.
func TestARefusalGoesToTheCommandThatItNames(t *testing.T) {
	on(t, func(r *rig) {
		r.onKey("b1", do("dome-switcher", "put-on-program", map[string]string{"mix": "2", "input": "77"}))
		slow := r.press("b3") // auto: a transition of a second
		r.ends(r.press("b1"), journal.Refused, "no input 77")
		r.ends(slow, journal.Confirmed, "")
	})
}

func TestARefusalThatNamesNothingUnderWayIsNobodys(t *testing.T) {
	on(t, func(r *rig) {
		slow := r.press("b3")
		r.Switcher.Tell("/error", "out of range", "/keyer/9/on")
		r.ends(slow, journal.Confirmed, "")
	})
}

func TestARefusalThatNamesNothingIsAGuessAtTheYoungest(t *testing.T) {
	on(t, func(r *rig) {
		r.onKey("b1", do("dome-switcher", "auto", map[string]string{"mix": "2"}))
		first, second := r.press("b3"), r.press("b1")
		r.Switcher.Tell("/error", "not now")
		r.ends(second, journal.Refused, "A guess")
		r.ends(first, journal.Confirmed, "")
	})
}
