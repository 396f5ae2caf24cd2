package preflight

import (
	"slices"
	"testing"
	"time"
	_ "time/tzdata"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// TestFindingsOfReflexes: a show that must raise each of them, and one beside it that must not.
func TestFindingsOfReflexes(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	now := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	program, level := reading.Key{Device: "sw", Path: "mix/1/program"}, reading.Key{Device: "desk", Path: "channel/5/level"}
	make := func(id string, change func(*Reflex)) Reflex {
		r := Reflex{Reflex: &show.Reflex{ID: id, Name: id, On: show.On{Kind: reflex.OnSignal, Signal: id}}, Waits: id}
		change(&r)
		return r
	}
	plain := func(*Reflex) {}
	at := func(clock string, days ...string) func(*Reflex) {
		return func(r *Reflex) {
			r.On = show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{At: clock, Days: days}}
		}
	}
	for name, c := range map[string]struct {
		all  []Reflex
		want []string
	}{
		"nothing":         {[]Reflex{make("a", plain), make("b", plain)}, nil},
		"never":           {[]Reflex{make("a", func(r *Reflex) { r.Never = "Its device is gone." })}, []string{"never-fires a"}},
		"the audience":    {[]Reflex{make("a", func(r *Reflex) { r.Audience, r.Writes = true, []reading.Key{level, program} })}, []string{"audience-can-cut a"}},
		"only a level":    {[]Reflex{make("a", func(r *Reflex) { r.Audience, r.Writes = true, []reading.Key{level} })}, nil},
		"a hand may":      {[]Reflex{make("a", func(r *Reflex) { r.Writes = []reading.Key{program} })}, nil},
		"a circle":        {[]Reflex{make("a", func(r *Reflex) { r.Reads, r.Writes = []reading.Key{program}, []reading.Key{level} }), make("b", func(r *Reflex) { r.Reads, r.Writes = []reading.Key{level}, []reading.Key{program} })}, []string{"reflex-loop a"}},
		"itself":          {[]Reflex{make("a", func(r *Reflex) { r.Reads, r.Writes = []reading.Key{program}, []reading.Key{program} })}, []string{"reflex-loop a"}},
		"one way only":    {[]Reflex{make("a", func(r *Reflex) { r.Writes = []reading.Key{level} }), make("b", func(r *Reflex) { r.Reads = []reading.Key{level} })}, nil},
		"two of one":      {[]Reflex{make("a", func(r *Reflex) { r.Writes = []reading.Key{level} }), make("b", func(r *Reflex) { r.Waits, r.Writes = "a", []reading.Key{level} })}, []string{"collides b"}},
		"told apart":      {[]Reflex{make("a", func(r *Reflex) { r.Writes = []reading.Key{level} }), make("b", func(r *Reflex) { r.Waits, r.Writes, r.When = "a", []reading.Key{level}, "event.x == 1" })}, nil},
		"other readings":  {[]Reflex{make("a", func(r *Reflex) { r.Writes = []reading.Key{level} }), make("b", func(r *Reflex) { r.Waits, r.Writes = "a", []reading.Key{program} })}, nil},
		"an unclear time": {[]Reflex{make("a", at("02:30"))}, []string{"schedule-unclear a", "schedule-unclear a"}},
		"a clear time":    {[]Reflex{make("a", at("22:30"))}, nil},
		"never that day":  {[]Reflex{make("a", at("02:30", "wed"))}, nil},
	} {
		var got []string
		for _, f := range Reflexes(c.all, berlin, now, func(k reading.Key) bool { return k == program }, reading.Key.String) {
			got = append(got, f.ID+" "+f.Subject.ID)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: found %v, want %v", name, got, c.want)
		}
	}
}
