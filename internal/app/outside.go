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

// Outside makes what a start failed of an *OutsideError where it is the world's to put right; any other error stays as it is. flag names what chooses
// another address than one of a network, such as tcp, and a port.
func Outside(err error, flag func(network, port string) string) error {
	var used *store.InUseError
	var disk *store.DiskError
	var path *fs.PathError
	var op *net.OpError
	switch {
	case errors.As(err, &used), errors.As(err, &disk), errors.As(err, &path):
		return &OutsideError{err.Error(), err}
	case errors.As(err, &op) && op.Op == "listen" && op.Addr != nil:
		return &OutsideError{listenInWords(op, flag), err}
	}
	return err
}

// flagOf is the flag that chooses an address; what no other has is the bench's.
func (o Options) flagOf(network, port string) string {
	has := func(list string) bool {
		return slices.ContainsFunc(strings.Split(list, ","), func(at string) bool {
			_, p, err := net.SplitHostPort(strings.TrimSpace(at)) // a host may have been a name
			return err == nil && p == port
		})
	}
	switch {
	case strings.HasPrefix(network, "udp") && has(o.OSC):
		return "--osc"
	case strings.HasPrefix(network, "tcp") && has(o.Listen):
		return "--listen"
	}
	return "--bench-ports"
}

// wsaInUse is what Windows says of an address in use, WSAEADDRINUSE.
const wsaInUse = syscall.Errno(10048)

// listenInWords says why an address cannot be listened at, and which flag has another one.
func listenInWords(op *net.OpError, flag func(network, port string) string) string {
	at := op.Addr.String()
	host, port, err := net.SplitHostPort(at)
	if err != nil {
		return op.Error()
	}
	other := "with " + flag(op.Net, port)
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
