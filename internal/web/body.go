package web

import (
	"fmt"
	"io"
	"net/http"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"
)

// maxBody is the largest body of a request, in bytes, but for pictures.
const maxBody = 1 << 20

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

// unknownRoute answers a request for which there is no route: with the methods that there are, where
// another one would do.
func unknownRoute(e *echo.Echo) echo.HandlerFunc {
	type pattern struct {
		path   *regexp.Regexp
		method string
	}
	var patterns []pattern
	for _, r := range e.Router().Routes() {
		if strings.HasPrefix(r.Path, "/api/") && !strings.HasSuffix(r.Path, "*") {
			path := regexp.MustCompile("^" + regexp.MustCompile(`:\w+`).ReplaceAllString(regexp.QuoteMeta(r.Path), "[^/]+") + "$")
			patterns = append(patterns, pattern{path, r.Method})
		}
	}
	return func(c *echo.Context) error {
		var methods []string
		for _, p := range patterns {
			if p.path.MatchString(c.Request().URL.Path) {
				methods = append(methods, p.method)
			}
		}
		if len(methods) == 0 {
			return echo.ErrNotFound
		}
		slices.Sort(methods)
		c.Response().Header().Set("Allow", strings.Join(slices.Compact(methods), ", "))
		return echo.ErrMethodNotAllowed
	}
}
