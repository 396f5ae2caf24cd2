// Package link keeps devices connected. One supervisor, the same for every
// protocol, connects, makes sure that the right kind of device answers, has it
// report everything, keeps the link alive, and connects again when it is lost.
// Drivers, in packages of their own, know a protocol and no device.
//
// Commands never leave late: each carries a deadline to the start of its write,
// and one that misses it is dropped and reported.
package link

import (
	"context"
	"time"

	"synaptor/internal/core/device"
)

// Driver speaks one protocol over one transport.
type Driver interface {
	// Encode gives the bytes that Conn.Write sends for messages, in order.
	Encode(...device.Message) ([]byte, error)
	// Dial connects. Unsent data must not outlive stale.
	Dial(ctx context.Context, host string, port int, stale time.Duration) (Conn, error)
}

// Conn is one connection. Read and Write may be called by two goroutines.
type Conn interface {
	// Read waits for messages. A *BadInput leaves the connection usable.
	Read() ([]device.Message, error)
	// Write sends bytes that Encode made, before the deadline or not at all.
	Write(payload []byte, deadline time.Time) error
	// TryWrite sends bytes if that needs no waiting. ok is false when it would;
	// nothing was sent then. It is not called while Write runs.
	TryWrite(payload []byte) (ok bool, err error)
	// Close ends the connection at once and throws away what was not sent.
	Close() error
}

// BadInput is nonsense from a device that does not end the connection.
type BadInput struct{ Err error }

// Error implements error.
func (e *BadInput) Error() string { return e.Err.Error() }

// Unwrap gives the reason.
func (e *BadInput) Unwrap() error { return e.Err }

// Phase is where a link stands.
type Phase string

// The phases of a link.
const (
	Connecting Phase = "connecting" // never answered yet
	Syncing    Phase = "syncing"    // answers; the full state is on its way
	Up         Phase = "up"
	Down       Phase = "down" // lost or refused; tried again
)

// State describes a link at a moment.
type State struct {
	Device  string
	Phase   Phase
	Since   time.Time
	Problem string // the last problem in words; kept while up
	// Bad counts messages that made no sense since the link came up.
	Bad   int
	Heard time.Time // when the device last said anything
	Found string    // what the device said it is
}

// Command is something to send.
type Command struct {
	ID       uint64
	Payload  []byte
	Deadline time.Time // the latest start of the write
}

// Sink takes in what links have to say. Its methods must not block for long:
// they are called from the links' own goroutines.
type Sink interface {
	LinkChanged(State)
	Reported(device string, at time.Time, reports []device.Report)
	Written(device string, command uint64, at time.Time)
	Dropped(device string, command uint64, at time.Time, reason string)
	Refused(device string, at time.Time, text string)
}

// Config says what a link connects to.
type Config struct {
	Device string // the device's id
	Name   string // its name, for sentences
	Host   string
	Port   int
	Type   *device.Type
	Driver Driver
	Sink   Sink
}

const (
	queueLength = 64
	dialLimit   = time.Second
	answerLimit = time.Second
	firstRetry  = 100 * time.Millisecond
	// longestRetry keeps a device's return from going unnoticed for a second.
	longestRetry = 700 * time.Millisecond
)
