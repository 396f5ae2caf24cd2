// Package model plays with Synaptor at random and holds it against what must be so, whatever
// happens: a model that is small enough to be right. Time is testing/synctest's, the devices are
// in memory; a seed that fails is printed and can be run again.
package model

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/memory"
	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
)

// stepsOfSeed is how much is done in one seed.
const stepsOfSeed = 150

// usual is for how many seconds seeds are run.
const usual = 10

// TestModel runs seeds for ten seconds, or as long as MODEL_SECONDS says; MODEL_SEED runs one,
// MODEL_SHOW prints what was done, MODEL_SOCKETS=true has the devices behind sockets, in real time.
func TestModel(t *testing.T) {
	if text := os.Getenv("MODEL_SEED"); text != "" {
		seed, err := strconv.ParseUint(text, 10, 64)
		if err != nil {
			t.Fatal(err)
		}
		one(t, seed)
		return
	}
	seconds := usual
	if text := os.Getenv("MODEL_SECONDS"); text != "" {
		var err error
		if seconds, err = strconv.Atoi(text); err != nil {
			t.Fatal(err)
		}
	}
	first := uint64(1)
	if seconds > usual {
		first = uint64(time.Now().Unix()) // other ones than last time
	}
	end := time.Now().Add(time.Duration(seconds) * time.Second)
	seed := first
	for ; !t.Failed() && time.Now().Before(end); seed++ {
		one(t, seed)
	}
	t.Logf("%d seeds, from %d", seed-first, first)
}

func one(t *testing.T, seed uint64) {
	t.Run(fmt.Sprint(seed), func(t *testing.T) {
		run(t, seed, os.Getenv("MODEL_SOCKETS") == "true", func(w *world) {
			w.later(time.Second)
			for range stepsOfSeed {
				w.step()
				w.placesAreUnique()
			}
			if os.Getenv("MODEL_SHOW") != "" {
				w.Log(strings.Join(w.steps, "\n"))
			}
			w.comeToRest()
			w.diskHasTheShow()
			w.everyEntryEnded()
			w.nothingWasLate()
			w.nothingWasOutOfOrder()
			w.readingsAreTrue("dome-switcher", w.devices.switcher)
			w.readingsAreTrue("sound-desk", w.devices.desk)
		})
	})
}

// comeToRest mends what is broken, and waits until whatever goes on has come to its end.
func (w *world) comeToRest() {
	letGo(w)
	mend(w)
	halt(w)
	w.later(10 * time.Second)
	halt(w) // what waited its turn, and began since
	w.later(time.Minute)
	if w.sockets {
		w.until("every entry has ended", func() bool { return w.underWay() == nil })
	}
}

// until waits for a condition, where time is real.
func (w *world) until(what string, holds func() bool) {
	w.Helper()
	for end := time.Now().Add(time.Minute); !holds(); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			w.wrong("within a minute it was not so that %s", what)
		}
	}
}

// underWay gives an entry that has not ended; nil where all have.
func (w *world) underWay() *journal.Entry {
	for _, id := range w.announced {
		e, err := w.journal.Get(id)
		w.ok(err)
		if e == nil || e.Outcome == journal.UnderWay {
			return &journal.Entry{ID: id}
		}
	}
	for _, e := range w.entries.all() {
		if e.Outcome == journal.UnderWay {
			return &e
		}
	}
	return nil
}

// placesAreUnique holds every placement of every mapping against the places of the show.
func (w *world) placesAreUnique() {
	s := w.edit.Program().Show
	seen := map[string]string{}
	for _, m := range s.Mappings() {
		for _, p := range m.Placements {
			at := fmt.Sprintf("%s %v %s", p.Page, p.Standing, p.Control)
			if p.Standing != nil {
				at = fmt.Sprintf("%+v %s", *p.Standing, p.Control)
			}
			if other, taken := seen[at]; taken {
				w.wrong("%s and %s are both at %s", other, m.ID, at)
			}
			seen[at] = m.ID
			if p.Standing == nil && s.MappingAt(p.Page, p.Control) != m {
				w.wrong("%s is not found where it is, at %s", m.ID, at)
			}
		}
	}
}

