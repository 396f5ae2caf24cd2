package app

import (
	"runtime"
	"testing"
)

// TestTheBoundOfTheMemoryGoesUpWithTheShow: a large show must not spend its time collecting.
func TestTheBoundOfTheMemoryGoesUpWithTheShow(t *testing.T) {
	for live, want := range map[int64]int64{0: leastMemory, 10 << 20: leastMemory, 100 << 20: 300 << 20} {
		if got := memoryFor(live); got != want {
			t.Errorf("for %d bytes it is %d, want %d", live, got, want)
		}
	}
	runtime.GC()
	if live := liveHeap(); live < 100<<10 || live > 1<<32 {
		t.Errorf("%d bytes live", live)
	}
}
