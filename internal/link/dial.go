package link

import (
	"context"
	"errors"
	"net"
	"slices"
	"sync/atomic"
	"time"

	"synaptor/internal/incident"
)

// dialed is how a try to connect has ended.
type dialed struct {
	conn Conn
	err  error
}

// dial connects. A try that hangs goes on, since the device may be slow; every dialAgain a fresh one
// is made beside it, since a device that comes back does not answer what it did not hear. The first
// that succeeds counts.
func (l *Link) dial(ctx context.Context) (Conn, error) {
	ctx, cancel := context.WithTimeout(ctx, dialLimit)
	tries, ended := 0, make(chan dialed)
	try := func(limit time.Duration) {
		tries++
		go func() {
			ctx, cancel := context.WithTimeout(ctx, limit)
			defer cancel()
			d := dialed{err: errInside}
			incident.Contain("link", l.cfg.Name, func() {
				target := l.cfg.Target
				target.Stale = l.cfg.Type.Deadline
				d.conn, d.err = l.cfg.Driver.Dial(ctx, target)
			})
			ended <- d
		}()
	}
	defer func() {
		cancel()
		go func() { // what comes after the first one is not needed
			for range tries {
				if d := <-ended; d.err == nil {
					_ = d.conn.Close()
				}
			}
		}()
	}()
	try(dialLimit)
	again := time.NewTicker(dialAgain)
	defer again.Stop()
	for {
		select {
		case d := <-ended:
			tries--
			if d.err == nil {
				return withMask(d.conn, l.cfg.Target), nil
			}
			if tries == 0 || !timedOut(d.err) {
				return nil, d.err
			}
		case <-again.C:
			if l.refusals < 0 && l.cfg.Type.Sheet.Link.Login != nil {
				continue // a password that was never right is tried once: wrong ones lock accounts
			}
			try(dialAgain)
		}
	}
}

// timedOut tells whether a try has only taken too long.
func timedOut(err error) bool {
	var n net.Error
	return errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) || errors.As(err, &n) && n.Timeout()
}

// paceOf is how many answers a link remembers the time of.
const paceOf = 20

// pace is how long a device takes to answer whether it is there. Latency is no loss: the limits of a
// link follow it.
type pace struct {
	took [paceOf]time.Duration
	n    int
	most atomic.Int64
}

// add takes in how long an answer took; only the link's own goroutine may.
func (p *pace) add(d time.Duration) {
	p.took[p.n%paceOf] = d
	p.n++
	p.most.Store(int64(slices.Max(p.took[:])))
}

// worst is the longest of the last answers.
func (p *pace) worst() time.Duration { return time.Duration(p.most.Load()) }
