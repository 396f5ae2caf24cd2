package shows

import (
	"bytes"
	"context"
	"math/rand/v2"
	"testing"

	"synaptor/internal/archive"
	"synaptor/internal/core/show/showtest"
	"synaptor/internal/edit"
	"synaptor/internal/store"
)

func written(t *testing.T, a archive.Archive) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := archive.Write(&b, a); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestAnyShowComesOutOfTheLibraryAsItWentIn: exported, imported into a library, read from its disk and exported, it is equal to
// the byte.
func TestAnyShowComesOutOfTheLibraryAsItWentIn(t *testing.T) {
	lib, err := store.OpenLibrary(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	s := &Service{lib: lib}
	for seed := range uint64(200) {
		first := written(t, archive.Archive{Show: showtest.Generate(rand.New(rand.NewPCG(seed, 60)))})
		a, err := archive.Read(bytes.NewReader(first), int64(len(first)))
		if err != nil {
			t.Fatal(err)
		}
		id, err := s.Import(context.Background(), edit.Who{Actor: "tests"}, a, a.Show.Settings().Name, "")
		if err != nil {
			t.Fatalf("show %d is not taken: %v", seed, err)
		}
		db, err := lib.Open(id)
		if err != nil {
			t.Fatal(err)
		}
		sh, _, notes, err := db.Load()
		if err != nil || len(notes) > 0 {
			t.Fatalf("show %d: %v, %v", seed, err, notes)
		}
		if !bytes.Equal(written(t, archive.Archive{Show: sh}), first) {
			t.Fatalf("show %d is other bytes", seed)
		}
		if err := db.Close(); err != nil {
			t.Fatal(err)
		}
	}
}
