package device

import (
	"errors"
	"fmt"
	"strings"
)

// Problem is something wrong in a sheet; Where is a JSON pointer (RFC 6901).
type Problem struct {
	Where string
	Text  string
}

// Error implements error.
func (p *Problem) Error() string { return p.Where + ": " + p.Text }

// Problems are all that is wrong in a sheet.
type Problems []*Problem

// Error implements error.
func (p Problems) Error() string {
	texts := make([]string, len(p))
	for i, one := range p {
		texts[i] = one.Error()
	}
	return strings.Join(texts, "\n")
}

// mistakes gathers what is wrong with a sheet, so that all of it is told at once.
type mistakes struct{ found Problems }

// at notes a mistake at a place.
func (m *mistakes) at(where, format string, args ...any) {
	m.found = append(m.found, &Problem{where, fmt.Sprintf(format, args...)})
}

// err notes an error, where there is one. One that names a place of its own is
// below the place.
func (m *mistakes) err(where string, err error) {
	var inner *Problem
	switch {
	case err == nil:
	case errors.As(err, &inner):
		m.at(where+inner.Where, "%s", inner.Text)
	default:
		m.at(where, "%s", err.Error())
	}
}

// twice notes an id that stands in a list a second time.
func (m *mistakes) twice(seen map[string]bool, where, what, id string) {
	if seen[id] {
		m.at(where, "two %s are called %q", what, id)
	}
	seen[id] = true
}
