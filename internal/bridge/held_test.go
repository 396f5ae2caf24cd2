package bridge

import (
	"errors"
	"os"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"
)

// number is a port that is used by its number: whoever uses it while or after it is closed uses something else.
type number struct {
	busy, closed, wrong atomic.Int32
	takes               time.Duration // a write
}

func (n *number) use(takes time.Duration) {
	n.busy.Add(1)
	time.Sleep(takes)
	n.wrong.Add(n.closed.Load())
	n.busy.Add(-1)
}

func (n *number) Read([]byte) (int, error) { n.use(looks); return 0, nil }

func (n *number) Write(p []byte) (int, error) { n.use(n.takes); return len(p), nil }

func (n *number) Close() error {
	n.wrong.Add(n.busy.Load())
	n.closed.Add(1)
	return nil
}

// TestAPortIsUsedByNobodyOnceItIsClosed: its number may be that of a file of the show in the next moment.
func TestAPortIsUsedByNobodyOnceItIsClosed(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		n := &number{takes: 3 * time.Millisecond}
		h := hold(n)
		var all sync.WaitGroup
		for range 3 {
			all.Go(func() {
				for err := error(nil); err == nil; {
					_, err = h.Write([]byte("x"))
				}
			})
		}
		all.Go(func() {
			if _, err := h.Read(make([]byte, 8)); !errors.Is(err, os.ErrClosed) {
				t.Errorf("a read ends with %v", err)
			}
		})
		time.Sleep(time.Second)
		if err := errors.Join(h.Close(), h.Close()); err != nil {
			t.Error(err)
		}
		all.Wait()
		if n.wrong.Load() != 0 || n.closed.Load() != 1 {
			t.Errorf("it was used %d times while or after it was closed, and closed %d times", n.wrong.Load(), n.closed.Load())
		}
	})
}

// TestAWriteThatNobodyTakesKeepsNoPortOpen: a board that reads no more is left.
func TestAWriteThatNobodyTakesKeepsNoPortOpen(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		n := &number{takes: time.Hour}
		h := hold(n)
		var all sync.WaitGroup
		all.Go(func() { _, _ = h.Write([]byte("x")) }) // it goes on
		synctest.Wait()
		all.Go(func() {
			if _, err := h.Write([]byte("y")); !errors.Is(err, os.ErrClosed) {
				t.Errorf("what waits to be written ends with %v", err)
			}
		})
		began := time.Now()
		if err := h.Close(); err != nil || time.Since(began) > closeWait+looks {
			t.Errorf("it is closed after %v, %v", time.Since(began), err)
		}
		if _, err := h.Read(make([]byte, 1)); !errors.Is(err, os.ErrClosed) {
			t.Errorf("it is read afterwards: %v", err)
		}
		all.Wait()
	})
}
