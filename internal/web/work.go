package web

import (
	"context"
	"errors"
	"time"

	"github.com/labstack/echo/v5"
)

// workLimit is how long a document or a rehearsal may take, with its turn waited for.
//
//limit:count time in which a document or a rehearsal is worked out | in the answer
const workLimit = 5 * time.Second

// errTooLong says that a document could not be worked out in time.
var errTooLong = errors.New("this takes too long to work out")

// work gives somebody the turn to work something out that takes a while: one at a time,
// so that the other core stays with the live show. The context ends when the caller goes
// away or the limit is reached; done gives the turn back.
func (s *server) work(c *echo.Context) (ctx context.Context, done func(), err error) {
	ctx, cancel := context.WithTimeout(c.Request().Context(), workLimit)
	select {
	case s.turn <- struct{}{}:
		return ctx, func() { <-s.turn; cancel() }, nil
	case <-ctx.Done():
		cancel()
		return nil, nil, errTooLong
	}
}

// tooLong makes the end of a context a sentence.
func tooLong(err error) error {
	if errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) {
		return errTooLong
	}
	return err
}
