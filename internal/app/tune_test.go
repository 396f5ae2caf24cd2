package app

import (
	"runtime"
	"testing"
)

// TestTheMemoryOfASmallShowIsBounded, and that of a large one is far away.
func TestTheMemoryOfASmallShowIsBounded(t *testing.T) {
	bound := int64(memoryBound)
	for _, c := range []struct{ live, want int64 }{{0, memoryBound}, {25 << 20, memoryBound}, {30 << 20, largeBound}, {25 << 20, largeBound}, {200 << 20, 300 << 20}, {19 << 20, memoryBound}} {
		if bound = memoryFor(c.live, bound); bound != c.want {
			t.Errorf("for %d bytes it is %d, want %d", c.live, bound, c.want)
		}
	}
	runtime.GC()
	if live := liveHeap(); live < 100<<10 || live > 1<<32 {
		t.Errorf("%d bytes live", live)
	}
}
