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

func library(t *testing.T, dir string) *Library {
	t.Helper()
	l, err := OpenLibrary(dir)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// profiles opens a show of a library and lists its profiles.
func profiles(t *testing.T, l *Library, id string) (names []string) {
	t.Helper()
	s, err := l.Open(id)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	sh, _, _, err := s.Load()
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range sh.Profiles() {
		names = append(names, p.Name)
	}
	return names
}

func TestAFolderOfOneShowBecomesALibraryAfterACopyWasKept(t *testing.T) {
	for _, cut := range []string{"", "moving", "half"} {
		dir := filled(t)
		old := filepath.Join(dir, showFile)
		moving := filepath.Join(dir, showsFolder, ".moving")
		if cut != "" { // it ended in the middle of it, once before
			if err := os.MkdirAll(moving, 0o700); err != nil {
				t.Fatal(err)
			}
		}
		if cut == "half" {
			if err := os.Rename(old, filepath.Join(moving, showFile)); err != nil {
				t.Fatal(err)
			}
		}
		l := library(t, dir)
		if got := profiles(t, l, l.Current()); strings.Join(got, " ") != "a b c" || l.Note == "" {
			t.Errorf("%q: it has %v, and says %q", cut, got, l.Note)
		}
		if _, err := os.Stat(old); !errors.Is(err, os.ErrNotExist) {
			t.Errorf("%q: the old file is there: %v", cut, err)
		}
		kept, _ := filepath.Glob(filepath.Join(dir, keptFolder, "*", showFile))
		if cut == "" && len(kept) != 1 {
			t.Errorf("kept is %v", kept)
		}
		again := library(t, dir)
		if again.Current() != l.Current() || again.Note != "" {
			t.Errorf("%q: the second time it is %s, and says %q", cut, again.Current(), again.Note)
		}
	}
}

func TestShowsAreMadeCopiedRenamedDeletedAndKeptForAMonth(t *testing.T) {
	dir := t.TempDir()
	l := library(t, dir)
	if id := l.Current(); id != "" {
		t.Errorf("an empty library has %q open", id)
	}
	one, two := NewShowID(), NewShowID()
	if err := l.Make(one, "One"); err != nil {
		t.Fatal(err)
	}
	s, err := l.Open(one)
	if err != nil {
		t.Fatal(err)
	}
	d := show.NewDraft(show.Empty())
	d.Put(&show.Profile{ID: "p", Name: "P"})
	id, err := s.PutSecret("of a device")
	if err := errors.Join(err, s.Commit(2, "s", "A", d.Edit("e", 2))); err != nil {
		t.Fatal(err)
	}
	// The show that is copied stays open, and what was just written to it is in the copy, with its passwords.
	if err := errors.Join(l.Copy(two, one, "Two"), l.Rename(two, "Zwei", "A")); err != nil {
		t.Fatal(err)
	}
	c, err := l.Open(two)
	if err != nil {
		t.Fatal(err)
	}
	if secret, err := c.Secret(id); err != nil || secret != "of a device" {
		t.Errorf("the copy has the password %q, %v", secret, err)
	}
	if err := errors.Join(s.Close(), c.Close()); err != nil {
		t.Error(err)
	}
	list, err := l.List()
	if err != nil || len(list) != 2 || list[0].Name != "One" || list[1].Name != "Zwei" || list[1].Changed == "" || list[0].Bytes == 0 || list[1].Problem != "" {
		t.Errorf("listed are %+v, %v", list, err)
	}
	if got := profiles(t, l, two); len(got) != 1 {
		t.Errorf("the copy has %v", got)
	}

	if err := l.Delete(two); err != nil {
		t.Fatal(err)
	}
	if _, err := l.Open(two); !errors.Is(err, ErrNoShow) {
		t.Errorf("a deleted show opens: %v", err)
	}
	if err := errors.Join(l.purge(time.Now().Add(deletedFor-time.Hour)), l.Undelete(two), l.Delete(two), l.purge(time.Now().Add(deletedFor+time.Hour))); err != nil {
		t.Fatal(err)
	}
	if list, err := l.List(); err != nil || len(list) != 1 || list[0].ID != one {
		t.Errorf("a month later there are %+v, %v", list, err)
	}
	for _, id := range []string{two, "..", "", "a/b", "ONE"} {
		if _, err := l.Open(id); !errors.Is(err, ErrNoShow) {
			t.Errorf("%q: %v", id, err)
		}
	}
}

func TestAShowThatCannotBeReadIsListedWithTheReasonAndKeepsNobodyFromTheOthers(t *testing.T) {
	l := library(t, t.TempDir())
	good, bad := NewShowID(), NewShowID()
	if err := errors.Join(l.Make(good, "Good"), l.Make(bad, "Bad")); err != nil {
		t.Fatal(err)
	}
	for how, spoil := range spoilers {
		if how == "a folder" {
			continue
		}
		if err := spoil(filepath.Join(l.folder(bad), showFile)); err != nil {
			t.Fatal(err)
		}
		list, err := l.List()
		if err != nil || len(list) != 2 || list[0].Problem == "" || list[1].Problem != "" {
			t.Errorf("%s: listed are %+v, %v", how, list, err)
		}
		var damaged *DamagedError
		if _, err := l.Open(bad); !errors.As(err, &damaged) {
			t.Errorf("%s: %v", how, err)
		}
		if err := errors.Join(os.RemoveAll(l.folder(bad)), l.Make(bad, "Bad")); err != nil {
			t.Fatal(err)
		}
	}
	// What was being made when Synaptor ended is let go of.
	if err := os.Mkdir(filepath.Join(l.dir, showsFolder, beginning+"x"), 0o700); err != nil {
		t.Fatal(err)
	}
	again := library(t, l.dir)
	if list, err := again.List(); err != nil || len(list) != 2 {
		t.Errorf("listed are %+v, %v", list, err)
	}
	if left, _ := filepath.Glob(filepath.Join(l.dir, showsFolder, beginning+"*")); len(left) != 0 {
		t.Errorf("left is %v", left)
	}
}
