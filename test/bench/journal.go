package main

import (
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/core/timecode"
	"synaptor/internal/journal"
	"synaptor/internal/store"
)

// journalEntries is how many entries are kept at most.
const journalEntries = 200_000

// measureJournal measures how long the journal takes to find a page of 200 among 200,000 entries, half of which are of one fader, and what a night report
// asks of them. The floor is the newest page of all.
func measureJournal() error {
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	j, err := store.OpenJournal(data)
	if err != nil {
		return err
	}
	defer j.Close()
	rng := rand.New(rand.NewPCG(3, 3))
	pick := func(of ...string) string { return of[rng.IntN(len(of))] }
	began := time.Date(2026, 8, 12, 18, 0, 0, 0, time.UTC)
	at, batch, middle := began, []journal.Entry{}, time.Time{}
	for i := range journalEntries {
		at = at.Add(time.Duration(rng.IntN(300)) * time.Millisecond)
		if i == journalEntries/2 {
			middle = at
		}
		e := journal.Entry{ID: strconv.FormatInt(101_559_956_668_416+int64(i), 36), At: at, Show: "night", Outcome: journal.Outcome(pick("confirmed", "confirmed", "confirmed", "refused")), LatencyUs: rng.Int64N(9000),
			Origin: journal.Origin{Controller: "producer-grid", ControllerName: "Producer grid", Control: pick("a1", "b2", "c3"), Gesture: "press", Actor: pick("Tobin", "Oyelaran"), Via: "panel"},
			Device: "Dome switcher", Title: pick("Put Telescope feed on program", "Cut", "Auto"), Steps: []journal.Step{{Stage: journal.StageInput, Text: "a press"}}}
		if rng.IntN(2) == 0 {
			e.Device, e.Title, e.Controller, e.ControllerName, e.Control, e.Gesture = "Sound desk", "Imke to -12 dB", "scope-console", "Scope console", "slider1", "slide"
		}
		if batch = append(batch, e); len(batch) == 5000 || i == journalEntries-1 {
			if err := j.Save(batch); err != nil {
				return err
			}
			batch = batch[:0]
		}
	}
	fmt.Printf("\na journal of %d entries, half of one fader; milliseconds, and what that is to the floor\n", journalEntries)
	floor := 0.0
	report := func(title string, times int, do func() error) error {
		took := []float64{}
		for range times {
			start := time.Now()
			if err := do(); err != nil {
				return err
			}
			took = append(took, float64(time.Since(start).Microseconds())/1000)
		}
		slices.Sort(took)
		median := took[len(took)/2]
		if floor == 0 {
			floor = median
		}
		fmt.Printf("%-44s %8.1f median %8.1f worst %8.1f ×\n", title, median, took[len(took)-1], median/floor)
		return nil
	}
	for _, q := range []struct {
		title string
		w     journal.Wanted
	}{
		{"floor: the newest page", journal.Wanted{}},
		{"one fader", journal.Wanted{Controller: "scope-console", Control: "slider1"}},
		{"a person, refused", journal.Wanted{Actor: "Tobin", Outcome: journal.Refused}},
		{"a device", journal.Wanted{Device: "Dome switcher"}},
		{"words", journal.Wanted{Text: "tele feed"}},
		{"an hour in the middle", journal.Wanted{Since: middle, Until: middle.Add(time.Hour)}},
		{"an hour of words of one device", journal.Wanted{Since: middle, Until: middle.Add(time.Hour), Text: "imke", Device: "Sound desk"}},
	} {
		q.w.Show, q.w.Limit = "night", 200
		if err := report(q.title, 60, func() error { _, err := j.Find(q.w); return err }); err != nil {
			return err
		}
	}
	for _, q := range []struct {
		title string
		do    func() error
	}{
		{"use of controls, all of it", func() error { _, err := j.Uses("night", began, at, 300); return err }},
		{"the slowest", func() error { _, err := j.Slowest("night", began, at, 10); return err }},
		{"what went wrong", func() error { _, _, err := j.Troubles("night", began, at, 500); return err }},
	} {
		if err := report(q.title, 3, q.do); err != nil {
			return err
		}
	}
	many := make([]markers.Marker, 999)
	for i := range many {
		many[i] = markers.New(strconv.Itoa(i), "night", "note", "Meteor", "Tobin", "", began.Add(time.Duration(i)*time.Second), 0)
	}
	return report("999 markers as an edit list, drop frame", 20, func() error {
		return markers.CMX3600(io.Discard, "Meteor Night", many, markers.Recording{Began: began, Rate: timecode.R30Drop})
	})
}
