package reflex

import (
	"testing"
	"time"
	_ "time/tzdata"
)

func zone(t *testing.T, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return z
}

// TestSchedulesAreRightOnTheDaysOfAClockChange: a time that is left out comes at the next instant, one that comes twice comes once.
func TestSchedulesAreRightOnTheDaysOfAClockChange(t *testing.T) {
	for _, c := range []struct {
		zone, after string
		s           Schedule
		want        []string // in UTC
	}{
		// Clocks go from 02:00 to 03:00 on 29 March 2026, from 03:00 to 02:00 on 25 October.
		{"Europe/Berlin", "2026-03-28T12:00:00Z", Schedule{At: "02:30"}, []string{"2026-03-29T01:00:00Z", "2026-03-30T00:30:00Z"}},
		{"Europe/Berlin", "2026-03-28T12:00:00Z", Schedule{At: "22:30"}, []string{"2026-03-28T21:30:00Z", "2026-03-29T20:30:00Z"}},
		{"Europe/Berlin", "2026-10-24T12:00:00Z", Schedule{At: "02:30"}, []string{"2026-10-25T00:30:00Z", "2026-10-26T01:30:00Z"}},
		{"Europe/Berlin", "2026-10-25T00:45:00Z", Schedule{At: "02:30"}, []string{"2026-10-26T01:30:00Z"}}, // between the two
		{"Europe/Berlin", "2026-03-29T00:30:00Z", Schedule{Cron: "*/30 * * * *"}, []string{"2026-03-29T01:00:00Z", "2026-03-29T01:30:00Z", "2026-03-29T02:00:00Z"}},
		// From 02:00 to 03:00 on 8 March, from 02:00 to 01:00 on 1 November.
		{"America/New_York", "2026-03-08T00:00:00Z", Schedule{At: "02:15:30"}, []string{"2026-03-08T07:00:00Z", "2026-03-09T06:15:30Z"}},
		{"America/New_York", "2026-10-31T12:00:00Z", Schedule{At: "01:30"}, []string{"2026-11-01T05:30:00Z", "2026-11-02T06:30:00Z"}},
		{"America/New_York", "2026-10-31T12:00:00Z", Schedule{Cron: "30 1 * * *"}, []string{"2026-11-01T05:30:00Z", "2026-11-02T06:30:00Z"}},
		// By half an hour: from 02:00 to 02:30 on 4 October, back on 5 April.
		{"Australia/Lord_Howe", "2026-10-03T12:00:00Z", Schedule{At: "02:10"}, []string{"2026-10-03T15:30:00Z", "2026-10-04T15:10:00Z"}},
		{"Australia/Lord_Howe", "2026-04-04T12:00:00Z", Schedule{At: "01:45"}, []string{"2026-04-04T14:45:00Z", "2026-04-05T15:15:00Z"}},
		// Other days.
		{"Europe/Berlin", "2026-08-12T12:00:00Z", Schedule{At: "22:30", Days: []string{"fri", "sun"}}, []string{"2026-08-14T20:30:00Z", "2026-08-16T20:30:00Z", "2026-08-21T20:30:00Z"}},
		{"Europe/Berlin", "2026-08-12T12:00:00Z", Schedule{At: "22:30", Date: "2026-08-13"}, []string{"2026-08-13T20:30:00Z", ""}},
		{"Europe/Berlin", "2026-08-12T12:00:00Z", Schedule{Cron: "0 0 30 2 *"}, []string{""}},
	} {
		z, at := zone(t, c.zone), moment(t, c.after)
		for i, want := range c.want {
			next, ok := c.s.Next(at, z)
			if got := next.UTC().Format(time.RFC3339); ok != (want != "") || ok && got != want {
				t.Errorf("%s, %+v after %s: the %d. is %s (%v), want %s", c.zone, c.s, c.after, i+1, got, ok, want)
				break
			}
			at = next
		}
	}
}

func moment(t *testing.T, text string) time.Time {
	t.Helper()
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		t.Fatal(err)
	}
	return at
}

// TestUnclearTimesAreNamed for the year to come.
func TestUnclearTimesAreNamed(t *testing.T) {
	berlin, after := zone(t, "Europe/Berlin"), moment(t, "2026-01-01T00:00:00Z")
	for at, want := range map[string][]Clash{"02:30": {LeftOut, Twice}, "22:30": nil, "03:00": nil, "01:59": nil} {
		var got []Clash
		for _, u := range (Schedule{At: at}).Unclear(after, berlin) {
			got = append(got, u.Clash)
		}
		if len(got) != len(want) || len(want) == 2 && (got[0] != want[0] || got[1] != want[1]) {
			t.Errorf("%s is %v, want %v", at, got, want)
		}
	}
	if got := (Schedule{At: "02:30", Days: []string{"mon"}}).Unclear(after, berlin); got != nil {
		t.Errorf("on Mondays no clock changes, but %v", got)
	}
	if got := (Schedule{At: "02:30"}).Unclear(after, time.UTC); got != nil {
		t.Errorf("in UTC no clock changes, but %v", got)
	}
}

// TestWrongSchedulesAreNamed by the field.
func TestWrongSchedulesAreNamed(t *testing.T) {
	for field, list := range map[string][]Schedule{
		"on.at":   {{}, {At: "25:00"}, {At: "22"}, {At: "22:30:99"}, {At: "-1:00"}},
		"on.date": {{At: "22:30", Date: "2026-02-30"}, {At: "22:30", Date: "tomorrow"}},
		"on.days": {{At: "22:30", Days: []string{"noon"}}},
		"on.cron": {{Cron: "* * *"}, {Cron: "99 * * * *"}, {Cron: "@every 1s"}, {Cron: "TZ=UTC 0 0 * * *"}, {Cron: "CRON_TZ=UTC 0 0 * * *"}},
		"":        {{At: "22:30"}, {At: "02:15:30", Days: []string{"sat"}}, {Cron: "0,30 20-23 * * sat"}, {Cron: "@hourly"}},
	} {
		for _, s := range list {
			if got, why := s.Check(); got != field {
				t.Errorf("%+v is wrong at %q (%s), want %q", s, got, why, field)
			}
		}
	}
}

// TestAJumpOfTheClockIsNoticed, and the passing of time is none.
func TestAJumpOfTheClockIsNoticed(t *testing.T) {
	var c Clock
	wall := moment(t, "2026-08-12T20:00:00Z")
	for _, s := range []struct{ wall, passed, by time.Duration }{
		{0, 0, 0}, {time.Hour, time.Hour, 0}, {time.Hour, time.Hour + time.Second, 0}, {0, time.Hour + 2*time.Second, -time.Hour - time.Second}, {8 * time.Hour, time.Hour + 3*time.Second, 8*time.Hour - time.Second},
	} {
		if by := c.See(wall.Add(s.wall), s.passed); by != s.by {
			t.Errorf("at %v after %v the clock has jumped by %v, want %v", s.wall, s.passed, by, s.by)
		}
	}
}
