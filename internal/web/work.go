package web

import (
	"context"
	"errors"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/background"
)

// workLimit is how long a document or a rehearsal may take, with its turn waited for.
//
//limit:count time in which a document or a rehearsal is worked out | in the answer
const workLimit = 5 * time.Second

// errTooLong says that a document could not be worked out in time.
var errTooLong = errors.New("this takes too long to work out")

// work works something out, and answers, in the background: one at a time, so that the other core
// stays with the live show. The context ends when the caller goes away or the limit is reached.
func (s *server) work(c *echo.Context, answer func(context.Context) error) (err error) {
	ctx, cancel := context.WithTimeout(c.Request().Context(), workLimit)
	defer cancel()
	select {
	case s.turn <- struct{}{}:
		defer func() { <-s.turn }()
		background.Do(func() { err = answer(ctx) })
		return err
	case <-ctx.Done():
		return errTooLong
	}
}

// tooLong makes the end of a context a sentence.
func tooLong(err error) error {
	if errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) {
		return errTooLong
	}
	return err
}
