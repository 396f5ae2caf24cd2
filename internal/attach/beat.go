package attach

import (
	"context"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"
)

// beatEvery is how often a browser that holds something is asked whether it is there (RFC 6455, 5.5.2: it
// answers beneath the page, also where the page is hidden and its timers are slow), and restEvery one that holds nothing: a thousand panels that
// look on are to cost nobody anything. What it holds is let go when no answer came for goneAfter, and the socket is closed after lostAfter.
const (
	beatEvery = 500 * time.Millisecond
	restEvery = 10 * time.Second
	goneAfter = 1900 * time.Millisecond
	lostAfter = 15 * time.Second
)

// Pulse says whether a browser holds something. The zero value says that it holds nothing; nil that it always may.
type Pulse struct {
	held atomic.Int64
	wake chan struct{}
}

// NewPulse gives one of a browser that holds nothing.
func NewPulse() *Pulse { return &Pulse{wake: make(chan struct{}, 1)} }

// Holds notes how much is held.
func (p *Pulse) Holds(n int) {
	if p.held.Swap(int64(n)) == 0 && n > 0 {
		select {
		case p.wake <- struct{}{}:
		default:
		}
	}
}

func (p *Pulse) rests() bool { return p != nil && p.held.Load() == 0 }

func (p *Pulse) woken() <-chan struct{} {
	if p == nil {
		return nil
	}
	return p.wake
}

// Beat asks a browser again and again whether it is there, until it is lost or the context ends: closely while it holds something. release is called
// when it has vanished: it holds nothing then.
func Beat(ctx context.Context, ws *websocket.Conn, p *Pulse, release func()) {
	gone := time.AfterFunc(goneAfter, release)
	defer gone.Stop()
	next := time.NewTimer(beatEvery)
	defer next.Stop()
	for {
		gone.Reset(goneAfter) // it has said something just now
		c, cancel := context.WithTimeout(ctx, lostAfter)
		err := ws.Ping(c)
		cancel()
		if err != nil {
			return
		}
		wait := beatEvery
		if gone.Reset(goneAfter); p.rests() {
			gone.Stop()
			wait = restEvery
		}
		next.Reset(wait)
		select {
		case <-next.C:
		case <-p.woken():
		case <-ctx.Done():
			return
		}
	}
}
