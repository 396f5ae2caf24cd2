// Package truth holds what Synaptor says against what the devices lived through. Witnesses stand at the devices,
// with protocols of their own; macros, gestures and mishaps are made at random.
package truth

import (
	"os"
	"strconv"
	"testing"
)

// seed is what TRUTH_SEED says, else 1.
func seed(t *testing.T) uint64 {
	t.Helper()
	text := os.Getenv("TRUTH_SEED")
	if text == "" {
		return 1
	}
	n, err := strconv.ParseUint(text, 10, 64)
	if err != nil {
		t.Fatal(err)
	}
	return n
}
