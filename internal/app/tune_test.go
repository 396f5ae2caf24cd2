package app

import (
	"math"
	"runtime"
	"testing"
)

// TestTheMemoryOfASmallShowIsBounded, and that of a large one is not.
func TestTheMemoryOfASmallShowIsBounded(t *testing.T) {
	for live, want := range map[int64]int64{0: memoryBound, smallHeap: memoryBound, 100 << 20: math.MaxInt64} {
		if got := memoryFor(live); got != want {
			t.Errorf("for %d bytes it is %d, want %d", live, got, want)
		}
	}
	runtime.GC()
	if live := liveHeap(); live < 100<<10 || live > 1<<32 {
		t.Errorf("%d bytes live", live)
	}
}
