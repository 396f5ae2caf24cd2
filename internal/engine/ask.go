package engine

// call runs a function in the engine's goroutine and waits for it.
func (e *Engine) call(f func() error) error {
	done := make(chan error, 1)
	e.post(callRequest{f, done})
	select {
	case err, answered := <-done:
		if !answered {
			return errInside
		}
		return err
	case <-e.quit:
		return errEnding
	}
}

type callRequest struct {
	do   func() error
	done chan error
}
