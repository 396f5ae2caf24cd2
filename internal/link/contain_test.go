package link_test

import (
	"context"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/bench/memory"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/incident"
	"synaptor/internal/link"
)

// broken is a driver that panics while it reads, so many times.
type broken struct {
	*memory.Driver
	times atomic.Int32
}

func (b *broken) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	c, err := b.Driver.Dial(ctx, to)
	if err != nil {
		return nil, err
	}
	return &brokenConn{c, b}, nil
}

type brokenConn struct {
	link.Conn
	b *broken
}

func (c *brokenConn) Read() (link.Batch, error) {
	if c.b.times.Add(-1) >= 0 {
		panic("the driver is broken")
	}
	return c.Conn.Read()
}

// now is the state of the link as it was last told.
func (w *watcher) now() link.State {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.state
}

func TestADriverThatPanicsLosesItsLinkAndNothingElse(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		b := &broken{Driver: memory.NewDriver()}
		b.Add("127.0.0.1:7431", 20*time.Millisecond, switcher.NewMachine)
		b.times.Store(3)
		var noted atomic.Int32
		defer incident.Notify(func(incident.Incident) { noted.Add(1) })()
		w := newWatcher()
		typ := switcherType(t)
		l := link.Open(link.Config{Device: "sw", Name: "Dome switcher", Target: link.Target{Host: "127.0.0.1", Port: 7431, Link: &typ.Sheet.Link}, Type: typ, Driver: b, Sink: w})
		defer b.Close()
		defer l.Close()
		time.Sleep(5 * time.Second)
		if st := w.now(); noted.Load() != 3 || st.Phase != link.Down {
			t.Errorf("%d incidents, and the link is %s: %s", noted.Load(), st.Phase, st.Problem)
		}
		time.Sleep(time.Minute)
		if st := w.now(); st.Phase != link.Up {
			t.Errorf("after a minute the link is %s: %s", st.Phase, st.Problem)
		}
	})
}
