package engine_test

import (
	"encoding/json"
	"testing"
	"testing/fstest"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/journal"
	"synaptor/internal/program"
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

// inOrder gives the switcher a sheet of its own, whose device answers its commands one after the
// other.
func (r *rig) inOrder() {
	r.ownSwitcher(func(s *device.Sheet) {
		s.Link.Answer = &device.ReplySpec{FromSpec: device.FromSpec{Address: "/ok"}, Tie: "in-order"}
		s.Link.Refusal = &device.ReplySpec{FromSpec: device.FromSpec{Address: "/no"}, Tie: "in-order"}
	}, func(*device.Driver) {})
}

// ownSwitcher gives the switcher a sheet of its own.
func (r *rig) ownSwitcher(sheet func(*device.Sheet), driver func(*device.Driver)) {
	s := *enginetest.Library().Device("switcher.osc").Sheet
	s.Type = "own.switcher"
	sheet(&s)
	body, err := json.Marshal(s)
	if err != nil {
		r.Fatal(err)
	}
	lib, err := enginetest.Library().Again(fstest.MapFS{"own.json": {Data: body}})
	if err != nil || len(lib.Problems) > 0 {
		r.Fatal(err, lib.Problems)
	}
	t := lib.Device(s.Type)
	own := *t.Driver
	driver(&own)
	t.Driver = &own
	d := show.NewDraft(r.Program.Show)
	c := *r.Program.Show.Device("dome-switcher")
	c.Type = s.Type
	d.Put(&c)
	r.Use(program.Compile(nil, d.Now(), lib, r.Sources))
	r.settle()
	r.ready("dome-switcher")
}

// TestAnswersInOrderBelongToTheirCommands also where a command has ended by then, because the device
// had reported what it brought about.
func TestAnswersInOrderBelongToTheirCommands(t *testing.T) {
	on(t, func(r *rig) {
		r.onKey("b1", do("dome-switcher", "auto", map[string]string{"mix": "2"}))
		r.inOrder()
		first := r.press("c1") // it is reported at once
		r.ends(first, journal.Confirmed, "")
		slow, refused := r.press("b3"), r.press("b1")
		r.Switcher.Tell("/ok") // to the first
		r.Switcher.Tell("/ok") // to the slow one
		r.Switcher.Tell("/no", "locked")
		r.settle()
		if o, _ := r.outcome(slow); o == journal.Refused {
			t.Error("the refusal went to another command")
		}
		r.ends(slow, journal.Confirmed, "")
		if o, why := r.outcome(refused); o != journal.Refused {
			t.Errorf("the refused one is %q, %q", o, why)
		}
	})
}

// TestWhatIsToldTwiceContradictsNoPress where what a device tells comes on another connection than its answers: a second word on a press may come after the
// next one was sent. Where all comes in one order, it is one on the next.
func TestWhatIsToldTwiceContradictsNoPress(t *testing.T) {
	for requests, want := range map[bool]journal.Outcome{true: journal.Confirmed, false: journal.Disagreed} {
		on(t, func(r *rig) {
			r.ownSwitcher(func(*device.Sheet) {}, func(d *device.Driver) { d.Requests = requests })
			time.Sleep(5 * time.Second) // the answers to what it was asked are past
			r.ends(r.press("b1"), journal.Confirmed, "")
			r.Switcher.Hang(true)
			next := r.press("c1")
			time.Sleep(5 * time.Millisecond)
			r.Switcher.Tell("/mix/1/program", 2)
			r.settle()
			r.Switcher.Hang(false)
			r.settle()
			if got, why := r.outcome(next); got != want {
				t.Errorf("requests %v: it is %s (%s), want %s", requests, got, why, want)
			}
		})
	}
}
