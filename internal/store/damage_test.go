package store

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// spoilers are ways in which a file is damaged.
var spoilers = map[string]func(path string) error{
	"rubbish":      func(path string) error { return os.WriteFile(path, bytes.Repeat([]byte("rubbish "), 4096), 0o600) },
	"half of it":   func(path string) error { return cutTo(path, 2) },
	"its head":     func(path string) error { return overwrite(path, 0, 4096) },
	"all but that": func(path string) error { return overwrite(path, 4096, 1<<20) },
	"a folder": func(path string) error {
		return errors.Join(os.Remove(path), os.Mkdir(path, 0o700))
	},
}

func cutTo(path string, share int64) error {
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	return os.Truncate(path, info.Size()/share)
}

// overwrite writes noise over a part of a file.
func overwrite(path string, from, n int) error {
	body, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	for i := from; i < min(len(body), from+n); i++ {
		body[i] = byte(i*7 + 3)
	}
	return os.WriteFile(path, body, 0o600)
}

// filled is a data folder with a show, a journal and a state.
func filled(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	s, err := OpenShow(dir)
	if err != nil {
		t.Fatal(err)
	}
	d := show.NewDraft(show.Empty())
	for _, id := range []string{"a", "b", "c"} {
		d.Put(&show.Profile{ID: id, Name: id})
	}
	j, err2 := OpenJournal(dir)
	st, err3 := OpenState(dir)
	if err := errors.Join(s.Commit(1, "s", "A", d.Edit("e", 1)), err2, err3); err != nil {
		t.Fatal(err)
	}
	err = errors.Join(j.Save([]journal.Entry{{ID: "1", Title: "One", Steps: []journal.Step{}}, {ID: "2", Title: "Two", Steps: []journal.Step{}}}), st.Put("live", map[string]string{"page": "cut"}))
	if err := errors.Join(err, s.Close(), j.Close(), st.Close()); err != nil {
		t.Fatal(err)
	}
	return dir
}

func TestADamagedShowIsNamedAndLeftAsItIs(t *testing.T) {
	for how, spoil := range spoilers {
		dir := filled(t)
		path := filepath.Join(dir, "show.db")
		if err := spoil(path); err != nil {
			t.Fatal(err)
		}
		before, _ := os.ReadFile(path)
		_, err := OpenShow(dir)
		var bad *DamagedError
		if !errors.As(err, &bad) || bad.File != path || !strings.Contains(err.Error(), "left as it was") && !strings.Contains(err.Error(), "left as it is") {
			t.Errorf("%s: %v", how, err)
		}
		if after, _ := os.ReadFile(path); !bytes.Equal(before, after) {
			t.Errorf("%s: the file was changed", how)
		}
	}
}

