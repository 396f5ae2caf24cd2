//go:build unix

package socket

import (
	"errors"
	"io"
	"syscall"

	"golang.org/x/sys/unix"
)

// tryStream writes to a stream if that needs no waiting.
func tryStream(c syscall.RawConn, payload []byte) (ok bool, err error) {
	n, ok, err := tryWrite(c, payload, unix.EAGAIN)
	if ok && n < len(payload) {
		return false, io.ErrShortWrite
	}
	return ok, err
}

// TrySend sends a datagram if that needs no waiting.
func TrySend(c syscall.RawConn, payload []byte) (ok bool, err error) {
	_, ok, err = tryWrite(c, payload, unix.EAGAIN, unix.ENOBUFS)
	return ok, err
}

// tryWrite writes once. ok is false where one of these errors says that it has to wait.
func tryWrite(c syscall.RawConn, payload []byte, waits ...error) (n int, ok bool, err error) {
	var sys error
	err = c.Write(func(fd uintptr) bool {
		n, sys = unix.Write(int(fd), payload)
		return true // never wait
	})
	if err != nil {
		return 0, false, err
	}
	for _, w := range waits {
		if errors.Is(sys, w) {
			return 0, false, nil
		}
	}
	return n, sys == nil, sys
}
