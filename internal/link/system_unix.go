//go:build unix

package link

import "syscall"

// What a system says of a peer that cannot be reached.
const (
	errRefused   = syscall.ECONNREFUSED
	errNoNetwork = syscall.ENETUNREACH
	errNoHost    = syscall.EHOSTUNREACH
	errReset     = syscall.ECONNRESET
	errAborted   = syscall.EPIPE
)
