package main

import (
	"io"
	"strings"
	"unicode"
)

// plain writes text without what a terminal would take as an order: names of a show from elsewhere could hold
// anything.
type plain struct{ io.Writer }

// Write implements io.Writer.
func (p plain) Write(b []byte) (int, error) {
	text := strings.Map(func(r rune) rune {
		if r != '\n' && r != '\t' && (unicode.IsControl(r) || unicode.Is(unicode.Bidi_Control, r)) {
			return '·'
		}
		return r
	}, string(b))
	if _, err := io.WriteString(p.Writer, text); err != nil {
		return 0, err
	}
	return len(b), nil
}
