package reflex

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/robfig/cron/v3"
)

// Schedule is when something happens by the clock on the wall: at a time of day, on some days of the week or on a date; or by a recurrence.
type Schedule struct {
	At   string   `json:"at,omitempty"`   // 22:30, or 22:30:15
	Days []string `json:"days,omitempty"` // see Days; none: every day
	Date string   `json:"date,omitempty"` // 2026-08-12; it counts instead of the days
	Cron string   `json:"cron,omitempty"` // a recurrence, in the five fields of cron; it counts instead of all others
}

// Days lists the days of the week as a schedule has them, Monday first (ISO 8601).
var Days = []string{"mon", "tue", "wed", "thu", "fri", "sat", "sun"}

// dayNames are those days in words.
var dayNames = map[string]string{"mon": "Monday", "tue": "Tuesday", "wed": "Wednesday", "thu": "Thursday", "fri": "Friday", "sat": "Saturday", "sun": "Sunday"}

// fields of a recurrence: minutes to days of the week, and names such as @hourly.
var fields = cron.NewParser(cron.Minute | cron.Hour | cron.Dom | cron.Month | cron.Dow | cron.Descriptor)

// Check says what is wrong with a schedule, by field; empty: nothing is.
func (s Schedule) Check() (field, why string) {
	if s.Cron != "" {
		if strings.HasPrefix(s.Cron, "@every") || strings.Contains(s.Cron, "TZ=") {
			return "on.cron", "A recurrence goes by the clock on the wall, in the time zone of the show."
		}
		if _, err := fields.Parse(s.Cron); err != nil {
			return "on.cron", "This recurrence cannot be read: minute, hour, day, month and day of the week, such as 0,30 20-23 * * sat."
		}
		return "", ""
	}
	if _, err := s.clock(); err != nil {
		return "on.at", "A time of day is written as 22:30 or 22:30:15."
	}
	if s.Date != "" {
		if _, err := time.Parse(time.DateOnly, s.Date); err != nil {
			return "on.date", "A date is written as 2026-08-12."
		}
	}
	for _, d := range s.Days {
		if !slices.Contains(Days, d) {
			return "on.days", "Days are " + strings.Join(Days, ", ") + "."
		}
	}
	return "", ""
}

// clock is the time of day, as a time since midnight.
func (s Schedule) clock() (time.Duration, error) {
	layout := "15:04"
	if strings.Count(s.At, ":") == 2 {
		layout = "15:04:05"
	}
	t, err := time.Parse(layout, s.At)
	return time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute + time.Duration(t.Second())*time.Second, err
}

// Next is when it happens next after a moment, in a time zone; false: never again. A time that a clock change leaves out is taken at the next instant that
// there is; one that comes twice is taken once, the first time.
func (s Schedule) Next(after time.Time, zone *time.Location) (time.Time, bool) {
	for wall := onTheWall(after.In(zone)).Add(-longestChange); ; {
		var ok bool
		if wall, ok = s.nextWall(wall); !ok {
			return time.Time{}, false
		}
		if at, _ := instant(wall, zone); at.After(after) {
			return at, true
		}
	}
}

// longestChange is more than any clock change has moved a clock.
const longestChange = 3 * time.Hour

// onTheWall is what a clock on the wall shows, as a time whose days all have 24 hours.
func onTheWall(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), t.Nanosecond(), time.UTC)
}

// nextWall is the next time on the wall that it names; false: there is none in the next years.
func (s Schedule) nextWall(wall time.Time) (time.Time, bool) {
	if s.Cron != "" {
		spec, err := fields.Parse(s.Cron)
		if err != nil {
			return time.Time{}, false
		}
		next := spec.Next(wall)
		return next, !next.IsZero()
	}
	clock, err := s.clock()
	if err != nil {
		return time.Time{}, false
	}
	if s.Date != "" {
		day, err := time.Parse(time.DateOnly, s.Date)
		at := day.Add(clock)
		return at, err == nil && at.After(wall)
	}
	day := wall.Truncate(24 * time.Hour)
	for range 9 { // today may be past, and only one day of the week may count
		if at := day.Add(clock); at.After(wall) && s.counts(day) {
			return at, true
		}
		day = day.Add(24 * time.Hour)
	}
	return time.Time{}, false
}

