package web

import (
	"fmt"
	"io"
	"net/http"
	"reflect"

	"github.com/labstack/echo/v5"
)

// maxBody is the largest body of a request, in bytes, but for pictures.
//
//limit:bytes the body of a request, but for pictures | in the answer, 413
const maxBody = 1 << 20

const (
	// maxLarge is how many requests with a large body are read and carried out at once. What is
	// small as JSON or as a picture can be large in memory.
	//
	//limit:count requests with a large body that are carried out at once; others wait | nowhere
	maxLarge = 4
	// largeBody is a large one, in bytes.
	largeBody = 64 << 10
)

// fewLarge has requests with a large body wait for each other, before they are read.
func (s *server) fewLarge(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.ContentLength >= 0 && r.ContentLength <= largeBody {
			return next(c)
		}
		select {
		case s.large <- struct{}{}:
			defer func() { <-s.large }()
			return next(c)
		case <-r.Context().Done():
			return r.Context().Err()
		}
	}
}

// tooLarge is a body that is larger than so many bytes, whole megabytes of them.
type tooLarge int

// Error implements error.
func (t tooLarge) Error() string {
	return fmt.Sprintf("This is larger than %d MB, which is the most here.", int(t)>>20)
}

// bodyOf reads the body of a request, which may have so many bytes.
func bodyOf(r *http.Request, most int) ([]byte, error) {
	if r.Body == nil {
		return nil, nil
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, int64(most)+1))
	switch {
	case err != nil:
		return nil, &badBody{"body", "The request could not be read: " + err.Error()}
	case len(body) > most:
		return nil, tooLarge(most)
	}
	return body, nil
}

// called is what a type of Go is called in JSON.
func called(t reflect.Type) string {
	switch t.Kind() {
	case reflect.Bool:
		return "true or false"
	case reflect.String:
		return "a text"
	case reflect.Slice, reflect.Array:
		return "a list"
	case reflect.Struct, reflect.Map:
		return "an object"
	}
	return "a number"
}
