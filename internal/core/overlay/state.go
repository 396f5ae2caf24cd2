package overlay

import (
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/show"
)

// State is how an overlay stands. The zero value is hidden, at the beginning of its list.
type State struct {
	Shown bool      `json:"shown,omitempty"`
	Until time.Time `json:"until"` // when it goes by itself; zero: it stays
	At    int       `json:"at"`    // the entry of its list that it shows, from 0
	// Written says that somebody has written Text and Second, in place of its list; they are shown as they are, whatever is in them.
	Written bool   `json:"written,omitempty"`
	Text    string `json:"text,omitempty"`
	Second  string `json:"second,omitempty"` // a single line
}

// Show has it shown until a time; until it is hidden where that is zero.
func (s *State) Show(until time.Time) { s.Shown, s.Until = true, until }

// Hide takes it away.
func (s *State) Hide() { s.Shown, s.Until = false, time.Time{} }

// Expire hides it where its time is over, and reports whether that was so.
func (s *State) Expire(now time.Time) bool {
	over := !s.Until.IsZero() && !now.Before(s.Until)
	if over {
		s.Hide()
	}
	return over
}

// Left is how many seconds it goes on for, begun ones in full; 0: it stays, or is hidden.
func (s State) Left(now time.Time) int {
	if s.Until.IsZero() {
		return 0
	}
	return int((s.Until.Sub(now) + time.Second - 1) / time.Second)
}

// Go has it show an entry of its list, counted from 1. It fails where there is no such entry.
func (s *State) Go(entry, entries int) error {
	if entry < 1 || entry > entries {
		return fmt.Errorf("there is no entry %d; the list has %d", entry, entries)
	}
	s.At, s.Written = entry-1, false
	return nil
}

// Write has it say a text, and a line below it, in place of its list. It fails where one is longer than show.MaxOverlayText.
func (s *State) Write(text, second string) error {
	if max(utf8.RuneCountInString(text), utf8.RuneCountInString(second)) > show.MaxOverlayText {
		return fmt.Errorf("a text has at most %d characters", show.MaxOverlayText)
	}
	s.Written, s.Text, s.Second = true, text, strings.ReplaceAll(second, "\n", " ")
	return nil
}

// itsList is what Said gives where nothing was written.
const itsList = "its list"

// Said is what was written as one text: the line below it comes after the last line end.
func (s State) Said() string {
	if !s.Written {
		return itsList
	}
	return s.Text + "\n" + s.Second
}

// Say has it stand as Said has given it. It fails as Write does.
func (s *State) Say(said string) error {
	if said == itsList {
		s.Written, s.Text, s.Second = false, "", ""
		return nil
	}
	at := strings.LastIndexByte(said, '\n')
	if at < 0 {
		return s.Write(said, "")
	}
	return s.Write(said[:at], said[at+1:])
}

// Settle has it fall to the last entry of a list that has become shorter.
func (s *State) Settle(entries int) { s.At = min(s.At, max(0, entries-1)) }

// Line is what it says, of what was written or of its list, once it is settled.
func (s State) Line(lines []show.OverlayLine) show.OverlayLine {
	switch {
	case s.Written:
		return show.OverlayLine{Text: s.Text, Second: s.Second}
	case len(lines) > 0:
		return lines[s.At]
	}
	return show.OverlayLine{}
}