func (s Schedule) counts(day time.Time) bool {
	return len(s.Days) == 0 || slices.Contains(s.Days, Days[(int(day.Weekday())+6)%7])
}

// How a time on the wall comes in a zone.
type Clash string

// What clock changes do to a time on the wall.
const (
	Once    Clash = ""
	LeftOut Clash = "left out" // it does not exist that day
	Twice   Clash = "twice"
)

// instant is the moment at which a clock on the wall of a zone first shows a time, or would have: a time that is left out is the instant of the change.
func instant(wall time.Time, zone *time.Location) (time.Time, Clash) {
	_, before := wall.Add(-24 * time.Hour).In(zone).Zone() // a day each way is beyond the offset of any zone
	_, after := wall.Add(24 * time.Hour).In(zone).Zone()
	early := wall.Add(-time.Duration(before) * time.Second).In(zone)
	if before == after {
		return early, Once
	}
	late := wall.Add(-time.Duration(after) * time.Second).In(zone)
	is := func(t time.Time) bool { return onTheWall(t).Equal(wall) }
	switch {
	case is(early) && is(late) && !early.Equal(late):
		return early, Twice
	case is(early):
		return early, Once
	case is(late):
		return late, Once
	}
	_, end := late.ZoneBounds() // the change is between the two
	return end, LeftOut
}

// Unclear is a day on which a schedule names a time that does not exist, or exists twice.
type Unclear struct {
	Day   time.Time // at which it is taken
	Clash Clash
}

// Unclear lists the days of the year after a moment on which a clock change makes a time of the schedule unclear, at most one for each change.
func (s Schedule) Unclear(after time.Time, zone *time.Location) (out []Unclear) {
	for t, end := after.In(zone), after.AddDate(1, 0, 0); ; {
		_, change := t.ZoneBounds()
		if change.IsZero() || change.After(end) {
			return out
		}
		if u, is := s.unclearAt(change, zone); is {
			out = append(out, u)
		}
		t = change
	}
}

// unclearAt looks at the times on the wall around a clock change.
func (s Schedule) unclearAt(change time.Time, zone *time.Location) (Unclear, bool) {
	until := onTheWall(change).Add(longestChange)
	for wall := onTheWall(change).Add(-longestChange); ; {
		var ok bool
		if wall, ok = s.nextWall(wall); !ok || wall.After(until) {
			return Unclear{}, false
		}
		if at, clash := instant(wall, zone); clash != Once {
			return Unclear{at, clash}, true
		}
	}
}

// Words say when it happens.
func (s Schedule) Words() string {
	if s.Cron != "" {
		return "the clock comes by " + s.Cron
	}
	at := "it is " + s.At
	switch {
	case s.Date != "":
		if day, err := time.Parse(time.DateOnly, s.Date); err == nil {
			return at + " on " + day.Format("2 January 2006")
		}
	case len(s.Days) > 0:
		var names []string
		for _, d := range Days {
			if slices.Contains(s.Days, d) {
				names = append(names, dayNames[d])
			}
		}
		if len(names) > 1 {
			return fmt.Sprintf("%s on %s and %s", at, strings.Join(names[:len(names)-1], ", "), names[len(names)-1])
		}
		return at + " on " + names[0]
	}
	return at
}

// Clock notices that the clock on the wall was set, or the computer slept: it then moves by another time than has passed. The zero value has seen nothing.
type Clock struct {
	wall   time.Time
	passed time.Duration
}

// jumps is by how much the clock on the wall may be off before it counts as set.
const jumps = 2 * time.Second

// See tells of what the clock on the wall shows, and of the time that has passed since some moment that is always the same. by is how far the clock has
// jumped since it was told last; 0: it has not.
func (c *Clock) See(wall time.Time, passed time.Duration) (by time.Duration) {
	if !c.wall.IsZero() {
		by = wall.Sub(c.wall) - (passed - c.passed)
	}
	c.wall, c.passed = wall, passed
	if by > -jumps && by < jumps {
		return 0
	}
	return by
}
