package overlay

import (
	"fmt"
	"strconv"
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
	// Picture is that of who has said it: how the event of a device names it; empty: there is none.
	Picture string `json:"picture,omitempty"`
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
	s.At, s.Written, s.Text, s.Second, s.Picture = entry-1, false, "", "", ""
	return nil
}

// Write has it say a text, a line below it, and whose picture belongs to it, in place of its list. It fails where one is longer than show.MaxOverlayText.
func (s *State) Write(text, second, picture string) error {
	if max(utf8.RuneCountInString(text), utf8.RuneCountInString(second), utf8.RuneCountInString(picture)) > show.MaxOverlayText {
		return fmt.Errorf("a text has at most %d characters", show.MaxOverlayText)
	}
	line := strings.NewReplacer("\n", " ")
	s.Written, s.Text, s.Second, s.Picture = true, text, line.Replace(second), line.Replace(picture)
	return nil
}

// itsList has an overlay go on with its list where it is; anEntry, with a number behind it, is what Said begins with.
const (
	itsList = "its list"
	anEntry = "entry "
)

// Said is all that it says as one text, which Say takes: the entry of its list, and below that, where something was written, the text, the line below it
// and the picture, each from a new line.
func (s State) Said() string {
	said := anEntry + strconv.Itoa(s.At+1)
	if s.Written {
		said += "\n" + s.Text + "\n" + s.Second + "\n" + s.Picture
	}
	return said
}

// Say has it stand as Said has given it, with a list of so many entries; another text is written. It fails as Go and Write do.
func (s *State) Say(said string, entries int) error {
	if said == itsList {
		return s.Go(s.At+1, max(1, entries))
	}
	lines := strings.Split(said, "\n")
	number, begins := strings.CutPrefix(lines[0], anEntry)
	entry, err := strconv.Atoi(number)
	last := len(lines) - 1
	switch {
	case !begins || err != nil || last > 0 && last < 3:
		return s.Write(said, "", "")
	case last == 0:
		return s.Go(entry, max(1, entries))
	}
	then := *s
	if err := then.Go(min(entry, max(1, entries)), max(1, entries)); err != nil {
		return err
	}
	if err := then.Write(strings.Join(lines[1:last-1], "\n"), lines[last-1], lines[last]); err != nil {
		return err
	}
	*s = then
	return nil
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
