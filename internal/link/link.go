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
	"errors"
	"time"

	"synaptor/internal/core/device"
)

// Driver speaks one protocol over one transport.
type Driver interface {
	// Encode gives the bytes that Conn.Write sends for messages, in order.
	Encode(...device.Message) ([]byte, error)
	// Show gives the messages in an encoded payload as a person reads them.
	Show(payload []byte) []string
	// Dial connects and signs in. It fails with ErrForeign where something
	// answers that speaks another protocol, and with an *AuthError.
	Dial(context.Context, Target) (Conn, error)
}

// Target says what to connect to.
type Target struct {
	Host   string
	Port   int
	Secure bool // over TLS, where the protocol can
	Link   *device.LinkSpec
	User   string
	// Password is a password or a token.
	Password string
	// Stale is how long unsent data may stay anywhere on its way out.
	Stale time.Duration
}

// Conn is one connection. Read and Write may be called by two goroutines.
type Conn interface {
	// Read waits for what the device says. A *BadInput leaves the connection
	// usable.
	Read() (Batch, error)
	// Write sends bytes that Encode made, before the deadline or not at all. It
	// fails with ErrLate when they cannot leave; the connection stays usable.
	// command is the number of the command they belong to, or 0.
	Write(payload []byte, command uint64, deadline time.Time) error
	// TryWrite sends bytes if that needs no waiting. ok is false when it would;
	// nothing was sent then. It is not called while Write runs.
	TryWrite(payload []byte, command uint64) (ok bool, err error)
	// Close ends the connection at once and throws away what was not sent.
	Close() error
}

// Batch is what a device said in one go.
type Batch struct {
	Messages []device.Message
	Answers  []Answer
}

// Answer is a device's answer to a command.
type Answer struct {
	Command uint64
	OK      bool
	Text    string // what it said, in short
}

// BadInput is nonsense from a device that does not end the connection.
type BadInput struct{ Err error }

// Error implements error.
func (e *BadInput) Error() string { return e.Err.Error() }

// Unwrap gives the reason.
func (e *BadInput) Unwrap() error { return e.Err }

// AuthError says that a device did not let Synaptor in. Found is what the
// device said it is, where it did.
type AuthError struct {
	Text  string // a part of a sentence: "the password is wrong"
	Found string
}

// Error implements error.
func (e *AuthError) Error() string { return e.Text }

// ErrForeign says that what answers speaks another protocol.
var ErrForeign = errors.New("something else answers")

// ErrLate says that a message could not leave before its deadline.
var ErrLate = errors.New("it could not leave in time")

// Phase is where a link stands.
type Phase string

// The phases of a link.
const (
	Connecting Phase = "connecting" // never answered yet
	Syncing    Phase = "syncing"    // answers; the full state is on its way
	Up         Phase = "up"
	Down       Phase = "down"   // lost or refused; tried again
	Locked     Phase = "locked" // not let in; tried again only now and then
	Parked     Phase = "parked" // no link, on purpose
)

// State describes a link at a moment.
type State struct {
	Device  string
	Phase   Phase
	Since   time.Time
	Problem string // the last problem in words; empty once it is up, until there is another one
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
	// Listed tells of lists that have all values of an index, after what they reported.
	Listed(device string, at time.Time, lists []device.List)
	Raised(device string, at time.Time, events []device.Event)
	// Asked tells that the device is asked for its whole state, before it is.
	Asked(device string, at time.Time)
	// Leaving tells that a queued command is about to be written: what the device says from now
	// on may be about it. Written or Dropped follows.
	Leaving(device string, command uint64, at time.Time)
	Written(device string, command uint64, at time.Time)
	Dropped(device string, command uint64, at time.Time, reason string)
	// Answered tells of the answer to a command; Replied of one that is tied to its
	// command by what the sheet says.
	Answered(device string, at time.Time, a Answer)
	Replied(device string, at time.Time, r device.Reply)
}

// Config says what a link connects to.
type Config struct {
	Device string // the device's id
	Name   string // its name, for sentences
	Target Target
	Type   *device.Type
	Driver Driver
	Sink   Sink
	Wire   *Wire // takes in raw messages while somebody watches; may be nil
}

const (
	queueLength = 64
	// dialLimit is the longest that a connection and its sign-in may take. One that hangs is not waited
	// for alone: every dialAgain another one is tried beside it.
	//limit:count time in which a connection is made and signed in | as the device's problem
	dialLimit = 4 * time.Second
	dialAgain = 500 * time.Millisecond
	// answerLimit is how long a new connection waits to be told what answers; meanwhile it asks
	// again and again.
	//limit:count time in which a new connection says what it is | as the device's problem
	answerLimit = 3 * time.Second
	askAgain    = 200 * time.Millisecond
	//limit:count time for a full state that has no end of its own | nowhere; the device is ready then
	fullLimit   = time.Second // that a full state may take which has no end of its own
	leastMissed = 300 * time.Millisecond
	firstRetry  = 100 * time.Millisecond
	// longestRetry keeps a device's return from going unnoticed for a second.
	longestRetry = 500 * time.Millisecond
	// lockedRetry is how often a password that was refused is tried again.
	lockedRetry = 30 * time.Second
)

// lockedRetries is when a password that was right before is tried again: devices refuse it while they
// start, or have too many clients.
var lockedRetries = []time.Duration{time.Second, 2 * time.Second, 5 * time.Second, 10 * time.Second, lockedRetry}