func TestAShowThatWasEmptiedIsNotANewOne(t *testing.T) {
	dir := filled(t)
	if err := os.Truncate(filepath.Join(dir, "show.db"), 0); err != nil {
		t.Fatal(err)
	}
	var bad *DamagedError
	if _, err := OpenShow(dir); !errors.As(err, &bad) {
		t.Errorf("an emptied show: %v", err)
	}
	fresh := t.TempDir()
	if err := os.WriteFile(filepath.Join(fresh, "show.db"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	s, err := OpenShow(fresh) // Synaptor ended just after it had made the file
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Error(err)
	}
}

func TestAShowOfANewerSynaptorIsLeftAsItIs(t *testing.T) {
	dir := filled(t)
	s, err := OpenShow(dir)
	if err != nil {
		t.Fatal(err)
	}
	_, err = s.db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)`)
	if err := errors.Join(err, s.Close()); err != nil {
		t.Fatal(err)
	}
	before, _ := os.ReadFile(filepath.Join(dir, "show.db"))
	var newer *NewerError
	if _, err := OpenShow(dir); !errors.As(err, &newer) || newer.Have != 99 {
		t.Errorf("%v", err)
	}
	if after, _ := os.ReadFile(filepath.Join(dir, "show.db")); !bytes.Equal(before, after) {
		t.Error("the file was changed")
	}
}

func TestADamagedJournalOrStateIsSetAsideAndANewOneBegun(t *testing.T) {
	for how, spoil := range spoilers {
		for _, name := range []string{"journal", "state"} {
			dir := filled(t)
			if err := spoil(filepath.Join(dir, name+".db")); err != nil {
				t.Fatal(err)
			}
			j, err := OpenJournal(dir)
			if err != nil {
				t.Errorf("%s of the %s: %v", how, name, err)
				continue
			}
			s, err := OpenState(dir)
			if err != nil {
				t.Errorf("%s of the %s: %v", how, name, err)
				continue
			}
			works(t, how+" of the "+name, j, s)
			var notes []string
			tell := func(n string) { notes = append(notes, n) }
			j.Notes(tell)
			s.Notes(tell)
			kept, _ := filepath.Glob(filepath.Join(dir, name+".damaged-*.db"))
			if len(kept) != 1 || len(notes) != 1 || !strings.Contains(notes[0], strings.TrimSuffix(filepath.Base(kept[0]), ".db")) {
				t.Errorf("%s of the %s: %q is kept, %q is said", how, name, kept, notes)
			}
			if err := errors.Join(j.Close(), s.Close()); err != nil {
				t.Error(err)
			}
		}
	}
}

func works(t *testing.T, what string, j *Journal, s *State) {
	t.Helper()
	var live map[string]string
	_, err := j.Load("", "", 10)
	err = errors.Join(err, j.Save([]journal.Entry{{ID: "3", Title: "Three"}}), s.Put("live", map[string]string{"page": "x"}), s.Get("live", &live))
	one, err2 := j.One("3")
	if err := errors.Join(err, err2); err != nil || one == nil || live["page"] != "x" {
		t.Errorf("%s: afterwards %v, %+v, %v", what, err, one, live)
	}
}

func TestAJournalThatIsDamagedWhileItRunsIsSetAside(t *testing.T) {
	dir := filled(t)
	j, err := OpenJournal(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	j.filling.Wait() // it would find the damage while it is done
	told := make(chan string, 8)
	j.Notes(func(n string) { told <- n })
	for _, end := range []string{"", "-wal"} {
		if err := overwrite(filepath.Join(dir, "journal.db"+end), 0, 1<<20); err != nil {
			t.Fatal(err)
		}
	}
	for limit := time.Now().Add(30 * time.Second); len(told) == 0; {
		if err := j.Save([]journal.Entry{{ID: "4", Title: "Four"}}); err != nil {
			t.Fatal(err)
		}
		if time.Now().After(limit) {
			t.Fatal("it is not found damaged")
		}
	}
	if one, err := j.One("4"); err != nil || one == nil {
		t.Errorf("afterwards: %+v, %v", one, err)
	}
}

// TestANewDatabaseThatCannotBeBegunIsTriedAgain: a disk that is full when the journal is found damaged may have room later.
func TestANewDatabaseThatCannotBeBegunIsTriedAgain(t *testing.T) {
	dir := filled(t)
	j, err := OpenJournal(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	j.dir = filepath.Join(dir, "show.db") // nothing can be made in a file
	if err := j.renew(j.db, errors.New("damaged")); err == nil {
		t.Fatal("a database was begun in a file")
	}
	if err := j.Save([]journal.Entry{{ID: "5", Title: "Five"}}); err == nil {
		t.Error("an entry is kept without a file")
	}
	j.dir = dir
	if err := j.Save([]journal.Entry{{ID: "5", Title: "Five"}}); err != nil {
		t.Errorf("with room again: %v", err)
	}
}

func TestASingleRowThatIsDamagedKeepsNothingFromOpening(t *testing.T) {
	dir := filled(t)
	s, err := OpenShow(dir)
	if err != nil {
		t.Fatal(err)
	}
	j, err := OpenJournal(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	_, err1 := s.db.Exec(`UPDATE entity SET body = '{"id":"b","na' WHERE id = 'b'`)
	_, err2 := s.db.Exec(`UPDATE entity SET body = '{"id":"x","name":"x"}' WHERE id = 'c'`)
	_, err3 := j.db.Exec(`UPDATE entry SET body = 'rubbish' WHERE id = '2'`)
	if err := errors.Join(err1, err2, err3); err != nil {
		t.Fatal(err)
	}
	sh, last, notes, err := s.Load()
	if err != nil || last != 1 || len(sh.Profiles()) != 1 || len(notes) != 2 || !strings.Contains(notes[0], "(b) cannot be read and was set aside") {
		t.Errorf("loaded %d profiles, %d, %q, %v", len(sh.Profiles()), last, notes, err)
	}
	var aside []string
	if err := s.db.Select(&aside, `SELECT body FROM aside ORDER BY id`); err != nil || len(aside) != 2 || aside[0] != `{"id":"b","na` {
		t.Errorf("set aside is %q, %v", aside, err)
	}
	if _, _, notes, err := s.Load(); err != nil || len(notes) != 0 {
		t.Errorf("the next time: %q, %v", notes, err)
	}
	if err := s.Close(); err != nil {
		t.Error(err)
	}
	list, err := j.Load("", "", 10)
	if err != nil || len(list) != 2 || list[0].ID != "2" || list[0].Reason == "" || list[1].Title != "One" {
		t.Errorf("the journal has %+v, %v", list, err)
	}
}

