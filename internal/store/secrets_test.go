package store

import (
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"synaptor/internal/core/show"
)

func TestSecretsAreSealedAndReadBack(t *testing.T) {
	dir := t.TempDir()
	db := openShow(t, dir)
	id, err := db.PutSecret("red-light-only")
	if err != nil {
		t.Fatal(err)
	}
	if got, err := db.Secret(id); err != nil || got != "red-light-only" {
		t.Errorf("read back %q (%v)", got, err)
	}
	if _, err := db.Secret("nobody"); err == nil {
		t.Error("a secret that is not there was read")
	}
	if info, err := os.Stat(filepath.Join(dir, keyFile)); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the key file: %v, %v", info, err)
	}
	files, err := filepath.Glob(filepath.Join(dir, "show.db*"))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		if b, err := os.ReadFile(f); err != nil || strings.Contains(string(b), "red-light-only") {
			t.Errorf("%s holds the password (%v)", f, err)
		}
	}
}

func TestASecretDoesNotOpenWithAnotherKey(t *testing.T) {
	dir := t.TempDir()
	db := openShow(t, dir)
	id, err := db.PutSecret("eyepiece")
	if err != nil {
		t.Fatal(err)
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, keyFile), make([]byte, 32), 0o600); err != nil {
		t.Fatal(err)
	}
	if got, err := openShow(t, dir).Secret(id); err == nil || !strings.Contains(err.Error(), keyFile) {
		t.Errorf("it was opened as %q (%v)", got, err)
	}
	if err := os.WriteFile(filepath.Join(dir, keyFile), []byte("short"), 0o600); err != nil {
		t.Fatal(err)
	}
}

func TestSecretsLiveAsLongAsAnEditRefersToThem(t *testing.T) {
	db := openShow(t, t.TempDir())
	used, _ := db.PutSecret("used")
	orphan, _ := db.PutSecret("orphan")
	d := show.NewDraft(show.Empty())
	d.Put(&show.Device{ID: "x", Secret: used})
	if err := db.Commit(1, "s", "a", d.Edit("add", 1)); err != nil {
		t.Fatal(err)
	}
	if err := db.PurgeSecrets(); err != nil {
		t.Fatal(err)
	}
	if _, err := db.Secret(used); err != nil {
		t.Error("a secret in use is gone")
	}
	if _, err := db.Secret(orphan); err == nil {
		t.Error("a secret nobody refers to is kept")
	}
}

func TestWhatADeviceHasIsKept(t *testing.T) {
	s, err := OpenState(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if got, err := s.Known("sw"); err != nil || got != nil {
		t.Errorf("at first %v (%v)", got, err)
	}
	for _, name := range []string{"Cam", "Telescope feed"} {
		if err := s.Keep("sw", []Named{{"input/2/name", name}}); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := s.Known("sw"); err != nil || len(got) != 1 || got[0].Value != "Telescope feed" {
		t.Errorf("kept %v (%v)", got, err)
	}
}

// TestAKeyThatIsGoneOrDamagedIsSaid: Synaptor starts, and says that the passwords are to be entered again.
func TestAKeyThatIsGoneOrDamagedIsSaid(t *testing.T) {
	for name, c := range map[string]struct {
		harm func(path string) error
		says string
	}{
		"gone":    {os.Remove, "was missing"},
		"empty":   {func(p string) error { return os.WriteFile(p, nil, 0o600) }, "was damaged"},
		"cut off": {func(p string) error { return os.WriteFile(p, []byte("short"), 0o600) }, "was damaged"},
	} {
		dir := t.TempDir()
		db := openShow(t, dir)
		id, err := db.PutSecret("eyepiece")
		if err != nil {
			t.Fatal(err)
		}
		_ = db.Close()
		if err := c.harm(filepath.Join(dir, keyFile)); err != nil {
			t.Fatal(err)
		}
		db = openShow(t, dir)
		if _, _, notes, err := db.Load(); err != nil || len(notes) != 1 || !strings.Contains(notes[0], c.says) {
			t.Errorf("%s: %q (%v)", name, notes, err)
		}
		if _, err := db.Secret(id); err == nil {
			t.Errorf("%s: the password was read all the same", name)
		}
		if again, err := db.PutSecret("finder"); err != nil {
			t.Errorf("%s: no new one can be stored: %v", name, err)
		} else if text, err := db.Secret(again); err != nil || text != "finder" {
			t.Errorf("%s: the new one is %q (%v)", name, text, err)
		}
		_ = db.Close()
		db = openShow(t, dir)
		if _, _, notes, _ := db.Load(); len(notes) > 0 {
			t.Errorf("%s: it is said again: %q", name, notes)
		}
	}
}

func TestADataFolderIsUsedOnce(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "night")
	release, err := UseFolder(dir)
	if err != nil {
		t.Fatal(err)
	}
	_, err = UseFolder(dir)
	var used *InUseError
	if !errors.As(err, &used) || used.Process != strconv.Itoa(os.Getpid()) || !strings.Contains(err.Error(), "--data") {
		t.Errorf("a second one: %v", err)
	}
	release()
	if release, err = UseFolder(dir); err != nil {
		t.Fatal(err)
	}
	release()
	openShow(t, dir)
	files, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		if info, err := f.Info(); err != nil || info.Mode().Perm() != 0o600 {
			t.Errorf("%s can be read by others: %v %v", f.Name(), info.Mode(), err)
		}
	}
	if info, err := os.Stat(dir); err != nil || info.Mode().Perm() != 0o700 {
		t.Errorf("others can look into the folder: %v %v", info.Mode(), err)
	}
	if err := os.Chmod(filepath.Join(dir, "show.db"), 0o644); err != nil {
		t.Fatal(err)
	}
	openShow(t, dir)
	if info, _ := os.Stat(filepath.Join(dir, "show.db")); info.Mode().Perm() != 0o600 {
		t.Errorf("an older file stays as it was: %v", info.Mode())
	}
}
