//go:build !linux

package socket

import (
	"syscall"
	"time"
)

// dropLate cannot be done by the kernel of this system in fractions of a second; see watch.
func dropLate(syscall.RawConn, time.Duration) (did bool, err error) { return false, nil }
