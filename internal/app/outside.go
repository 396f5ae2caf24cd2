package app

import (
	"errors"
	"fmt"
	"io/fs"
	"net"
	"slices"
	"strings"
	"syscall"

	"synaptor/internal/store"
)

// OutsideError says in words what outside Synaptor keeps it from starting, such as a port that is taken, and what to do.
type OutsideError struct {
	Text string
	Err  error
}

// Error implements error.
func (e *OutsideError) Error() string { return e.Text }

// Unwrap gives what the system said.
func (e *OutsideError) Unwrap() error { return e.Err }

// outside makes what a start failed of an *OutsideError where it is the world's to put right; any other error stays as it is.
func outside(o Options, err error) error {
	var used *store.InUseError
	var disk *store.DiskError
	var path *fs.PathError
	var op *net.OpError
	switch {
	case errors.As(err, &used), errors.As(err, &disk), errors.As(err, &path):
		return &OutsideError{err.Error(), err}
	case errors.As(err, &op) && op.Op == "listen" && op.Addr != nil:
		return &OutsideError{listenInWords(o, op), err}
	}
	return err
}

// wsaInUse is what Windows says of an address in use, WSAEADDRINUSE.
const wsaInUse = syscall.Errno(10048)

// listenInWords says why an address cannot be listened at, and which flag has another one.
func listenInWords(o Options, op *net.OpError) string {
	at, other := op.Addr.String(), "with --bench-ports"
	for flag, list := range map[string]string{"--listen": o.Listen, "--osc": o.OSC} {
		if slices.Contains(strings.Split(list, ","), at) {
			other = "with " + flag
		}
	}
	host, port, err := net.SplitHostPort(at)
	if err != nil {
		return op.Error()
	}
	switch {
	case errors.Is(op.Err, syscall.EADDRINUSE), errors.Is(op.Err, wsaInUse):
		return fmt.Sprintf("the port %s of %s is taken by another program, perhaps another Synaptor; end that one, or choose another port %s", port, host, other)
	case errors.Is(op.Err, fs.ErrPermission):
		return fmt.Sprintf("Synaptor has no right to use the port %s; choose one above 1023 %s", port, other)
	case errors.Is(op.Err, syscall.EADDRNOTAVAIL):
		return fmt.Sprintf("this computer has no address %s; choose one that it has %s, or 0.0.0.0 for all", host, other)
	}
	return fmt.Sprintf("nothing can listen at %s: %v", at, op.Err)
}
