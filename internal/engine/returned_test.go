package engine_test

import (
	"slices"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// away pulls the cable of the switcher, has something be done, and puts it in again.
func (r *rig) away(meanwhile func()) {
	r.Helper()
	if err := r.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
		r.Fatal(err)
	}
	r.until("the switcher is away", func() bool { return r.links["dome-switcher"].Phase == link.Down })
	meanwhile()
	if err := r.Switcher.SetFaults(faults.Faults{}); err != nil {
		r.Fatal(err)
	}
	r.ready("dome-switcher")
	r.settle()
}

// decide decides about what differs of the switcher, and gives the entry.
func (r *rig) decide(again bool, paths ...string) string {
	id := journal.NextID()
	r.Ask(engine.Settle{Request: r.request(id), Device: "dome-switcher", Paths: paths, Again: again})
	r.settle()
	return id
}

func (r *rig) differs(want ...string) {
	r.Helper()
	r.settle()
	got := []string{}
	for _, d := range r.returned {
		for _, row := range d.Rows {
			got = append(got, row.Path+" "+row.Asked+" "+row.Says)
		}
	}
	if !slices.Equal(got, want) {
		r.Errorf("what differs is %q, want %q", got, want)
	}
}

// TestAReturnedDeviceIsHeldAgainstWhatWasAskedOfIt, row by row: nothing is sent by itself.
func TestAReturnedDeviceIsHeldAgainstWhatWasAskedOfIt(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Three"}, program1("3"), keyer("1", true), keyer("2", true))
		r.over(r.run("m"))
		r.away(func() {
			r.hand(r.Switcher, "/mix/1/program", 5)
			r.hand(r.Switcher, "/keyer/1/on", 0)
			r.ends(r.run("m"), journal.Refused, "does not answer")
		})
		if r.notSent["dome-switcher"] != 0 {
			t.Errorf("it is back, and %d were not sent", r.notSent["dome-switcher"])
		}
		r.differs("mix/1/program All-sky cam Slides", "keyer/1/on on off")
		if n := r.returned[0].NotSent; n != 1 || r.returned[0].Away <= 0 {
			t.Errorf("%d were not sent while it was away, for %d ms", n, r.returned[0].Away)
		}
		r.is("dome-switcher:mix/1/program", "5")

		r.ends(r.decide(true, "mix/1/program"), journal.Confirmed, "")
		r.is("dome-switcher:mix/1/program", "3")
		r.differs("keyer/1/on on off")
		r.ends(r.decide(false), journal.Confirmed, "")
		r.differs()
		r.is("dome-switcher:keyer/1/on", false)
		r.ends(r.decide(true), journal.Refused, "Nothing of this device differs")
	})
}

// TestWhatAHandHasChangedWhileItAnsweredDoesNotDiffer, nor what was asked of another place; and what a hand puts right meanwhile is no row any more.
func TestWhatAHandHasChangedWhileItAnsweredDoesNotDiffer(t *testing.T) {
	on(t, func(r *rig) {
		r.macro(show.Macro{ID: "m", Name: "Two"}, program1("3"), keyer("1", true))
		r.over(r.run("m"))
		r.hand(r.Switcher, "/mix/1/program", 5)
		r.away(func() {})
		r.differs()

		// What the device has refused to be is asked for no more.
		if err := r.Switcher.SetFaults(faults.Faults{Silent: true}); err != nil {
			t.Fatal(err)
		}
		entry := r.run("m")
		if err := r.Switcher.SetFaults(faults.Faults{}); err != nil {
			t.Fatal(err)
		}
		r.hand(r.Switcher, "/mix/1/program", 4)
		r.ends(entry, journal.Failed, "instead of")
		r.away(func() {})
		r.differs()
		r.macro(show.Macro{ID: "a", Name: "Auto", OnError: "go-on"}, do("dome-switcher", "auto", map[string]string{"mix": "1"}))
		entry = r.run("a")
		r.hand(r.Switcher, "/mix/1/preview", 6)
		time.Sleep(200 * time.Millisecond)
		r.hand(r.Switcher, "/mix/1/program", 1)
		r.over(entry)
		r.away(func() {})
		r.differs()

		r.over(r.run("m"))
		r.away(func() { r.hand(r.Switcher, "/keyer/1/on", 0) })
		r.differs("keyer/1/on on off")
		r.hand(r.Switcher, "/keyer/1/on", 1)
		r.differs()

		r.away(func() { r.hand(r.Switcher, "/keyer/1/on", 0) })
		r.differs("keyer/1/on on off")
		r.Edit(func(d *show.Draft, s *show.Show) {
			c := *s.Device("dome-switcher")
			c.Parked = true
			d.Put(&c)
		})
		r.differs()
	})
}
