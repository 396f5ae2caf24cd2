package link

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
)

// session is one connection from its start to its loss.
type session struct {
	*Link
	conn     Conn
	identify *device.Identify // nil: nothing tells what answers
	// writing is held by whoever writes: the session's goroutine, or the engine
	// for a command that goes out at once.
	writing sync.Mutex
	heard   chan heard
	failed  chan error
	quit    chan struct{}
	up      bool
	last    time.Time // when the device last said anything
	asked   time.Time // since when a question is without an answer; zero: none
	// owed counts the questions without an answer, those that were asked again too; took is how long the
	// first of them took, which counts once all are answered: else some were lost, and nobody knows which.
	owed    int
	took    time.Duration
	doubt   bool // it answered, but had to be asked again: some questions may be lost
	lastAsk time.Time
	silent  *time.Timer
	reask   *time.Timer // when the question is asked again, since it may be lost
	born    time.Time
	// unheard is since when the device was written to and has said nothing, in nanoseconds from
	// born; 0: it has. The reader and whoever writes share it.
	unheard atomic.Int64
	// toldBad is when it was told last that the device sends what makes no sense, later when that is
	// told again; nil: all is told.
	toldBad time.Time
	later   <-chan time.Time
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

// errMissed says that a device has not answered for a while.
const errMissed = Problem("It did not answer for a moment. What it has is read again.")

// tooOld says that the device's version is older than the sheet needs.
type tooOld struct{ has, needs string }

// Error implements error.
func (e tooOld) Error() string { return e.has + " is older than " + e.needs }

func (s *session) serve(ctx context.Context) error {
	if s.identify != nil {
		id, err := s.identity(ctx)
		if err != nil {
			return err
		}
		s.state.Found = id
	}
	s.state.Bad = 0
	s.enter(Syncing, "")
	if err := s.start(); err != nil {
		return err
	}
	if err := s.awaitFullState(ctx); err != nil {
		return err
	}
	s.up = true
	s.open.Store(s)
	defer s.open.Store(nil)
	s.enter(Up, "")
	return s.live(ctx)
}

// identity asks what the device is and makes sure that it is the right one.
func (s *session) identity(ctx context.Context) (string, error) {
	id, err := s.awaitIdentity(ctx)
	if err != nil {
		return "", err
	}
	if !s.cfg.Type.Identified(id) {
		return "", errWrongDevice
	}
	if v, old := s.cfg.Type.TooOld(id); old {
		return "", tooOld{v, s.identify.Minimum}
	}
	return id, nil
}

// start has the device report everything, now and from now on.
func (s *session) start() error {
	s.cfg.Sink.Asked(s.cfg.Device, time.Now())
	for _, m := range s.cfg.Type.Start() {
		if err := s.write(m); err != nil {
			return err
		}
	}
	return nil
}

func (s *session) live(ctx context.Context) error {
	alive := make(<-chan time.Time)
	if s.identify != nil {
		t := time.NewTicker(s.cfg.Type.Alive)
		defer t.Stop()
		alive = t.C
	}
	s.silent, s.reask = time.NewTimer(time.Hour), time.NewTimer(time.Hour)
	defer s.silent.Stop()
	defer s.reask.Stop()
	renew := make(<-chan time.Time)
	if s.cfg.Type.Renew > 0 {
		t := time.NewTicker(s.cfg.Type.Renew)
		defer t.Stop()
		renew = t.C
	}
	for {
		var err error
		select {
		case c := <-s.queue:
			err = s.command(ctx, c)
		case <-s.later:
			s.tellBad(time.Now())
		case <-alive:
			err = s.question()
		case <-renew:
			err = s.start()
		case <-s.fresh:
			err = s.start()
		case <-s.probe:
			err = s.question()
		case h := <-s.heard:
			s.answered(h)
		case <-s.reask.C:
			err = s.askOnce()
		case <-s.silent.C:
			err = s.silence()
		case err = <-s.failed:
		case <-ctx.Done():
			err = ctx.Err()
		}
		if err != nil {
			return err
		}
	}
}

func (s *session) command(ctx context.Context, c Command) error {
	defer s.ahead.Add(-1) // from here on the next may follow
	now := time.Now()
	if quiet := s.late(now); quiet > 0 {
		if err := s.question(); err != nil {
			return err
		}
		heard, err := s.awaitWord(ctx, c)
		now = time.Now()
		if err != nil || !heard {
			reason := fmt.Sprintf("the device had not answered for %d ms", max(quiet, s.late(now)).Milliseconds())
			s.cfg.Sink.Dropped(s.cfg.Device, c.ID, now, reason)
			return err
		}
	}
	if now.After(c.Deadline) {
		s.cfg.Sink.Dropped(s.cfg.Device, c.ID, now, "it could not leave in time")
		return nil
	}
	s.cfg.Sink.Leaving(s.cfg.Device, c.ID, now)
	err := s.send(c.Payload, c.ID, c.Deadline)
	if errors.Is(err, ErrLate) {
		s.cfg.Sink.Dropped(s.cfg.Device, c.ID, time.Now(), ErrLate.Error())
		return nil
	}
	if err != nil {
		s.cfg.Sink.Dropped(s.cfg.Device, c.ID, time.Now(), "the link was lost while it was sent")
		return err
	}
	s.cfg.Wire.out(s.cfg.Driver, c.Payload)
	s.cfg.Sink.Written(s.cfg.Device, c.ID, time.Now())
	return nil
}

func (s *session) ask() error {
	if s.owed > 0 && s.cfg.Type.Driver.Requests {
		return nil // a second question would wait for the answer to the first
	}
	m, ok := s.cfg.Type.Ask(s.identify.Reading)
	if !ok {
		return nil
	}
	payload, err := s.cfg.Driver.Encode(m)
	if err != nil {
		return err
	}
	s.owed++
	s.lastAsk = time.Now()
	return s.put(payload, s.open.Load() != s)
}

func (s *session) write(m device.Message) error {
	payload, err := s.cfg.Driver.Encode(m)
	if err != nil {
		return err
	}
	return s.put(payload, true)
}

// put writes a message of the link's own; shown says whether the wire view
// tells of it.
func (s *session) put(payload []byte, shown bool) error {
	err := s.send(payload, 0, time.Now().Add(s.cfg.Type.Deadline))
	if err == nil && shown {
		s.cfg.Wire.out(s.cfg.Driver, payload)
	}
	if errors.Is(err, ErrLate) {
		return nil // the silence that follows is noticed
	}
	return err
}

func (s *session) send(payload []byte, command uint64, deadline time.Time) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	s.wrote(time.Now())
	return s.conn.Write(payload, command, deadline)
}

