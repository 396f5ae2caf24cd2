package archive

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"synaptor/internal/core/show/showtest"
)

// TestAnyShowIsTheSameBytesAgain: two hundred shows by chance, written, read and written.
func TestAnyShowIsTheSameBytesAgain(t *testing.T) {
	for seed := range uint64(200) {
		first := written(t, Archive{Show: showtest.Generate(rand.New(rand.NewPCG(seed, 15)))})
		a, err := Read(bytes.NewReader(first), int64(len(first)))
		if err != nil {
			t.Fatalf("show %d is not read: %v", seed, err)
		}
		if !bytes.Equal(written(t, a), first) {
			t.Fatalf("show %d is other bytes", seed)
		}
		follows(t, first)
	}
}
