package sheet

import (
	"bytes"
	"encoding/json"
	"errors"
	"strconv"
	"strings"
)

// lineOf finds the line, from 1, on which the value at a JSON pointer (RFC
// 6901) starts. Where the pointer leads nowhere it is the line of the deepest
// part that exists.
func lineOf(body []byte, where string) int {
	d := json.NewDecoder(bytes.NewReader(body))
	best := int64(0)
	var walk func(parts []string) bool
	walk = func(parts []string) bool {
		tok, err := d.Token()
		if err != nil {
			return true
		}
		best = d.InputOffset()
		open, isOpen := tok.(json.Delim)
		if len(parts) == 0 || !isOpen {
			return true
		}
		for i := 0; d.More(); i++ {
			name := strconv.Itoa(i)
			if open == '{' {
				t, err := d.Token()
				if err != nil {
					return true
				}
				name, _ = t.(string)
			}
			if name == parts[0] {
				return walk(parts[1:])
			}
			var skip json.RawMessage
			if d.Decode(&skip) != nil {
				return true
			}
		}
		return true
	}
	var parts []string
	if where != "" {
		for _, p := range strings.Split(where[1:], "/") {
			parts = append(parts, strings.NewReplacer("~1", "/", "~0", "~").Replace(p))
		}
	}
	walk(parts)
	return line(body, best)
}

func lineOfError(body []byte, err error) int {
	var syntax *json.SyntaxError
	var typ *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		return line(body, syntax.Offset)
	case errors.As(err, &typ):
		return line(body, typ.Offset)
	}
	return line(body, int64(len(body)))
}

func line(body []byte, offset int64) int {
	offset = max(0, min(offset, int64(len(body))))
	return 1 + bytes.Count(body[:offset], []byte("\n"))
}
