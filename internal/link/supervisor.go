package link

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
)

// Link is the supervised link to one device.
type Link struct {
	cfg   Config
	queue chan Command
	probe chan struct{}
	stop  context.CancelFunc
	done  chan struct{}
	state State
	// open is the session that commands may go to directly; nil while the link
	// is not up.
	open atomic.Pointer[session]
}

// ErrFull says that a link's queue holds as much as it can.
var ErrFull = errors.New("the queue of this device is full")

// Open starts a link; it connects, and connects again, until it is closed.
func Open(cfg Config) *Link {
	ctx, stop := context.WithCancel(context.Background())
	l := &Link{cfg: cfg, queue: make(chan Command, queueLength), probe: make(chan struct{}, 1), stop: stop,
		done: make(chan struct{}), state: State{Device: cfg.Device, Phase: Connecting, Since: time.Now()}}
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
// sent at once; what becomes of a queued one is told to the sink.
func (l *Link) Send(c Command) (written bool, err error) {
	if s := l.open.Load(); s != nil && len(l.queue) == 0 && time.Now().Before(c.Deadline) && s.writing.TryLock() {
		ok, err := s.conn.TryWrite(c.Payload)
		s.writing.Unlock()
		if ok {
			return true, nil
		}
		if err != nil {
			_ = s.conn.Close() // the reader notices, and the link is made anew
			return false, err
		}
	}
	select {
	case l.queue <- c:
		return false, nil
	default:
		return false, ErrFull
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
		wasUp, err := l.once(ctx)
		if ctx.Err() != nil {
			break
		}
		if wasUp {
			wait = firstRetry
		}
		// What is queued is reported as dropped before the loss ends it.
		l.flush("the link was lost before it could leave")
		l.enter(Down, Sentence(err, l.cfg))
		select {
		case <-time.After(wait/2 + rand.N(wait/2)):
		case <-ctx.Done():
		}
		wait = min(wait*2, longestRetry)
	}
	l.flush("the device was removed or moved")
}

// enter moves to a phase and says so; the time since counts from the change.
func (l *Link) enter(p Phase, problem string) {
	if l.state.Phase != p {
		l.state.Since = time.Now()
	}
	changed := l.state.Phase != p || problem != "" && l.state.Problem != problem
	l.state.Phase = p
	if problem != "" {
		l.state.Problem = problem
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
			l.cfg.Sink.Dropped(l.cfg.Device, c.ID, time.Now(), reason)
		default:
			return
		}
	}
}

// once connects and serves one connection until it is lost.
func (l *Link) once(ctx context.Context) (wasUp bool, err error) {
	dialCtx, cancel := context.WithTimeout(ctx, dialLimit)
	defer cancel()
	c, err := l.cfg.Driver.Dial(dialCtx, l.cfg.Host, l.cfg.Port, l.cfg.Type.Deadline)
	if err != nil {
		return false, err
	}
	s := &session{Link: l, conn: c, heard: make(chan heard, 64), failed: make(chan error, 1), quit: make(chan struct{})}
	reading := make(chan struct{})
	go func() {
		defer close(reading)
		s.read()
	}()
	err = s.serve(ctx)
	close(s.quit)
	_ = c.Close()
	<-reading
	return s.up, err
}

// session is one connection from its start to its loss.
type session struct {
	*Link
	conn Conn
	// writing is held by whoever writes: the session's goroutine, or the engine
	// for a command that goes out at once.
	writing sync.Mutex
	heard   chan heard
	failed  chan error
	quit    chan struct{}
	up      bool
	asked   time.Time // the oldest question without an answer; zero: none
	last    time.Time
}

// heard is what the reader tells the writer.
type heard struct {
	at       time.Time
	identity string // the identifying reading, when it was reported
	hasID    bool
	bad      error
}

// errWrongDevice says that what answers is not what the sheet describes.
var errWrongDevice = errors.New("wrong device")

// errSilent says that a question stayed without an answer.
var errSilent = errors.New("no answer")

func (s *session) serve(ctx context.Context) error {
	if err := s.ask(); err != nil {
		return err
	}
	id, err := s.awaitIdentity(ctx)
	if err != nil {
		return err
	}
	if !s.cfg.Type.Identified(id) {
		return errWrongDevice
	}
	s.state.Found, s.state.Bad = id, 0
	s.enter(Syncing, "")
	for _, m := range s.cfg.Type.Start() {
		if err := s.write(m); err != nil {
			return err
		}
	}
	if err := s.ask(); err != nil {
		return err
	}
	if _, err := s.awaitIdentity(ctx); err != nil {
		return err
	}
	s.up = true
	s.open.Store(s)
	defer s.open.Store(nil)
	s.enter(Up, "")
	return s.live(ctx)
}