// note takes in what the reader heard.
func (s *session) note(h heard) {
	s.last, s.state.Heard = h.at, h.at
	if h.hasID {
		s.answer(h.at)
	}
	if h.bad != nil {
		s.state.Bad++
		s.state.Problem = fmt.Sprintf("%s sent something that makes no sense: %s.", s.cfg.Name, shown(h.bad.Error(), nil))
		if h.at.Sub(s.toldBad) >= badEvery {
			s.tellBad(h.at)
		} else if s.later == nil {
			s.later = time.After(badEvery)
		}
	}
}

// badEvery is how often it is told at most that a device sends what makes no sense: one that
// sends nothing else must not keep everybody busy with that.
const badEvery = 250 * time.Millisecond

// tellBad tells how often a device has sent what makes no sense.
func (s *session) tellBad(at time.Time) {
	s.toldBad, s.later = at, nil
	s.cfg.Sink.LinkChanged(s.state)
}

// read passes on what the device says until the connection ends.
func (s *session) read() {
	for {
		batch, err := s.conn.Read()
		at := time.Now()
		s.unheard.Store(0)
		h := heard{at: at}
		var bad *BadInput
		switch {
		case errors.As(err, &bad):
			h.bad = bad.Err
			s.cfg.Wire.note("Nonsense: " + bad.Error())
		case err != nil:
			s.fail(err)
			return
		default:
			s.take(batch, at, &h)
		}
		select {
		case s.heard <- h:
		case <-s.quit:
			return
		}
	}
}

// fail ends the session, for the first reason there is.
func (s *session) fail(err error) {
	select {
	case s.failed <- err:
	default:
	}
}

// tryWrite writes a command where that needs no waiting; the lock of writers is held,
// and given back.
func (s *session) tryWrite(c Command) (ok bool, err error) {
	defer s.writing.Unlock()
	s.wrote(time.Now())
	return s.conn.TryWrite(c.Payload, c.ID)
}

func (s *session) take(b Batch, at time.Time, h *heard) {
	var reports []device.Report
	var lists []device.List
	for _, m := range b.Messages {
		got, err := s.cfg.Type.Match(m)
		if err != nil {
			h.bad = err
		}
		for _, r := range got.Replies {
			s.cfg.Sink.Replied(s.cfg.Device, at, r)
		}
		for i, e := range got.Events {
			got.Events[i] = e.Of(s.cfg.Device)
		}
		if len(got.Events) > 0 {
			s.cfg.Sink.Raised(s.cfg.Device, at, got.Events)
		}
		lists = append(lists, got.Lists...)
		for _, r := range got.Reports {
			reports = append(reports, r)
			if s.identify != nil && r.Path == s.identify.Reading {
				h.identity, h.hasID = expr.Text(r.Value), true
			}
		}
	}
	// The answers that show that it is there would push everything else out.
	if len(b.Messages) > 0 && (!h.hasID || len(reports) != 1 || s.open.Load() != s) {
		s.cfg.Wire.received(b.Messages)
	}
	if len(reports) > 0 {
		s.cfg.Sink.Reported(s.cfg.Device, at, reports)
	}
	if len(lists) > 0 {
		s.cfg.Sink.Listed(s.cfg.Device, at, lists)
	}
	for _, a := range b.Answers {
		s.cfg.Sink.Answered(s.cfg.Device, at, a)
	}
}
