package journal

import (
	"strings"
	"time"
	"unicode"
)

// Wanted says which entries are looked for: those that fit all that it names. Empty fields leave nothing out.
type Wanted struct {
	// Show is the id of a show: its entries, and those of which it is not known.
	Show string
	// Controller is a slug, Control an id; Device, Actor and Outcome are as entries have them.
	Controller, Control, Device, Actor string
	Outcome                            Outcome
	// Text are words that all have to be in the entry, or begin one that is.
	Text         string
	Since, Until time.Time
	// Before is the id of the first entry that is too new; Limit is how many are given.
	Before string
	Limit  int
}

// Narrow reports whether it names anything but the show.
func (w Wanted) Narrow() bool {
	w.Show, w.Before, w.Limit = "", "", 0
	return w != Wanted{} // times are compared as they are
}

// Fits reports whether an entry is wanted, whatever its id.
func (w Wanted) Fits(e Entry) bool {
	for _, f := range [][2]string{{w.Controller, e.Controller}, {w.Control, e.Control}, {w.Device, e.Device}, {w.Actor, e.Actor}, {string(w.Outcome), string(e.Outcome)}} {
		if f[0] != "" && f[0] != f[1] {
			return false
		}
	}
	if w.Show != "" && e.Show != "" && e.Show != w.Show || !w.Since.IsZero() && e.At.Before(w.Since) || !w.Until.IsZero() && !e.At.Before(w.Until) {
		return false
	}
	if w.Text == "" {
		return true
	}
	has := e.Words()
	for _, wanted := range WordsOf(w.Text) {
		if !begins(has, wanted) {
			return false
		}
	}
	return true
}

func begins(words []string, with string) bool {
	for _, w := range words {
		if strings.HasPrefix(w, with) {
			return true
		}
	}
	return false
}

// Words are those by which an entry is found.
func (e Entry) Words() []string {
	return WordsOf(strings.Join([]string{e.ControllerName, e.Control, e.Title, e.Device, e.Actor, e.Via, string(e.Outcome), e.Reason}, " "))
}

// WordsOf are the words of a text: letters and numbers, in small letters.
func WordsOf(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) })
}