// TestWhatIsLostWithTheLogIsSaid: SQLite passes over a damaged log without a word.
func TestWhatIsLostWithTheLogIsSaid(t *testing.T) {
	dir := filled(t)
	s, err := OpenShow(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	for i := range int64(4) {
		d := show.NewDraft(show.Empty())
		d.Put(&show.Profile{ID: string(rune('k' + i)), Name: "n"})
		if err := s.Commit(2+i, "s", "A", d.Edit("e", 2+i)); err != nil {
			t.Fatal(err)
		}
	}
	whole, err := os.ReadFile(filepath.Join(dir, "show.db-wal"))
	if err != nil || len(whole) < 4*4096 {
		t.Fatalf("the log has %d bytes, %v", len(whole), err)
	}
	flipped := func(at int) []byte {
		b := bytes.Clone(whole)
		b[at] ^= 1
		return b
	}
	for name, c := range map[string]struct {
		wal  []byte
		good bool
	}{
		"whole":            {whole, true},
		"empty":            {nil, true},
		"none of its head": {whole[:20], true},
		"its end torn":     {whole[:len(whole)-100], true},
		"its last commit":  {flipped(len(whole) - 9), true},
		"its magic":        {flipped(0), false},
		"its head":         {flipped(17), false},
		"the first frame":  {flipped(walHeader + walFrameHeader + 9), false},
		"in the middle":    {flipped(len(whole) / 2), false},
		"rubbish":          {bytes.Repeat([]byte("rubbish "), 900), false},
	} {
		path := filepath.Join(t.TempDir(), "wal")
		if err := os.WriteFile(path, c.wal, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := checkWAL(path); (err == nil) != c.good {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// FuzzWAL: whatever is in a log, it is good or damaged, and SQLite takes what is said to be good.
func FuzzWAL(f *testing.F) {
	f.Add([]byte{}, 0)
	f.Add(bytes.Repeat([]byte{0x37, 0x7f, 6, 0x82}, 400), 40)
	f.Fuzz(func(t *testing.T, body []byte, at int) {
		path := filepath.Join(t.TempDir(), "wal")
		if at >= 0 && at < len(body) {
			body[at] ^= 0x55
		}
		if err := os.WriteFile(path, body, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := checkWAL(path); err != nil && !errors.Is(err, errWAL) {
			t.Errorf("%v", err)
		}
	})
}
