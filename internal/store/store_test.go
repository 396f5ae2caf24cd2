package store

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

func openShow(t *testing.T, dir string) *Show {
	t.Helper()
	s, err := OpenShow(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func TestAShowIsReadBackAsItWasStored(t *testing.T) {
	dir := t.TempDir()
	db := openShow(t, dir)
	sh := show.Empty()
	step := func(seq int64, name string, build func(*show.Draft)) show.Edit {
		t.Helper()
		d := show.NewDraft(sh)
		build(d)
		e := d.Edit(name, seq)
		next, err := sh.Apply(e)
		if err != nil {
			t.Fatal(err)
		}
		sh = next
		return e
	}
	one := step(1, "one", func(d *show.Draft) { d.Put(&show.Device{ID: "a", Name: "Dome switcher"}) })
	if err := db.Commit(1, "me", "Tobin", one); err != nil {
		t.Fatal(err)
	}
	two := step(2, "two", func(d *show.Draft) {
		d.Delete(show.Ref{Kind: show.KindDevice, ID: "a"})
		d.Put(&show.Page{ID: "p", Name: "Cut"})
	})
	if err := db.Commit(2, "me", "Tobin", two); err != nil {
		t.Fatal(err)
	}
	next, err := sh.Apply(two.Inverse())
	if err != nil {
		t.Fatal(err)
	}
	sh = next
	if err := db.Mark(2, Undone, two.Inverse()); err != nil {
		t.Fatal(err)
	}

	_ = db.Close()
	db = openShow(t, dir)
	got, last, _, err := db.Load()
	if err != nil || last != 2 || !bytes.Equal(got.Canonical(), sh.Canonical()) {
		t.Fatalf("read back %s (%d, %v), want %s", got.Canonical(), last, err, sh.Canonical())
	}
	if got.Rev(show.Ref{Kind: show.KindDevice, ID: "a"}) != 1 {
		t.Error("undo did not restore the revision")
	}
	if row, err := db.Last("me", Done); err != nil || row.Seq != 1 {
		t.Errorf("the last edit is %+v (%v)", row, err)
	}
	if row, err := db.Last("me", Undone); err != nil || row.Seq != 2 {
		t.Errorf("the one to do again is %+v (%v)", row, err)
	}
	if row, err := db.Last("you", Done); err != nil || row != nil {
		t.Errorf("somebody else's last edit is %+v (%v)", row, err)
	}
	three := step(3, "three", func(d *show.Draft) { d.Put(&show.Page{ID: "q"}) })
	if err := db.Commit(3, "me", "Tobin", three); err != nil {
		t.Fatal(err)
	}
	if row, _ := db.Last("me", Undone); row != nil {
		t.Error("after a new edit the undone one can still be done again")
	}
	if rows, err := db.History(10); err != nil || len(rows) != 2 {
		t.Errorf("the history has %d rows (%v)", len(rows), err)
	}
}

func TestAnEditThatCannotBeStoredSaysSoAndChangesNothing(t *testing.T) {
	dir := t.TempDir()
	db := openShow(t, dir)
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	if err := db.Commit(1, "me", "Tobin", show.Edit{Name: "Clear a1 on Cut"}); err == nil {
		t.Error("an edit was stored in a closed database")
	}
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := OpenShow(file); err == nil {
		t.Error("a file was taken for a data folder")
	}
}

func TestTheJournalKeepsEntriesInOrderAndTakesThemAgain(t *testing.T) {
	db, err := OpenJournal(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	entry := func(i int, o journal.Outcome) journal.Entry {
		return journal.Entry{ID: fmt.Sprintf("e%03d", i), At: time.Unix(int64(i), 0).UTC(), Outcome: o}
	}
	for i := range 20 {
		if err := db.Save([]journal.Entry{entry(i, journal.UnderWay)}); err != nil {
			t.Fatal(err)
		}
	}
	if err := db.Save([]journal.Entry{entry(7, journal.Confirmed)}); err != nil {
		t.Fatal(err)
	}
	rows, err := db.Load("", "e010", 4)
	if err != nil || len(rows) != 4 || rows[0].ID != "e009" || rows[2].Outcome != journal.Confirmed {
		t.Errorf("%+v (%v)", rows, err)
	}
	if one, err := db.One("e019"); err != nil || one == nil || !one.At.Equal(time.Unix(19, 0)) {
		t.Errorf("%+v (%v)", one, err)
	}
	if one, err := db.One("none"); err != nil || one != nil {
		t.Errorf("%+v (%v)", one, err)
	}
}

func TestOldEditsGoAndWhoMadeWhatStandsStays(t *testing.T) {
	db, err := OpenShow(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	s := show.Empty()
	put := func(seq int64, actor string, e show.Entity) {
		d := show.NewDraft(s)
		d.Put(e)
		edit := d.Edit("An edit", seq)
		if err := db.Commit(seq, "a", actor, edit); err != nil {
			t.Fatal(err)
		}
		if s, err = s.Apply(edit); err != nil {
			t.Fatal(err)
		}
	}
	put(1, "Saskia", &show.Profile{ID: "p", Name: "Night"})
	kept, err := db.PutSecret("x")
	if err != nil {
		t.Fatal(err)
	}
	letGo, err := db.PutSecret("y")
	if err != nil {
		t.Fatal(err)
	}
	put(2, "Tobin", &show.Device{ID: "d", Name: "Desk", Secret: kept})
	for seq := int64(3); seq < keptEdits+100; seq++ {
		put(seq, "Tobin", &show.Page{ID: "page", Name: fmt.Sprint("Page ", seq)})
	}
	if err := db.Tidy(); err != nil {
		t.Fatal(err)
	}
	var n int
	if err := db.db.Get(&n, `SELECT count(*) FROM edit`); err != nil || n != keptEdits+2 {
		t.Errorf("%d edits stay (%v)", n, err)
	}
	if row, err := db.Numbered(1); err != nil || row == nil || row.Actor != "Saskia" || row.State != Gone {
		t.Errorf("who made the profile: %+v (%v)", row, err)
	}
	if row, err := db.Last("a", Done); err != nil || row == nil || row.Seq != keptEdits+99 {
		t.Errorf("undo begins with %+v (%v)", row, err)
	}
	if _, err := db.Secret(kept); err != nil {
		t.Errorf("a password in use went: %v", err)
	}
	if _, err := db.Secret(letGo); err == nil {
		t.Error("a password that nothing refers to stayed")
	}
	if got, _, notes, err := db.Load(); err != nil || len(notes) > 0 || got.Page("page").Name != s.Page("page").Name {
		t.Errorf("the show is another one: %v %v", notes, err)
	}
}
