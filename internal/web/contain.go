package web

import (
	"errors"

	"github.com/labstack/echo/v5"

	"synaptor/internal/incident"
)

// errInside is what the caller is told of a request that failed inside.
var errInside = errors.New("something went wrong inside Synaptor; it was noted, and nothing else has stopped")

// contained answers a request whose handler panics, and notes it.
func contained(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) (err error) {
		defer func() {
			if p := recover(); p != nil {
				incident.Report("web", c.Request().Method+" "+c.Path(), p)
				err = errInside
			}
		}()
		return next(c)
	}
}