// diskHasTheShow holds the database against the show in force.
func (w *world) diskHasTheShow() {
	stored, _, notes, err := w.db.Load()
	w.ok(err)
	if len(notes) > 0 || bytesOf(w, stored) != w.bytes() {
		w.wrong("the disk has another show: %q", notes)
	}
}

// everyEntryEnded holds the journal against what was announced: nothing is under way.
func (w *world) everyEntryEnded() {
	for _, id := range w.announced {
		e, err := w.journal.Get(id)
		w.ok(err)
		if e == nil || e.Outcome == journal.UnderWay {
			w.wrong("the announced entry %s is %+v", id, e)
		}
	}
	for _, e := range w.entries.all() {
		if e.Outcome == journal.UnderWay {
			w.wrong("an entry never ended: %+v", e)
		}
		if e.Control == "" && e.ControllerName == "" {
			w.wrong("an entry does not say where it came from: %+v", e)
		}
	}
}

// deadline is how long a command to the simulated devices may wait.
const deadline = 250 * time.Millisecond

// nothingWasLate looks at the traces of presses: from the dispatch to the wire.
func (w *world) nothingWasLate() {
	limit := deadline
	if w.sockets {
		limit *= 2 // a busy machine is late itself
	}
	for _, e := range w.entries.all() {
		dispatched, wires := int64(-1), 0
		for _, s := range e.Steps {
			switch s.Stage {
			case journal.StageDispatch:
				if dispatched >= 0 {
					wires = 100 // more than one command; their order says nothing
				}
				dispatched = s.OffsetUs
			case journal.StageWire:
				if wires++; wires == 1 && dispatched >= 0 && !strings.Contains(s.Text, "Not sent") && s.OffsetUs-dispatched > limit.Microseconds() {
					w.wrong("a command left %d µs late: %+v", s.OffsetUs-dispatched, e)
				}
			case journal.StageConfirm:
				if wires == 0 && dispatched >= 0 && e.Device != "Synaptor" && e.Device != "" && strings.Contains(s.Text, " is ") {
					w.wrong("it is confirmed before it was written: %+v", e)
				}
			}
		}
	}
}

// nothingWasOutOfOrder holds what the devices got against the order of the commands.
func (w *world) nothingWasOutOfOrder() {
	for name, d := range map[string]struct {
		got  []memory.Got
		from func(start) int
	}{
		"switcher": {w.devices.switcher.Got(), func(s start) int { return s.switcher }},
		"desk":     {w.devices.desk.Got(), func(s start) int { return s.desk }},
	} {
		for i, s := range w.starts {
			end := len(d.got)
			if i+1 < len(w.starts) {
				end = d.from(w.starts[i+1])
			}
			last := uint64(0)
			for _, g := range d.got[d.from(s):end] {
				if g.Command != 0 && g.Command < last {
					w.wrong("the %s got command %d after %d: %v", name, g.Command, last, g.Message)
				}
				last = max(last, g.Command)
			}
		}
	}
}

// readingsAreTrue holds what Synaptor knows of a device against the device.
func (w *world) readingsAreTrue(id string, d simulated) {
	if !w.up(id) {
		if dev := w.edit.Program().Show.Device(id); dev != nil && !dev.Parked && dev.Port == w.devices.ports[id] {
			w.wrong("%s is not connected: %+v", id, w.mirror.View().Link(id))
		}
		return
	}
	v := w.mirror.Current()
	typ := w.edit.Program().Devices[id].Type
	n := 0
	for address, value := range d.View().Values {
		m, err := typ.Match(device.Message{Address: address, Args: []any{value}})
		w.ok(err)
		for _, r := range m.Reports {
			k := reading.Key{Device: id, Path: r.Path}
			now := v.Reading(k)
			n++
			if now.Quality != reading.Confirmed || !reading.Equal(now.Value, r.Value, 0.001) {
				w.wrong("%s is %v (%s); the device says %v", k, now.Value, now.Quality, r.Value)
			}
		}
	}
	if n < 10 {
		w.wrong("%s has only %d readings", id, n)
	}
}
