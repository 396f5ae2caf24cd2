package socket

import (
	"io"
	"sync"
	"time"
)

// watch ends a connection where a system cannot do so itself when data stays unacknowledged: nothing was heard of the peer for a while after something
// was written to it. Devices answer what they are sent or asked.
type watch struct {
	stale time.Duration
	conn  io.Closer

	mu    sync.Mutex
	timer *time.Timer // nil: all that was written has been followed by something
}

func newWatch(stale time.Duration, conn io.Closer) *watch { return &watch{stale: stale, conn: conn} }

// wrote begins to wait for the peer, where nothing else waits.
func (w *watch) wrote() {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.timer == nil {
		w.timer = time.AfterFunc(w.stale, func() { _ = w.conn.Close() }) // whoever reads is told
	}
}

// heard ends the wait.
func (w *watch) heard() {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.timer != nil {
		w.timer.Stop()
		w.timer = nil
	}
}
