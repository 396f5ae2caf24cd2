package store

import (
	"os"
	"path/filepath"
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
	if _, err := OpenShow(dir); err == nil {
		t.Error("a key that is too short was taken")
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
