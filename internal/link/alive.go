package link

import (
	"context"
	"time"
)

// question asks whether the device is there, unless a question is under way.
func (s *session) question() error {
	if !s.asked.IsZero() || s.identify == nil {
		return nil
	}
	s.asked = time.Now()
	s.silent.Reset(s.patience())
	return s.askOnce()
}

// patience is how long a device that was asked may say nothing.
func (s *session) patience() time.Duration { return max(s.cfg.Type.Alive, 3*s.pace.worst()) }

// askOnce asks, and once more where no answer comes.
func (s *session) askOnce() error {
	if s.asked.IsZero() {
		return nil
	}
	s.again.Reset(max(askAgain, 2*s.pace.worst()))
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

// answered takes in what a device that is up has said. Where it had not answered for a while, it may
// have missed to say what changed: it is asked for everything.
func (s *session) answered(h heard) error {
	missed := h.hasID && !s.asked.IsZero() && h.at.Sub(s.asked) > max(leastMissed, 3*s.pace.worst())
	if s.note(h); missed {
		return s.start()
	}
	return nil
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
			err = s.answered(h)
		case err = <-s.failed:
		case <-s.again.C:
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
