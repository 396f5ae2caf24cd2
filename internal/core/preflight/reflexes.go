package preflight

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// Reflex is a reflex as far as findings rest on it.
type Reflex struct {
	*show.Reflex
	// Never says why it can never fire; empty: it can.
	Never string
	// Waits names what it waits for: two that name the same have their turn by one event.
	Waits  string
	Reads  []reading.Key
	Writes []reading.Key
	// Audience says that the audience starts it.
	Audience bool
}

// Reflexes finds what is wrong with the reflexes of a show, in their order. isPicture tells which readings are what the audience sees, called what a reading
// is called; schedules are looked at for the year after now, in the show's time zone.
func Reflexes(all []Reflex, zone *time.Location, now time.Time, isPicture func(reading.Key) bool, called func(reading.Key) string) []Finding {
	f := reflexFinder{all: all, called: called}
	f.loops()
	for i, r := range all {
		if r.Never != "" {
			f.add("never-fires", Caution, r, "%s can never fire: %s", r.Name, r.Never)
		}
		if r.Audience {
			if k := slices.IndexFunc(r.Writes, isPicture); k >= 0 {
				f.add("audience-can-cut", Caution, r, "By %s the audience can change what everybody sees: %s.", r.Name, called(r.Writes[k]))
			}
		}
		f.collides(i)
		if r.On.Kind == reflex.OnSchedule {
			f.unclear(r, zone, now)
		}
	}
	return f.out
}

type reflexFinder struct {
	all    []Reflex
	called func(reading.Key) string
	out    []Finding
}

func (f *reflexFinder) add(id, severity string, r Reflex, format string, args ...any) {
	f.out = append(f.out, Finding{ID: id, Severity: severity, Subject: r.Ref(), Text: fmt.Sprintf(format, args...), Sure: Computed})
}

// loops names the circles in which reflexes can set each other off, at the first of each.
func (f *reflexFinder) loops() {
	var nodes []reflex.Node
	byID := map[string]Reflex{}
	for _, r := range f.all {
		nodes = append(nodes, reflex.Node{ID: r.ID, Reads: r.Reads, Writes: r.Writes})
		byID[r.ID] = r
	}
	for _, loop := range reflex.Loops(nodes) {
		var names []string
		for _, id := range loop {
			names = append(names, byID[id].Name)
		}
		if len(names) == 1 {
			f.add("reflex-loop", Caution, byID[loop[0]], "%s can set itself off.", names[0])
			continue
		}
		f.add("reflex-loop", Caution, byID[loop[0]], "%s can set each other off.", strings.Join(names, ", "))
	}
}

// collides finds those before one that set the same by the same event, where nothing tells them apart.
func (f *reflexFinder) collides(i int) {
	r := f.all[i]
	if r.When+r.Unless != "" || r.Never != "" || r.On.Kind == reflex.OnWhile {
		return
	}
	for _, o := range f.all[:i] {
		if o.Waits != r.Waits || o.When+o.Unless != "" || o.Never != "" {
			continue
		}
		if k := slices.IndexFunc(r.Writes, func(k reading.Key) bool { return slices.Contains(o.Writes, k) }); k >= 0 {
			f.add("collides", Caution, r, "%s and %s set %s by the same event; %s is the last.", o.Name, r.Name, f.called(r.Writes[k]), r.Name)
			return
		}
	}
}

// unclear finds the days on which a clock change makes the time of a schedule unclear.
func (f *reflexFinder) unclear(r Reflex, zone *time.Location, now time.Time) {
	for _, u := range r.On.Schedule.Unclear(now, zone) {
		day := u.Day.In(zone).Format("2 January 2006")
		if u.Clash == reflex.LeftOut {
			f.add("schedule-unclear", Note, r, "On %s the clock passes over a time of %s: it comes at %s then.", day, r.Name, u.Day.In(zone).Format("15:04"))
		} else {
			f.add("schedule-unclear", Note, r, "On %s a time of %s comes twice: the first one counts.", day, r.Name)
		}
	}
}
