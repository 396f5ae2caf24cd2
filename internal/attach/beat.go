package attach

import (
	"context"
	"time"

	"github.com/coder/websocket"
)

// beatEvery is how often a browser is asked whether it is there (RFC 6455, 5.5.2: it
// answers beneath the page, also where the page is hidden and its timers are slow). What it holds
// is let go when no answer came for goneAfter, and the socket is closed after lostAfter.
const (
	beatEvery = 500 * time.Millisecond
	goneAfter = 1900 * time.Millisecond
	lostAfter = 15 * time.Second
)

// Beat asks a browser again and again whether it is there, until it is lost or the context ends. release is called when it has
// vanished: it holds nothing then.
func Beat(ctx context.Context, ws *websocket.Conn, release func()) {
	next := time.NewTicker(beatEvery)
	defer next.Stop()
	gone := time.AfterFunc(goneAfter, release)
	defer gone.Stop()
	for {
		c, cancel := context.WithTimeout(ctx, lostAfter)
		err := ws.Ping(c)
		cancel()
		if err != nil {
			return
		}
		gone.Reset(goneAfter)
		select {
		case <-next.C:
		case <-ctx.Done():
			return
		}
	}
}
