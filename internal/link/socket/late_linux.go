package socket

import (
	"errors"
	"syscall"
	"time"

	"golang.org/x/sys/unix"
)

// dropLate has the kernel end a connection when data stays unacknowledged for longer than stale (TCP_USER_TIMEOUT, RFC 5482).
func dropLate(raw syscall.RawConn, stale time.Duration) (did bool, err error) {
	var opt error
	err = raw.Control(func(fd uintptr) {
		opt = unix.SetsockoptInt(int(fd), unix.IPPROTO_TCP, unix.TCP_USER_TIMEOUT, int(stale.Milliseconds()))
	})
	return true, errors.Join(err, opt)
}
