package link

import (
	"context"
	"time"
)

// question asks whether the device is there, unless a question is under way.
func (s *session) question() error {
	now := time.Now()
	if !s.asked.IsZero() || s.identify == nil || s.doubt || s.owed > 0 && now.Sub(s.lastAsk) < s.took+leastMissed {
		return nil
	}
	s.asked, s.owed, s.took = now, 0, 0
	s.silent.Reset(s.patience())
	return s.askOnce()
}

// patience is how long a device that was asked may say nothing.
func (s *session) patience() time.Duration { return max(s.cfg.Type.Alive, 3*s.pace.worst()) }

// askOnce asks, and once more where no answer comes.
func (s *session) askOnce() error {
	if s.asked.IsZero() {
		if !s.doubt {
			return nil
		}
		s.doubt = false
		return s.missed()
	}
	s.reask.Reset(max(askAgain, 2*s.pace.worst()))
	return s.ask()
}

// silence looks at a device that has not answered in time: one that says other things is there.
func (s *session) silence() error {
	switch {
	case s.asked.IsZero():
		return nil
	case s.last.Before(s.asked):
		return errSilent
	}
	s.asked = time.Time{}
	return s.question()
}

// answered takes in what a device that is up has said. Where it had to be asked again, it is slow, and
// will answer each question; or it has lost some.
func (s *session) answered(h heard) {
	again := h.hasID && !s.asked.IsZero() && s.owed > 1
	if s.note(h); again {
		s.doubt = true
		s.reask.Reset(2 * askAgain)
	}
}

// missed takes in that the device has lost questions: it may have missed to say what changed. It is
// asked for everything, or where it tells that to a new connection only, the link is made anew.
func (s *session) missed() error {
	if len(s.cfg.Type.Start()) == 0 {
		return errMissed
	}
	return s.start()
}

// answer takes in an answer to a question.
func (s *session) answer(at time.Time) {
	if !s.asked.IsZero() {
		s.took, s.asked = at.Sub(s.asked), time.Time{}
	}
	if s.owed = max(0, s.owed-1); s.owed > 0 {
		return
	}
	if s.doubt = false; s.took > 0 {
		s.pace.add(s.took)
		s.took = 0
	}
}

// wrote notes that something was written.
func (s *session) wrote(at time.Time) {
	if s.unheard.Load() == 0 {
		s.unheard.CompareAndSwap(0, max(1, int64(at.Sub(s.born))))
	}
}

// late is how long a device that is late has said nothing; 0: it is not late. Nothing is written to it
// then: it would carry it out when it goes on. One that cannot be asked is never late.
func (s *session) late(now time.Time) time.Duration {
	since := time.Duration(s.unheard.Load())
	if since == 0 || s.identify == nil {
		return 0
	}
	if quiet := now.Sub(s.born) - since; quiet > s.cfg.Type.Deadline+s.pace.worst() {
		return quiet
	}
	return 0
}

// ready reports whether a command may be written at this moment.
func (s *session) ready(c Command) bool {
	now := time.Now()
	return now.Before(c.Deadline) && s.late(now) == 0
}

// awaitWord waits until a late device has said something; false when that comes too late for a command.
func (s *session) awaitWord(ctx context.Context, c Command) (bool, error) {
	limit := time.NewTimer(time.Until(c.Deadline))
	defer limit.Stop()
	for s.late(time.Now()) > 0 {
		var err error
		select {
		case h := <-s.heard:
			s.answered(h)
		case err = <-s.failed:
		case <-s.reask.C:
			err = s.askOnce()
		case <-s.silent.C:
			err = s.silence()
		case <-limit.C:
			return false, nil
		case <-ctx.Done():
			err = ctx.Err()
		}
		if err != nil {
			return false, err
		}
	}
	return true, nil
}
