// Package truth holds what Synaptor says against what the devices lived through. Witnesses stand at the devices,
// with protocols of their own; macros, gestures and mishaps are made at random.
package truth

import (
	"fmt"
	"os"
	"strconv"
	"testing"
	"time"
)

// How much of each is tried in one world, and all together unless TRUTH says another number.
const (
	macrosInWorld   = 50
	gesturesInWorld = 125
	usualMacros     = 200
	usualGestures   = 500
)

func TestMacros(t *testing.T) {
	worlds(t, usualMacros, macrosInWorld, (*world).truthOfMacros)
}

func TestGestures(t *testing.T) {
	worlds(t, usualGestures, gesturesInWorld, (*world).truthOfGestures)
}

// worlds tries so many of something, a part in each world. TRUTH says how many; then they are other ones than last
// time. TRUTH_SEED has one world done again.
func worlds(t *testing.T, usual, inWorld int, try func(w *world, count int)) {
	first := uint64(1)
	if n := number(t, "TRUTH"); n > 0 {
		usual, first = int(n), uint64(time.Now().Unix())
	}
	if n := number(t, "TRUTH_SEED"); n > 0 {
		usual, first = inWorld, n
	}
	for seed := first; usual > 0; seed++ {
		count := min(usual, inWorld)
		usual -= count
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			try(start(t, seed), count)
		})
	}
}

// number is what a variable of the environment says; 0: nothing.
func number(t *testing.T, name string) uint64 {
	t.Helper()
	text := os.Getenv(name)
	if text == "" {
		return 0
	}
	n, err := strconv.ParseUint(text, 10, 64)
	if err != nil {
		t.Fatal(err)
	}
	return n
}
