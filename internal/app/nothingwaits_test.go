package app_test

import (
	"database/sql"
	"path/filepath"
	"testing"
	"time"

	_ "modernc.org/sqlite" // the driver

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// busyEdit holds the lock of edits, as a slow edit does, until the test ends or release
// is called.
func busyEdit(r *rig) (release func()) {
	entered, leave, left := make(chan struct{}), make(chan struct{}), make(chan struct{})
	go func() {
		defer close(left)
		_ = r.Edit.Fill(edit.Who{Session: "slow", Actor: "Slow"}, "Slow", func(*show.Draft) {
			close(entered)
			<-leave
		})
	}()
	<-entered
	return func() { close(leave); <-left }
}

// busyDisk keeps every database file of a data folder locked for writing.
func busyDisk(t *testing.T, data string) (release func()) {
	t.Helper()
	var all []*sql.Tx
	for _, name := range []string{"show", "journal", "state"} {
		db, err := sql.Open("sqlite", "file:"+filepath.Join(data, name+".db")+"?_pragma=busy_timeout(5000)&_txlock=immediate")
		if err != nil {
			t.Fatal(err)
		}
		tx, err := db.Begin()
		if err != nil {
			t.Fatal(err)
		}
		if _, err := tx.Exec(`CREATE TABLE IF NOT EXISTS busy (x)`); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = db.Close() })
		all = append(all, tx)
	}
	return func() {
		for _, tx := range all {
			_ = tx.Rollback()
		}
	}
}

// worksOn checks that everything which happens on air does, whatever is busy.
func (r *rig) worksOn(t *testing.T, l runs, busy func() (release func())) {
	t.Helper()
	id := r.script("Long", nil, keyer("2", true), wait(60_000), program("6"))
	entry := r.run(id)
	l.at(entry, 1)
	cut := r.follow("page:cut", "page:sound", "controllers")
	release := busy()
	defer release()
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	if row := l.over(entry); row.State != "halted" {
		t.Errorf("the run: %+v", row)
	}
	pressed := r.press("b1")
	cut.until("the key is on air", func() bool { return cut.face("b1").is("on-air") })
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/devices/dome-switcher/try", map[string]any{"action": "put-on-program", "params": map[string]string{"mix": "1", "input": "3"}}, &made)
	cut.until("the other key is on air", func() bool { return cut.face("c1").is("on-air") })
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "sound"}, nil)
	cut.until("the page is shown", func() bool { return len(cut.values["face/sound-a1"]) > 0 })
	for _, entry := range []string{pressed, made.ID} {
		r.eventually("the entry has ended", func() bool {
			e, err := r.Journal.Get(entry)
			return err == nil && e != nil && e.Outcome == journal.Confirmed
		})
	}
}

func TestNothingOnAirWaitsForAnEdit(t *testing.T) {
	r := start(t).ready()
	r.worksOn(t, r.runs(), func() func() { return busyEdit(r) })
}

func TestNothingOnAirWaitsForTheDisk(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).clear().ready()
	r.worksOn(t, r.runs(), func() func() { return busyDisk(t, data) })
}

func TestAHaltOfWhatDoesNotExistHaltsNothing(t *testing.T) {
	r := start(t).ready()
	r.must(202, "POST", "/api/v1/halt", map[string]any{"macro": "nobody"}, nil)
	r.Engine.Halt(engine.Halt{Request: engine.Request{Entry: "x", At: time.Now()}, Controller: "nobody"})
	r.eventually("it has its end", func() bool { e, _ := r.Journal.Get("x"); return e != nil && e.Outcome == journal.Confirmed })
}
