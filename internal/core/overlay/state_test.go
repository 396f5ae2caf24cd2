package overlay

import (
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
)

// TestWhatWasWrittenComesBackAsItWas, with line ends, at full length, and where it is called as the list is.
func TestWhatWasWrittenComesBackAsItWas(t *testing.T) {
	long := strings.Repeat("ж", show.MaxOverlayText)
	for _, was := range []State{
		{At: 1},
		{Written: true, Text: "Ada Lindqvist"},
		{Written: true, Text: "Ada Lindqvist", Second: "Grinds mirrors"},
		{Written: true, Text: "Two\nlines", Second: "and one"},
		{Written: true, Text: long, Second: long},
		{Written: true, Text: itsList},
		{Written: true, Text: "entry 2"},
		{Written: true, Text: "where?", Second: "Okular", Picture: "audience:viewer-v3"},
		{Written: true, Text: "where?\n\n", Picture: "audience:viewer-v3"},
		{At: 1, Written: true, Text: "Ada"},
		{Written: true},
	} {
		now := State{Written: true, Text: "x", Second: "y", Picture: "z"}
		if err := now.Say(was.Said(), 2); err != nil || now != was {
			t.Errorf("%.60q came back as %.60q %q, written %v: %v", was.Text, now.Text, now.Second, now.Written, err)
		}
	}
	s := State{Written: true, Text: "Ada"}
	if err := s.Write(long+"x", "", ""); err == nil || s.Text != "Ada" {
		t.Errorf("a text that is too long: %v, %q", err, s.Text)
	}
	if err := s.Write("Ada", "one\ntwo", ""); err != nil || s.Second != "one two" {
		t.Errorf("what is below is a line: %v, %q", err, s.Second)
	}
}

// TestAnOverlayGoesThroughItsListAndByItself.
func TestAnOverlayGoesThroughItsListAndByItself(t *testing.T) {
	lines := []show.OverlayLine{{Text: "a"}, {Text: "b"}}
	s := State{Written: true, Text: "x"}
	if err := s.Go(3, len(lines)); err == nil || !s.Written {
		t.Error("it has gone to an entry that there is not")
	}
	if err := s.Go(2, len(lines)); err != nil || s.Line(lines).Text != "b" {
		t.Errorf("it shows %+v: %v", s, err)
	}
	if s.Settle(1); s.Line(lines[:1]).Text != "a" {
		t.Errorf("of a shorter list it shows %+v", s)
	}
	now := time.Date(2026, 8, 12, 22, 0, 0, 0, time.UTC)
	s.Show(now.Add(1500 * time.Millisecond))
	if s.Expire(now) || !s.Shown || s.Left(now) != 2 {
		t.Errorf("it goes at once: %+v", s)
	}
	if !s.Expire(now.Add(2*time.Second)) || s.Shown || s.Left(now) != 0 {
		t.Errorf("it stays: %+v", s)
	}
}
