package store

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
)

// TestThePastIsKeptAndAsked: what readings became in a time, what they were before that, and where there is too much the newest.
func TestThePastIsKeptAndAsked(t *testing.T) {
	j, err := OpenJournal(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	start := time.Now().Add(-time.Hour).Truncate(time.Microsecond)
	at := func(s int) time.Time { return start.Add(time.Duration(s) * time.Second) }
	level, mute := reading.Key{Device: "desk", Path: "channel/5/level"}, reading.Key{Device: "desk", Path: "channel/1/mute"}
	var was []journal.Was
	var events []journal.Happened
	for i := range 100 {
		was = append(was, journal.Was{At: at(i), Key: level, Value: float64(-i)})
		events = append(events, journal.Happened{At: at(i), Body: json.RawMessage(fmt.Sprintf(`{"n":%d}`, i))})
	}
	was = append(was, journal.Was{At: at(3), Key: mute, Value: true})
	if err := j.SavePast(was, events); err != nil {
		t.Fatal(err)
	}
	before, then, err := j.Past([]reading.Key{level, mute}, at(50), at(59), 1000)
	if err != nil || len(before) != 2 || len(then) != 10 || then[0].Value != -50.0 || then[9].Value != -59.0 {
		t.Errorf("there was %v, then %v, %v", before, then, err)
	}
	for _, b := range before {
		if want := map[reading.Key]any{level: -49.0, mute: true}[b.Key]; b.Value != want {
			t.Errorf("before, %s was %v, want %v", b.Key, b.Value, want)
		}
	}
	before, then, err = j.Past([]reading.Key{level}, at(0), at(99), 5)
	if err != nil || len(then) != 5 || then[0].Value != -95.0 || then[4].Value != -99.0 || len(before) != 1 || before[0].Value != -94.0 {
		t.Errorf("of too much there is %v, before that %v, %v", then, before, err)
	}
	got, err := j.PastEvents(at(10), at(99), 3)
	if err != nil || len(got) != 3 || string(got[0].Body) != `{"n":97}` || !got[2].At.Equal(at(99)) {
		t.Errorf("the last events are %v, %v", got, err)
	}
	trim := func(most, mostEvents int, old time.Time) {
		t.Helper()
		if err := j.do(func(db *sqlx.DB) error {
			tx, err := db.Beginx()
			if err == nil {
				err = trimPast(tx, most, mostEvents, old)
			}
			if err != nil {
				return err
			}
			return tx.Commit()
		}); err != nil {
			t.Fatal(err)
		}
	}
	trim(1000, 20, at(30))
	if _, then, _ = j.Past([]reading.Key{level, mute}, at(0), at(99), 1000); len(then) != 70 || then[0].Value != -30.0 {
		t.Errorf("after a week there are %d, from %v on", len(then), then[0])
	}
	if got, _ = j.PastEvents(at(0), at(99), 1000); len(got) != 20 {
		t.Errorf("of the events %d are kept", len(got))
	}
	trim(10, 20, at(0))
	if _, then, _ = j.Past([]reading.Key{level}, at(0), at(99), 1000); len(then) > 10 {
		t.Errorf("of ten at most %d are kept", len(then))
	}
}
