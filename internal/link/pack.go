package link

import (
	"encoding/json"
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/incident"
)

// Pack gives messages as bytes for drivers whose libraries do the encoding;
// Unpack takes them out again.
func Pack(msgs []device.Message) ([]byte, error) {
	b, err := json.Marshal(msgs)
	if err != nil {
		return nil, fmt.Errorf("encode: %w", err)
	}
	return b, nil
}

// Unpack takes packed messages apart. What Pack made it can read.
func Unpack(payload []byte) []device.Message {
	var msgs []device.Message
	_ = json.Unmarshal(payload, &msgs)
	return msgs
}

// ShowPacked implements Driver.Show for packed messages.
func ShowPacked(payload []byte) []string {
	msgs := Unpack(payload)
	out := make([]string, len(msgs))
	for i, m := range msgs {
		out[i] = m.String()
	}
	return out
}

// Body reads a payload that may be JSON or any text; an empty one is nil.
func Body(payload []byte) any {
	if len(payload) == 0 {
		return nil
	}
	var v any
	if json.Unmarshal(payload, &v) == nil {
		return v
	}
	return string(payload)
}

// Inbox brings what a library's goroutines hear to the one that reads.
type Inbox struct {
	heard  chan heardFrom
	large  chan struct{} // held by large batches that were not read yet
	failed chan error
	quit   chan struct{}
}

// heardFrom is a batch, or nonsense.
type heardFrom struct {
	batch Batch
	bad   error
	large bool
}

// What waits in an inbox at most: batches, and large ones among them.
const (
	//limit:count messages of a device that wait to be taken in; the device waits | nowhere
	maxHeard = 256
	//limit:count large messages of a device that wait to be taken in; the device waits | nowhere
	maxLarge = 2
	// largeBatch is a large one, in bytes.
	largeBatch = 32 << 10
)

// NewInbox returns an empty inbox.
func NewInbox() *Inbox {
	return &Inbox{heard: make(chan heardFrom, maxHeard), large: make(chan struct{}, maxLarge), failed: make(chan error, 1), quit: make(chan struct{})}
}

// Put hands in a batch; it waits while the reader is behind.
func (i *Inbox) Put(b Batch) {
	size := 0
	for _, m := range b.Messages {
		size += m.Size()
	}
	h := heardFrom{batch: b, large: size > largeBatch}
	if h.large {
		select {
		case i.large <- struct{}{}:
		case <-i.quit:
			return
		}
	}
	i.put(h)
}

// Bad hands in nonsense.
func (i *Inbox) Bad(err error) { i.put(heardFrom{bad: &BadInput{err}}) }

func (i *Inbox) put(h heardFrom) {
	select {
	case i.heard <- h:
	case <-i.quit:
	}
}

// Fail ends the connection; only the first reason counts.
func (i *Inbox) Fail(err error) {
	select {
	case i.failed <- err:
	default:
	}
}

// Read implements Conn.Read. What was said before a failure comes before it.
func (i *Inbox) Read() (Batch, error) {
	select {
	case h := <-i.heard:
		return i.take(h)
	default:
	}
	select {
	case h := <-i.heard:
		return i.take(h)
	case err := <-i.failed:
		select {
		case h := <-i.heard:
			i.Fail(err)
			return i.take(h)
		default:
			return Batch{}, err
		}
	case <-i.quit:
		return Batch{}, errClosed
	}
}

func (i *Inbox) take(h heardFrom) (Batch, error) {
	if h.large {
		<-i.large
	}
	return h.batch, h.bad
}

// Serve runs a goroutine of a driver, or a call of its library; where that panics, the
// connection ends, and nothing else.
func (i *Inbox) Serve(driver string, f func()) {
	if !incident.Contain("driver", driver, f) {
		i.Fail(errInside)
	}
}

// Quit is closed when the inbox is.
func (i *Inbox) Quit() <-chan struct{} { return i.quit }

// Close ends the inbox; it is called once.
func (i *Inbox) Close() { close(i.quit) }

// Problem is a sentence that says why a link failed.
type Problem string

// Error implements error.
func (p Problem) Error() string { return string(p) }

const errClosed = Problem("The connection was closed.")

// Handover passes payloads to a goroutine that may be busy.
type Handover struct{ jobs chan Job }

// Job is a payload of a command.
type Job struct {
	Payload []byte
	Command uint64
}

// NewHandover returns a handover that holds nothing.
func NewHandover() Handover { return Handover{make(chan Job)} }

// Jobs gives the other side what is handed over.
func (h Handover) Jobs() <-chan Job { return h.jobs }

// Try hands over if the other side is idle.
func (h Handover) Try(j Job) bool {
	select {
	case h.jobs <- j:
		return true
	default:
		return false
	}
}

// Until hands over before the deadline, or fails with ErrLate.
func (h Handover) Until(j Job, deadline time.Time, quit <-chan struct{}) error {
	t := time.NewTimer(time.Until(deadline))
	defer t.Stop()
	select {
	case h.jobs <- j:
		return nil
	case <-quit:
		return errClosed
	case <-t.C:
		return ErrLate
	}
}

// JSON encodes a value of a message.
func JSON(v any) ([]byte, error) {
	b, err := json.Marshal(v)
	if err != nil {
		return nil, fmt.Errorf("encode: %w", err)
	}
	return b, nil
}
