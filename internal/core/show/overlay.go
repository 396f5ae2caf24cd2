package show

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"
)

// The kinds of overlay: what each of them shows.
const (
	OverlayTimer   = "timer"
	OverlayCaption = "caption"
	OverlayComment = "comment"
	OverlayPicture = "picture"
)

// OverlayKinds lists the kinds of overlay, OverlayLooks how one can look: words alone, words with an edge around them, a dark band, a light board.
var (
	OverlayKinds = []string{OverlayTimer, OverlayCaption, OverlayComment, OverlayPicture}
	OverlayLooks = []string{"plain", "edged", "band", "board"}
)

// Overlay is something that the audience reads on the picture. Whether it is shown, and what somebody has written into it, is live, and no part of the
// show.
type Overlay struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Position int    `json:"position"`
	Kind     string `json:"kind"` // see OverlayKinds
	// X and Y are where its left upper corner is, Width is how wide it may be, in percent of a picture of 16 by 9.
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	Width float64 `json:"width"`
	// Size is the height of its text in percent of that of the picture; a picture's is its own height.
	Size   float64 `json:"size"`
	Align  string  `json:"align"`  // left, middle or right
	Look   string  `json:"look"`   // see OverlayLooks
	FadeMs int     `json:"fadeMs"` // in and out
	Timer  string  `json:"timer,omitempty"`
	// Lines are what a caption or a comment shows, one after the other; they may hold expressions of the show in braces.
	Lines   []OverlayLine `json:"lines,omitempty"`
	Picture string        `json:"picture,omitempty"`
}

// OverlayLine is one entry of the list of an overlay: a name and a role, or a question and who asks it.
type OverlayLine struct {
	Text   string `json:"text"`
	Second string `json:"second,omitempty"`
}

const (
	// maxOverlayLines is how many entries the list of an overlay has.
	//
	//limit:count entries of the list of an overlay | at the edit
	maxOverlayLines = 500
	// MaxOverlayText is how many characters an overlay shows.
	//
	//limit:count characters of a text of an overlay | at the edit, and in the answer
	MaxOverlayText = 2000
	// maxFade is how long an overlay may fade, in milliseconds.
	//
	//limit:count milliseconds of the fade of an overlay | at the edit
	maxFade = 10_000
)

// Ref implements Entity.
func (e *Overlay) Ref() Ref { return Ref{KindOverlay, e.ID} }

// Title implements Entity.
func (e *Overlay) Title() string { return e.Name }

// Overlay returns an overlay by id, or nil.
func (s *Show) Overlay(id string) *Overlay {
	o, _ := s.entities[KindOverlay][id].(*Overlay)
	return o
}

// Overlays returns all overlays in order: what is later lies over what is before it.
func (s *Show) Overlays() []*Overlay {
	return sorted(s, KindOverlay, func(a, b *Overlay) int { return cmp.Or(a.Position-b.Position, strings.Compare(a.ID, b.ID)) })
}

// CheckOverlay says what is wrong with an overlay, one error a field.
func (s *Show) CheckOverlay(o *Overlay) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	if text := CheckName(o.Name); text != "" {
		add("name", text)
	}
	for _, other := range s.Overlays() {
		if other.ID != o.ID && strings.EqualFold(other.Name, o.Name) {
			add("name", "There is an overlay of this name.")
		}
	}
	within := func(field string, n, lo, hi float64, what string) {
		if !(n >= lo && n <= hi) {
			add(field, fmt.Sprintf("%s is from %g to %g %% of the picture.", what, lo, hi))
		}
	}
	within("x", o.X, 0, 100, "Where it begins")
	within("y", o.Y, 0, 100, "Where it begins")
	within("width", o.Width, 2, 100, "How wide it is")
	within("size", o.Size, 1, 100, "Its size")
	switch {
	case !slices.Contains(OverlayKinds, o.Kind):
		add("kind", "An overlay shows a timer, a caption, a comment or a picture.")
	case o.Kind == OverlayTimer && s.Timer(o.Timer) == nil:
		add("timer", "Choose a timer. Timers are made in Reflexes.")
	case o.Kind == OverlayPicture && o.Picture == "":
		add("picture", "Choose a picture.")
	}
	if !slices.Contains(OverlayLooks, o.Look) {
		add("look", "This look does not exist.")
	}
	if o.Align != "left" && o.Align != "middle" && o.Align != "right" {
		add("align", "Its text is left, in the middle or right.")
	}
	if o.FadeMs < 0 || o.FadeMs > maxFade {
		add("fadeMs", fmt.Sprintf("A fade takes up to %d ms.", maxFade))
	}
	if len(o.Lines) > maxOverlayLines {
		add("lines", fmt.Sprintf("A list has at most %d entries.", maxOverlayLines))
	}
	for _, l := range o.Lines {
		if utf8.RuneCountInString(l.Text) > MaxOverlayText || utf8.RuneCountInString(l.Second) > MaxOverlayText {
			add("lines", fmt.Sprintf("A text has at most %d characters.", MaxOverlayText))
			break
		}
	}
	return errs
}
