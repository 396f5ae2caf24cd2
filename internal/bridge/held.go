package bridge

import (
	"io"
	"os"
	"sync"
	"time"
)

const (
	// looks is how often a read looks whether its port was closed.
	looks = 200 * time.Millisecond
	// closeWait is how long a port that is to be closed waits for what is being read or written.
	closeWait = 2 * time.Second
)

// held is a port that is read, written and closed by its number, as serial ports are: once it is closed, that number may be another
// file's. So it is closed when nobody reads or writes, and nobody does afterwards.
type held struct {
	port          io.ReadWriteCloser // whose reads end now and then, with nothing read
	closed        chan struct{}
	once          sync.Once
	reads, writes chan struct{} // has something in it while somebody does
}

func hold(port io.ReadWriteCloser) *held {
	return &held{port: port, closed: make(chan struct{}), reads: make(chan struct{}, 1), writes: make(chan struct{}, 1)}
}

// use does something with the port, unless that is closed.
func (h *held) use(busy chan struct{}, do func([]byte) (int, error), p []byte) (int, error) {
	select {
	case busy <- struct{}{}:
	case <-h.closed:
		return 0, os.ErrClosed
	}
	defer func() { <-busy }()
	select {
	case <-h.closed:
		return 0, os.ErrClosed
	default:
		return do(p)
	}
}

// Read implements io.Reader.
func (h *held) Read(p []byte) (n int, err error) {
	for n == 0 && err == nil {
		n, err = h.use(h.reads, h.port.Read, p)
	}
	return n, err
}

// Write implements io.Writer.
func (h *held) Write(p []byte) (int, error) { return h.use(h.writes, h.port.Write, p) }

// Close implements io.Closer. A write that a board takes in never is not waited for: it has the port as long as it goes on.
func (h *held) Close() (err error) {
	h.once.Do(func() {
		close(h.closed)
		limit := time.After(closeWait)
		for _, busy := range []chan struct{}{h.reads, h.writes} {
			select {
			case busy <- struct{}{}:
				defer func() { <-busy }()
			case <-limit:
				limit = time.After(0)
			}
		}
		err = h.port.Close()
	})
	return err
}
