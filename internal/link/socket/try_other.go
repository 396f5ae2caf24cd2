//go:build !unix

package socket

import "syscall"

// tryStream cannot tell on this system whether a write would wait: all of them go the way of those that do.
func tryStream(syscall.RawConn, []byte) (ok bool, err error) { return false, nil }

// TrySend cannot tell on this system whether a datagram would wait.
func TrySend(syscall.RawConn, []byte) (ok bool, err error) { return false, nil }
