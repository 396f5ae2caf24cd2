package store

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
)

// withShows is a data folder with two shows, one of them open, and a journal.
func withShows(t *testing.T) (l *Library, open string, other string, db *Show) {
	t.Helper()
	l = library(t, t.TempDir())
	open, other = NewShowID(), NewShowID()
	if err := errors.Join(l.Make(open, "Open"), l.Make(other, "Other"), l.SetCurrent(open)); err != nil {
		t.Fatal(err)
	}
	db, err := l.Open(open)
	if err != nil {
		t.Fatal(err)
	}
	j, err := OpenJournal(l.dir)
	if err := errors.Join(err, j.Close()); err != nil {
		t.Fatal(err)
	}
	return l, open, other, db
}

// adds makes an edit.
func adds(t *testing.T, s *Show, seq int64, profile string) {
	t.Helper()
	d := show.NewDraft(show.Empty())
	d.Put(&show.Profile{ID: profile, Name: profile})
	if err := s.Commit(seq, "s", "A", d.Edit("e", seq)); err != nil {
		t.Fatal(err)
	}
}

func TestACopyIsKeptWhileTheShowIsOpenAndBecomesADataFolder(t *testing.T) {
	l, open, other, db := withShows(t)
	adds(t, db, 2, "before")
	b, err := l.Back(time.Now())
	if err != nil || b.Shows != 2 || b.Bytes == 0 || b.Problem != "" {
		t.Fatalf("the copy is %+v, %v", b, err)
	}
	adds(t, db, 3, "after")
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	data := filepath.Join(t.TempDir(), "data")
	if err := Restore(filepath.Join(l.BackupFolder(), b.Name), data); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(data, keyFile)); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("the key of the passwords is in the copy: %v", err)
	}
	again := library(t, data)
	if again.Current() != open || strings.Join(profiles(t, again, open), " ") != "before" || len(profiles(t, again, other)) != 0 {
		t.Errorf("restored is %s with %v", again.Current(), profiles(t, again, open))
	}

	// Into a folder that has something: that is kept, and the key stays.
	if err := os.WriteFile(filepath.Join(data, keyFile), []byte("key"), 0o600); err != nil {
		t.Fatal(err)
	}
	people, err := OpenPeople(data)
	if err == nil {
		err = errors.Join(people.AddPerson(Person{ID: "t", Name: "Tobin", Role: "owner"}, true), people.Close())
	}
	if err != nil {
		t.Fatal(err)
	}
	if err := Restore(filepath.Join(l.BackupFolder(), b.Name), data); err != nil {
		t.Fatal(err)
	}
	kept, _ := filepath.Glob(filepath.Join(data, keptFolder, "*", showsFolder, open, showFile))
	if key, err := os.ReadFile(filepath.Join(data, keyFile)); len(kept) != 1 || err != nil || string(key) != "key" {
		t.Errorf("kept is %v, the key %q, %v", kept, key, err)
	}
	if here, err := OpenPeople(data); err != nil {
		t.Error(err)
	} else {
		if all, err := here.Persons(); err != nil || len(all) != 1 {
			t.Errorf("who may get in is %v, %v: everybody could", all, err)
		}
		_ = here.Close()
	}
	if err := Restore(t.TempDir(), data); err == nil || !strings.Contains(err.Error(), "no copy") {
		t.Errorf("an empty folder is restored: %v", err)
	}
	release, err := UseFolder(data)
	if err != nil {
		t.Fatal(err)
	}
	defer release()
	var used *InUseError
	if err := Restore(filepath.Join(l.BackupFolder(), b.Name), data); !errors.As(err, &used) {
		t.Errorf("a folder in use is restored: %v", err)
	}
}

func TestADamagedShowGoesOnWithItsNewestCopyAndIsKept(t *testing.T) {
	for how, spoil := range spoilers {
		l, open, _, db := withShows(t)
		adds(t, db, 2, "good")
		if _, err := l.UseLastGood(open); err == nil {
			t.Errorf("%s: a copy is used, and there is none", how)
		}
		_, err := l.Back(time.Now())
		if err := errors.Join(err, db.Close(), spoil(filepath.Join(l.folder(open), showFile))); err != nil {
			t.Fatal(err)
		}
		var bad *DamagedError
		if _, err := l.Open(open); !errors.As(err, &bad) {
			t.Errorf("%s: %v", how, err)
		}
		b, err := l.UseLastGood(open)
		if err != nil || b.Name == "" {
			t.Errorf("%s: %+v, %v", how, b, err)
			continue
		}
		if got := profiles(t, l, open); strings.Join(got, " ") != "good" {
			t.Errorf("%s: afterwards it has %v", how, got)
		}
	}
}

func TestWhatCannotBeCopiedIsSaidAndOldCopiesGo(t *testing.T) {
	l, open, other, db := withShows(t)
	defer db.Close()
	if err := os.WriteFile(filepath.Join(l.folder(other), showFile), []byte(strings.Repeat("rubbish ", 4096)), 0o600); err != nil {
		t.Fatal(err)
	}
	now := time.Now()
	b, err := l.Back(now)
	if err != nil || b.Shows != 1 || !strings.Contains(b.Problem, "is not in it") {
		t.Errorf("the copy is %+v, %v", b, err)
	}
	for d := range 10 {
		if _, err := l.Back(now.Add(time.Duration(d+1) * 12 * time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	list, err := l.Backups()
	if err != nil || len(list) < 5 || len(list) > 9 || list[0].At.Before(list[1].At) {
		t.Errorf("%d copies are left, %v", len(list), err)
	}
	// Two in a second are two, and what was cut off is let go of.
	if err := os.MkdirAll(filepath.Join(l.BackupFolder(), beginning+"x", showsFolder), 0o700); err != nil {
		t.Fatal(err)
	}
	one, err1 := l.Back(now)
	two, err2 := l.Back(now)
	if err := errors.Join(err1, err2); err != nil || one.Name == two.Name || exists(filepath.Join(l.BackupFolder(), beginning+"x")) {
		t.Errorf("two in a second are %s and %s, %v", one.Name, two.Name, err)
	}
	// Elsewhere, if that can be written.
	elsewhere := filepath.Join(t.TempDir(), "stick")
	if err := l.ChooseBackupFolder("stick"); err == nil {
		t.Error("half a path is taken")
	}
	if err := l.ChooseBackupFolder("/dev/null/stick"); err == nil {
		t.Error("a folder that cannot be is taken")
	}
	if err := l.ChooseBackupFolder(elsewhere); err != nil || l.BackupFolder() != elsewhere {
		t.Fatal(err)
	}
	if b, err := l.Back(now); err != nil || b.Shows != 1 {
		t.Errorf("elsewhere: %+v, %v", b, err)
	}
	if _, ok := l.LastGood(open); !ok {
		t.Error("the copy elsewhere is not found")
	}
	if err := l.ChooseBackupFolder(""); err != nil || l.BackupFolder() != filepath.Join(l.dir, backupFolder) {
		t.Error(err)
	}
}
