package link

import (
	"context"
	"errors"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"synaptor/internal/incident"
)

// Link is the supervised link to one device.
type Link struct {
	cfg   Config
	queue chan Command
	probe chan struct{}
	again chan struct{}
	fresh chan struct{}
	stop  context.CancelFunc
	done  chan struct{}
	state State
	// failures are the last ones inside; they are the run's own.
	failures []time.Time
	// refusals counts how often the device has not let Synaptor in since it was up; -1: it never was.
	refusals int
	pace     pace
	// open is the session that commands may go to directly; nil while the link
	// is not up.
	open atomic.Pointer[session]
	// ahead counts the commands that were queued and are neither written nor dropped: one that
	// has left the queue may still be on its way to the wire.
	ahead atomic.Int64
}

// ErrFull says that a link's queue holds as much as it can.
var ErrFull = errors.New("the queue of this device is full")

// Open starts a link; it connects, and connects again, until it is closed.
func Open(cfg Config) *Link {
	ctx, stop := context.WithCancel(context.Background())
	l := &Link{cfg: cfg, queue: make(chan Command, queueLength), probe: make(chan struct{}, 1), again: make(chan struct{}, 1), fresh: make(chan struct{}, 1), stop: stop,
		done: make(chan struct{}), refusals: -1, state: State{Device: cfg.Device, Phase: Connecting, Since: time.Now()}}
	go l.run(ctx)
	return l
}

// Close ends the link and waits until it has.
func (l *Link) Close() {
	l.stop()
	<-l.done
}

// Send sends a command without waiting: at once where nothing is ahead of it
// and the device takes it, else by way of the queue. written tells that it was
// sent at once; what becomes of a queued one is told to the sink. Commands leave in the
// order of their calls, which must not overlap.
func (l *Link) Send(c Command) (written bool, err error) {
	if s := l.open.Load(); s != nil && l.ahead.Load() == 0 && s.ready(c) && s.writing.TryLock() {
		ok, err := s.tryWrite(c)
		if ok {
			s.cfg.Wire.out(s.cfg.Driver, c.Payload)
			return true, nil
		}
		if err != nil {
			_ = s.conn.Close() // the reader notices, and the link is made anew
			return false, err
		}
	}
	l.ahead.Add(1)
	select {
	case l.queue <- c:
		return false, nil
	default:
		l.ahead.Add(-1)
		return false, ErrFull
	}
}

// Reconnect has a link that waits for its next try make it at once.
func (l *Link) Reconnect() {
	select {
	case l.again <- struct{}{}:
	default:
	}
}

// Refresh has a link that is up ask the device for its whole state again.
func (l *Link) Refresh() {
	select {
	case l.fresh <- struct{}{}:
	default:
	}
}

// Probe has the link ask at once whether the device is still there.
func (l *Link) Probe() {
	select {
	case l.probe <- struct{}{}:
	default:
	}
}

func (l *Link) run(ctx context.Context) {
	defer close(l.done)
	l.cfg.Sink.LinkChanged(l.state)
	wait := firstRetry
	for ctx.Err() == nil {
		l.flush("the link was down")
		wasUp, err := l.contained(ctx)
		if ctx.Err() != nil {
			break
		}
		if wasUp {
			wait, l.refusals = firstRetry, 0
		}
		// What is queued is reported as dropped before the loss ends it.
		l.flush("the link was lost before it could leave")
		pause := wait/2 + rand.N(wait/2)
		phase := Down
		var auth *AuthError
		if errors.As(err, &auth) {
			phase, pause = Locked, l.lockedPause()
			if auth.Found != "" {
				l.state.Found = auth.Found
			}
		}
		if errors.Is(err, errInside) && l.failedOften(time.Now()) {
			pause = lockedRetry
		}
		l.cfg.Wire.note(Sentence(err, l.cfg))
		l.enter(phase, Sentence(err, l.cfg))
		select {
		case <-time.After(pause):
		case <-l.again:
			wait = firstRetry
			continue
		case <-ctx.Done():
		}
		wait = min(wait*2, longestRetry)
	}
	l.flush("the device was removed or moved")
}

// lockedPause is how long to wait after the device has not let Synaptor in.
func (l *Link) lockedPause() time.Duration {
	if l.refusals < 0 {
		return lockedRetry // trying a wrong password again and again locks accounts
	}
	l.refusals++
	return lockedRetries[min(l.refusals, len(lockedRetries))-1]
}

// enter moves to a phase and says so; the time since counts from the change.
func (l *Link) enter(p Phase, problem string) {
	if l.state.Phase != p {
		l.state.Since = time.Now()
	}
	changed := l.state.Phase != p || problem != "" && l.state.Problem != problem
	l.state.Phase = p
	if problem != "" || p == Up {
		l.state.Problem = problem // a link that is up has no problem, until it has another one
	}
	if changed {
		l.cfg.Sink.LinkChanged(l.state)
	}
}

// flush drops what is queued.
func (l *Link) flush(reason string) {
	for {
		select {
		case c := <-l.queue:
			l.ahead.Add(-1)
			l.cfg.Sink.Dropped(l.cfg.Device, c.ID, time.Now(), reason)
		default:
			return
		}
	}
}

// errInside says that the link itself failed.
const errInside = Problem("Something went wrong inside Synaptor on this link. It was noted, and the link is made anew.")

// contained is once; where that panics, the connection is lost, and nothing else.
func (l *Link) contained(ctx context.Context) (wasUp bool, err error) {
	err = errInside
	incident.Contain("link", l.cfg.Name, func() { wasUp, err = l.once(ctx) })
	return wasUp, err
}

// failedOften counts failures inside; it is true for the third within a minute.
func (l *Link) failedOften(now time.Time) bool {
	l.failures = append(l.failures, now)
	if n := len(l.failures); n > 3 {
		l.failures = l.failures[n-3:]
	}
	return len(l.failures) == 3 && now.Sub(l.failures[0]) < time.Minute
}

// once connects and serves one connection until it is lost.
func (l *Link) once(ctx context.Context) (wasUp bool, err error) {
	c, err := l.dial(ctx)
	if err != nil {
		return false, err
	}
	s := &session{Link: l, conn: c, born: time.Now(), identify: l.cfg.Type.Sheet.Link.Identify, heard: make(chan heard, 64), failed: make(chan error, 1), quit: make(chan struct{})}
	reading := make(chan struct{})
	go func() {
		defer close(reading)
		if !incident.Contain("link", l.cfg.Name, s.read) {
			s.fail(errInside)
		}
	}()
	defer func() {
		close(s.quit)
		_ = c.Close()
		<-reading
	}()
	err = s.serve(ctx)
	return s.up, err
}
