package socket

import (
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"
)

type closer struct{ closed atomic.Bool }

func (c *closer) Close() error {
	c.closed.Store(true)
	return nil
}

// A peer has its time from the first write that nothing has followed; further writes give it no more.
func TestAConnectionEndsWhereNothingFollowsAWrite(t *testing.T) {
	const stale = 500 * time.Millisecond
	for _, c := range []struct {
		name   string
		play   func(w *watch)
		closed bool
	}{
		{"nothing is written", func(*watch) { time.Sleep(time.Hour) }, false},
		{"it answers in time", func(w *watch) { w.wrote(); time.Sleep(stale - 1); w.heard(); time.Sleep(time.Hour) }, false},
		{"it answers late", func(w *watch) { w.wrote(); time.Sleep(stale + 1); w.heard() }, true},
		{"more is written meanwhile", func(w *watch) { w.wrote(); time.Sleep(stale - 1); w.wrote(); time.Sleep(2 * time.Nanosecond) }, true},
		{"it answers the first and not the second", func(w *watch) { w.wrote(); w.heard(); w.wrote(); time.Sleep(stale + 1) }, true},
		{"it talks by itself", func(w *watch) {
			for range 10 {
				w.wrote()
				time.Sleep(stale / 2)
				w.heard()
			}
		}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				at := &closer{}
				c.play(newWatch(stale, at))
				synctest.Wait()
				if at.closed.Load() != c.closed {
					t.Errorf("closed: %v, want %v", at.closed.Load(), c.closed)
				}
			})
		})
	}
}
