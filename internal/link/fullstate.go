package link

import (
	"context"
	"time"
)

// awaitFullState waits until the device has said everything: until it answers a
// question, or, where answers may overtake each other, until it is quiet.
func (s *session) awaitFullState(ctx context.Context) error {
	if s.cfg.Type.Quiet == 0 {
		if s.identify == nil {
			return nil
		}
		return s.awaitAnswers(ctx)
	}
	most := time.NewTimer(max(fullLimit, 3*s.pace.worst()))
	defer most.Stop()
	quiet := make(<-chan time.Time) // counts from the first answer on
	if s.identify == nil {
		quiet = time.After(s.cfg.Type.Quiet)
	}
	for {
		select {
		case h := <-s.heard:
			s.note(h)
			quiet = time.After(s.cfg.Type.Quiet)
		case err := <-s.failed:
			return err
		case <-quiet:
			return nil
		case <-most.C:
			return nil // a device that never stops talking has said enough
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

// awaitIdentity asks for the identifying reading until it comes: a question may be lost. Commands
// that arrive in the meantime wait in the queue; those whose deadline passes are dropped.
func (s *session) awaitIdentity(ctx context.Context) (string, error) {
	limit := time.NewTimer(answerLimit)
	defer limit.Stop()
	again := time.NewTicker(askAgain)
	defer again.Stop()
	s.asked = time.Now()
	if err := s.ask(); err != nil {
		return "", err
	}
	for {
		select {
		case h := <-s.heard:
			s.note(h)
			if h.hasID {
				return h.identity, nil
			}
		case err := <-s.failed:
			return "", err
		case <-again.C:
			if err := s.ask(); err != nil {
				return "", err
			}
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

// awaitAnswers asks once more, and waits until all questions are answered: what comes before the last
// answer is the state. Where some were lost, it is there when nothing more comes.
func (s *session) awaitAnswers(ctx context.Context) error {
	if err := s.ask(); err != nil {
		return err
	}
	limit := time.NewTimer(answerLimit)
	defer limit.Stop()
	enough := make(<-chan time.Time)
	for s.owed > 0 {
		select {
		case h := <-s.heard:
			if s.note(h); h.hasID {
				enough = time.After(2 * askAgain)
			}
		case err := <-s.failed:
			return err
		case <-enough:
			if len(s.cfg.Type.Start()) == 0 {
				return errMissed // it told what it has while nobody heard
			}
			return nil
		case <-limit.C:
			return errSilent
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}
