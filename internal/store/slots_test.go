package store

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

func openSlots(t *testing.T, folder string) (*Slots, map[string][]byte) {
	t.Helper()
	s, had, err := OpenSlots(folder)
	if err != nil {
		t.Fatal(err)
	}
	return s, had
}

func TestRecordsOutliveTheProcess(t *testing.T) {
	folder := t.TempDir()
	s, had := openSlots(t, folder)
	if len(had) != 0 {
		t.Fatalf("a new file has %v", had)
	}
	for i := range slotCount + 1 {
		if err := s.Put(fmt.Sprint("run ", i), []byte(strings.Repeat("x", i%100))); (err != nil) != (i == slotCount) {
			t.Fatalf("record %d: %v", i, err)
		}
	}
	for i := 0; i < slotCount; i += 2 {
		s.Drop(fmt.Sprint("run ", i))
	}
	if err := s.Put("run 1", []byte("again")); err != nil {
		t.Fatal(err)
	}
	if err := s.Put("long", make([]byte, slotSize)); err == nil {
		t.Error("a record that does not fit is taken")
	}
	names := s.Names()
	// It is not closed: a kill does not close either.
	again, had := openSlots(t, folder)
	if !slices.Equal(again.Names(), names) || string(had["run 1"]) != "again" || len(had["run 99"]) != 99 {
		t.Errorf("of %d records %d are there; the first is %q", len(names), len(had), had["run 1"])
	}
	if err := again.Close(); err != nil {
		t.Error(err)
	}
}

func TestADamagedRecordIsLeftOut(t *testing.T) {
	folder := t.TempDir()
	s, _ := openSlots(t, folder)
	for _, n := range []string{"a", "b"} {
		if err := s.Put(n, []byte("body of "+n)); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(folder, "intents.bin")
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	at := strings.Index(string(raw), "body of a")
	raw[at+3] = 'x'
	if err := os.WriteFile(path, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	_, had := openSlots(t, folder)
	if len(had) != 1 || string(had["b"]) != "body of b" {
		t.Errorf("there is %q", had)
	}
}
