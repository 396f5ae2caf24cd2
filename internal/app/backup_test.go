package app_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/journal"
	"synaptor/internal/store"
)

func TestADamagedShowIsNamedWithItsLastCopyAndGoesOnWithThat(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	var list struct {
		Folder string
		Copies []store.Backup
	}
	r.must(200, "GET", "/api/v1/backups", nil, &list)
	had := len(list.Copies)
	var b store.Backup
	r.must(201, "POST", "/api/v1/backups", nil, &b)
	r.must(200, "GET", "/api/v1/backups", nil, &list)
	if len(list.Copies) != had+1 || list.Folder != filepath.Join(data, "backups") || b.Shows != 1 || b.Problem != "" {
		t.Fatalf("kept are %+v, made was %+v", list, b)
	}
	if p := r.fails(422, "PUT", "/api/v1/backups", map[string]any{"folder": "half/a/path"}); p.Field != "folder" {
		t.Errorf("half a path: %+v", p)
	}
	show := r.shows().Open
	r.App.Close()
	if err := os.WriteFile(filepath.Join(data, "shows", show, "show.db"), []byte(strings.Repeat("rubbish ", 4096)), 0o600); err != nil {
		t.Fatal(err)
	}

	o := app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Files: files}
	if _, err := app.Start(o); err == nil || !strings.Contains(err.Error(), "is damaged") || !strings.Contains(err.Error(), "--last-good") {
		t.Fatalf("it starts, or says %v", err)
	}
	o.LastGood = true
	a, err := app.Start(o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	again := (&rig{T: t, App: a, base: "http://" + a.Addr}).another()
	if d := again.doc(); d.Name != "Meteor Night" || len(d.Devices) != demoDevices {
		t.Errorf("it goes on with %q, %d devices", d.Name, len(d.Devices))
	}
	var entries []journal.Entry
	again.must(200, "GET", "/api/v1/journal?limit=20", nil, &entries)
	said := false
	for _, e := range entries {
		said = said || strings.Contains(e.Reason, "The copy of")
	}
	if !said {
		t.Error("nobody says that a copy is in the place of the show")
	}
}

// TestACopyIsKeptAtCloseWhereSomethingWasWritten, and none where nothing was.
func TestACopyIsKeptAtCloseWhereSomethingWasWritten(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data)
	copies := func() int {
		t.Helper()
		if err := r.Shows.BackAtClose(); err != nil {
			t.Fatal(err)
		}
		b, err := r.Shows.Backups()
		if err != nil {
			t.Fatal(err)
		}
		return len(b.Copies)
	}
	n := copies()
	if n == 0 {
		t.Fatal("the demo is in no copy")
	}
	files, err := filepath.Glob(filepath.Join(data, "shows", "*", "show.db*"))
	if err != nil || len(files) == 0 {
		t.Fatalf("there are %v, %v", files, err)
	}
	for _, f := range files { // as if it was written long ago
		if err := os.Chtimes(f, time.Time{}, time.Now().Add(-time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	if got := copies(); got != n {
		t.Errorf("there are %d copies, and were %d; nothing was written", got, n)
	}
	r.adds("POST", "/api/v1/profiles", map[string]any{"name": "After"})
	if got := copies(); got != n+1 {
		t.Errorf("there are %d copies, and were %d before something was written", got, n)
	}
}
