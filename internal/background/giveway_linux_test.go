package background

import (
	"testing"

	"golang.org/x/sys/unix"
)

// What runs in the background gives way, and what begins later does not, though threads are begun by threads.
func TestOnlyTheBackgroundGivesWay(t *testing.T) {
	before, err := unix.SchedGetAttr(0, 0)
	if err != nil || before.Policy != unix.SCHED_NORMAL || before.Nice > lowest-lower {
		t.Skipf("this system has no threads that give way: %+v, %v", before, err)
	}
	for range 20 {
		nice := make(chan int32)
		Do(func() {
			if attr, err := unix.SchedGetAttr(0, 0); err != nil || attr.Nice != before.Nice+lower {
				t.Errorf("in the background: %+v, %v; before: %+v", attr, err, before)
			}
			for range 4 { // more than there are threads
				go func() {
					attr, _ := unix.SchedGetAttr(0, 0)
					nice <- attr.Nice
				}()
			}
			for range 4 {
				if n := <-nice; n != before.Nice {
					t.Errorf("what the background begins runs with %d, wanted %d", n, before.Nice)
				}
			}
		})
	}
}
