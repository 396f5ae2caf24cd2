package background

import (
	"log/slog"
	"time"

	"golang.org/x/sys/unix"
)

// How much less a thread is preferred, in steps of nice(2), each of which is a tenth of the time, and how
// long it goes on once it has its turn: longer, because who asks for long turns has them later.
const (
	lower    = 10
	lowest   = 19
	longTurn = 3 * time.Millisecond
)

// giveWay has the thread that calls it be preferred less from now on. It needs no right; it cannot be undone.
func giveWay() {
	attr, err := unix.SchedGetAttr(0, 0)
	if err != nil || attr.Policy != unix.SCHED_NORMAL {
		return // somebody has set the process up in another way
	}
	attr.Nice = min(attr.Nice+lower, lowest)
	attr.Runtime = uint64(longTurn)
	if err := unix.SchedSetAttr(0, attr, 0); err != nil {
		slog.Debug("the system lets no thread give way", "err", err)
	}
}