// awaitIdentity waits for the identifying reading. Commands that arrive in the
// meantime wait in the queue; those whose deadline passes are dropped.
func (s *session) awaitIdentity(ctx context.Context) (string, error) {
	limit := time.NewTimer(answerLimit)
	defer limit.Stop()
	for {
		select {
		case h := <-s.heard:
			s.note(h)
			if h.hasID {
				return h.identity, nil
			}
		case err := <-s.failed:
			return "", err
		case <-limit.C:
			if s.last.IsZero() {
				return "", errSilent
			}
			return "", errWrongDevice
		case <-ctx.Done():
			return "", ctx.Err()
		}
	}
}

func (s *session) live(ctx context.Context) error {
	alive := time.NewTicker(s.cfg.Type.Alive)
	defer alive.Stop()
	silent := time.NewTimer(time.Hour)
	defer silent.Stop()
	for {
		select {
		case c := <-s.queue:
			if err := s.command(c); err != nil {
				return err
			}
		case h := <-s.heard:
			s.note(h)
		case err := <-s.failed:
			return err
		case <-alive.C:
			if err := s.question(silent); err != nil {
				return err
			}
		case <-s.probe:
			if err := s.question(silent); err != nil {
				return err
			}
		case <-silent.C:
			if !s.asked.IsZero() {
				return errSilent
			}
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

// question asks whether the device is there, unless a question is under way.
func (s *session) question(silent *time.Timer) error {
	if !s.asked.IsZero() {
		return nil
	}
	s.asked = time.Now()
	silent.Reset(s.cfg.Type.Alive)
	return s.ask()
}

func (s *session) command(c Command) error {
	now := time.Now()
	if now.After(c.Deadline) {
		s.cfg.Sink.Dropped(s.cfg.Device, c.ID, now, "it could not leave in time")
		return nil
	}
	if err := s.send(c.Payload, c.Deadline); err != nil {
		s.cfg.Sink.Dropped(s.cfg.Device, c.ID, time.Now(), "the link was lost while it was sent")
		return err
	}
	s.cfg.Sink.Written(s.cfg.Device, c.ID, time.Now())
	return nil
}

func (s *session) ask() error {
	m, ok := s.cfg.Type.Ask(s.cfg.Type.Sheet.Link.Identify.Reading)
	if !ok {
		return nil
	}
	return s.write(m)
}

func (s *session) write(m device.Message) error {
	payload, err := s.cfg.Driver.Encode(m)
	if err != nil {
		return err
	}
	return s.send(payload, time.Now().Add(s.cfg.Type.Deadline))
}

func (s *session) send(payload []byte, deadline time.Time) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	return s.conn.Write(payload, deadline)
}

// note takes in what the reader heard.
func (s *session) note(h heard) {
	s.last, s.asked, s.state.Heard = h.at, time.Time{}, h.at
	if h.bad != nil {
		s.state.Bad++
		s.state.Problem = fmt.Sprintf("%s sent something that makes no sense: %v.", s.cfg.Name, h.bad)
		s.cfg.Sink.LinkChanged(s.state)
	}
}

// read passes on what the device says until the connection ends.
func (s *session) read() {
	for {
		msgs, err := s.conn.Read()
		at := time.Now()
		h := heard{at: at}
		var bad *BadInput
		switch {
		case errors.As(err, &bad):
			h.bad = bad.Err
		case err != nil:
			s.failed <- err
			return
		default:
			s.take(msgs, at, &h)
		}
		select {
		case s.heard <- h:
		case <-s.quit:
			return
		}
	}
}

func (s *session) take(msgs []device.Message, at time.Time, h *heard) {
	var reports []device.Report
	for _, m := range msgs {
		if refusal := s.cfg.Type.Sheet.Link.Refusal; refusal != "" && m.Address == refusal {
			text := ""
			if len(m.Args) > 0 {
				text = expr.Text(m.Args[0])
			}
			s.cfg.Sink.Refused(s.cfg.Device, at, text)
			continue
		}
		r, known, err := s.cfg.Type.Match(m)
		switch {
		case err != nil:
			h.bad = err
		case known:
			reports = append(reports, r)
			if r.Path == s.cfg.Type.Sheet.Link.Identify.Reading {
				h.identity, h.hasID = expr.Text(r.Value), true
			}
		}
	}
	if len(reports) > 0 {
		s.cfg.Sink.Reported(s.cfg.Device, at, reports)
	}
}
