// Package overlay works out what the audience reads on the picture: the elements of a show as they stand, ready to be drawn, by a page that streaming
// software takes in or by whoever paints a picture of it. Begin with Of.
package overlay

import (
	"hash/fnv"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Page is all that is on the picture, what lies above it later.
type Page struct {
	Elements []Element `json:"elements"`
}

// Element is one overlay. Places and sizes are in percent: X and Width of the picture's width, Y and Size of its height.
type Element struct {
	ID      string  `json:"id"`
	Kind    string  `json:"kind"`
	Look    string  `json:"look"`
	Align   string  `json:"align"`
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	Width   float64 `json:"width"`
	Size    float64 `json:"size"`
	FadeMs  int     `json:"fadeMs"`
	Shown   bool    `json:"shown"`
	Text    string  `json:"text,omitempty"` // of one that is shown; a hidden one keeps it to itself
	Second  string  `json:"second,omitempty"`
	Picture string  `json:"picture,omitempty"` // its id in the library
	// Initial stands for who has said a comment, where there is no picture of them.
	Initial string `json:"initial,omitempty"`
	// Portrait is a mark of the picture of who has said it; another picture has another one. Empty: there is none.
	Portrait string `json:"portrait,omitempty"`
	// Whose names that picture, as the event of a device has named it. Pages are not told.
	Whose string `json:"-"`
}

// own is a reading of Synaptor itself.
func own(w expr.World, self, path string) reading.Reading {
	return w.Reading(reading.Key{Device: self, Path: path})
}

// Of works out the page of a show in a world; self is the device that Synaptor itself is.
func Of(sh *show.Show, w expr.World, self string) Page {
	p := Page{Elements: []Element{}}
	for _, o := range sh.Overlays() {
		at := "overlay/" + o.ID + "/"
		e := Element{ID: o.ID, Kind: o.Kind, Look: o.Look, Align: o.Align, X: o.X, Y: o.Y, Width: o.Width, Size: o.Size, FadeMs: o.FadeMs}
		e.Shown = own(w, self, at+"shown").Value == true
		if e.Shown {
			e.Text, e.Second, e.Picture = words(o, w, self, at)
		}
		if e.Shown && o.Kind == show.OverlayComment {
			e.Initial, e.Whose = initial(e.Second), expr.Text(own(w, self, at+"picture").Value)
			e.Portrait = mark(e.Whose)
		}
		p.Elements = append(p.Elements, e)
	}
	return p
}

// words is what an overlay that is shown says. What somebody has written is shown as it is; entries of its list may ask readings.
func words(o *show.Overlay, w expr.World, self, at string) (text, second, picture string) {
	text, second = expr.Text(own(w, self, at+"text").Value), expr.Text(own(w, self, at+"second").Value)
	switch {
	case o.Kind == show.OverlayPicture:
		return "", "", o.Picture
	case o.Kind == show.OverlayTimer:
		return expr.Text(own(w, self, "timer/"+o.Timer+"/text").Value), "", ""
	case own(w, self, at+"written").Value == true:
		return text, second, ""
	}
	return filled(text, w), filled(second, w), ""
}

// initial is what stands for somebody without a picture.
func initial(name string) string {
	for _, r := range strings.TrimSpace(name) {
		return string(unicode.ToUpper(r))
	}
	return "?"
}

// mark tells pictures apart, and nothing about them.
func mark(picture string) string {
	if picture == "" {
		return ""
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(picture)) // a hash takes anything
	return strconv.FormatUint(h.Sum64(), 36)
}

// filled is a text with its expressions worked out; one that cannot be read stays as it is.
func filled(text string, w expr.World) string {
	t, err := expr.CompileTemplate(text, expr.Scope{})
	if err != nil {
		return text
	}
	return t.Text(w)
}

// Check says which entry of a list cannot be read, and why; empty: all can.
func Check(lines []show.OverlayLine) string {
	for i, l := range lines {
		for _, text := range []string{l.Text, l.Second} {
			if _, err := expr.CompileTemplate(text, expr.Scope{}); err != nil {
				return "Entry " + strconv.Itoa(i+1) + ": " + err.Error() + "."
			}
		}
	}
	return ""
}

// Safe is how much of the picture at each edge may not be seen on every screen, in percent (EBU R 95, graphics safe area).
const Safe = 5

// Outside tells whether an overlay begins where not every screen shows it.
func Outside(o *show.Overlay) bool {
	return o.X < Safe || o.Y < Safe || o.X+o.Width > 100-Safe || o.Y+o.Size > 100-Safe
}

// Unread are the looks whose words cannot be read on every picture: white words alone are lost on a white sky.
var unread = []string{"plain"}

// Unreadable tells whether the words of an overlay are lost on a light picture.
func Unreadable(o *show.Overlay) bool {
	return o.Kind != show.OverlayPicture && slices.Contains(unread, o.Look)
}
