package app

import (
	"os"
	"runtime"
	"strconv"
	"testing"

	"golang.org/x/sys/unix"
)

// TestThreadsHaveShortTurns shows that every thread has the slice, also one that is begun later.
func TestThreadsHaveShortTurns(t *testing.T) {
	before, err := unix.SchedGetAttr(0, 0)
	if err != nil || before.Policy != unix.SCHED_NORMAL || before.Runtime == 0 {
		t.Skipf("this system has no turns to ask for: %+v, %v", before, err)
	}
	shortTurns()
	defer restoreTurns(before)
	begun, end := make(chan bool), make(chan bool)
	defer close(end)
	for range 8 {
		go func() {
			runtime.LockOSThread() // never unlocked: the thread ends with the goroutine
			begun <- true
			<-end
		}()
		<-begun
	}
	threads, err := os.ReadDir("/proc/self/task")
	if err != nil {
		t.Fatal(err)
	}
	for _, thread := range threads {
		id, _ := strconv.Atoi(thread.Name())
		attr, err := unix.SchedGetAttr(id, 0)
		if err == nil && attr.Runtime != uint64(slice) {
			t.Errorf("thread %d goes on for %d ns, wanted %v", id, attr.Runtime, slice)
		}
	}
}

// restoreTurns gives the threads back what they had, for the other tests.
func restoreTurns(attr *unix.SchedAttr) {
	threads, _ := os.ReadDir("/proc/self/task")
	for _, thread := range threads {
		if id, err := strconv.Atoi(thread.Name()); err == nil {
			_ = unix.SchedSetAttr(id, attr, 0)
		}
	}
}
