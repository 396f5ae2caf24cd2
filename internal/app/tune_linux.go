package app

import (
	"log/slog"
	"os"
	"strconv"

	"golang.org/x/sys/unix"
)

// shortTurns asks the kernel for the slice, for all threads there are; those that they
// begin have it too. It needs no right, and kernels before 6.12 pass over it.
func shortTurns() {
	threads, err := os.ReadDir("/proc/self/task")
	if err != nil {
		slog.Debug("the threads of the process cannot be listed", "err", err)
		return
	}
	for _, t := range threads {
		id, err := strconv.Atoi(t.Name())
		if err != nil {
			continue
		}
		attr, err := unix.SchedGetAttr(id, 0)
		if err != nil || attr.Policy != unix.SCHED_NORMAL {
			continue // gone already, or somebody has set the process up in another way
		}
		attr.Runtime = uint64(slice)
		if err := unix.SchedSetAttr(id, attr, 0); err != nil {
			slog.Debug("the system does not grant short turns", "err", err)
			return
		}
	}
}
