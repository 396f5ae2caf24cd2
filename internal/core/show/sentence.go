package show

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Sentence makes of an error a sentence that a person reads: with a capital, and a full stop.
func Sentence(err error) string {
	text := strings.TrimSuffix(err.Error(), ".") + "."
	first, size := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(first)) + text[size:]
}
