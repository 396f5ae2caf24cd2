// Package markers has points in time that somebody wants to find again, and writes them for other programs: as CSV (RFC 4180), as
// WebVTT, and as an edit list in the form CMX 3600.
package markers

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/timecode"
)

// Marker is a point in time.
type Marker struct {
	ID   string    `json:"id"`
	At   time.Time `json:"at"` // what it points at: when it was set, less Lead
	Show string    `json:"show,omitempty"`
	Kind string    `json:"kind"` // see Kinds
	Text string    `json:"text"`
	// LeadMs is how long before it was set it points at, in milliseconds: hands come after what they mark.
	LeadMs int64  `json:"leadMs,omitempty"`
	By     string `json:"by"`
	// Entry is the journal's, of what has set it; empty: it was added by hand.
	Entry string `json:"entry,omitempty"`
}

// Kinds lists what a marker can be.
func Kinds() []string { return []string{"note", "highlight", "chapter", "mistake"} }

const (
	//limit:bytes the text of a marker | it is cut; refused where it is edited
	maxText = 400
	// maxLead is how far back a marker points at most.
	//limit:count time that a marker points back | at the edit; more is cut where a key sets it
	maxLead = time.Hour
)

// New is a marker that is set now.
func New(id, show, kind, text, by, entry string, now time.Time, lead time.Duration) Marker {
	lead = min(max(0, lead), maxLead)
	if !slices.Contains(Kinds(), kind) {
		kind = Kinds()[0]
	}
	text = strings.ToValidUTF8(text, "�")
	if len(text) > maxText {
		for text = text[:maxText]; !utf8.ValidString(text); {
			text = text[:len(text)-1]
		}
	}
	return Marker{ID: id, At: now.Add(-lead), Show: show, Kind: kind, Text: text, LeadMs: lead.Milliseconds(), By: by, Entry: entry}
}

// Check says what is wrong with a marker, by field; empty: nothing is.
func (m Marker) Check() (field, why string) {
	switch {
	case strings.TrimSpace(m.Text) == "":
		return "text", "A marker says what it is about."
	case len(m.Text) > maxText || !utf8.ValidString(m.Text):
		return "text", fmt.Sprintf("The text of a marker has at most %d bytes.", maxText)
	case !slices.Contains(Kinds(), m.Kind):
		return "kind", "A marker is a note, a highlight, a chapter or a mistake."
	case m.LeadMs < 0 || m.LeadMs > maxLead.Milliseconds():
		return "leadMs", "A marker points at something up to an hour before it was set."
	case m.At.IsZero() || m.At.Year() > 9999:
		return "at", "A marker has a time."
	}
	return "", ""
}

// Recording is what markers are placed in.
type Recording struct {
	// Began is when its first frame was taken, on the same clock as the markers.
	Began time.Time
	// Rate counts its frames, and Start is the number of the first one.
	Rate  timecode.Rate
	Start int
}

// Frame is the number of the frame that is shown at a time; false: it is from before the recording.
func (r Recording) Frame(at time.Time) (frame int, ok bool) {
	d := at.Sub(r.Began)
	return r.Start + r.Rate.FromDuration(d), d >= 0
}

// Timecode is that of a time in the recording; empty: it is from before.
func (r Recording) Timecode(at time.Time) string {
	if f, ok := r.Frame(at); ok {
		return r.Rate.Format(f)
	}
	return ""
}

// At is the time at which a timecode of the recording is shown. It fails where there is no such timecode, and where it is from before the
// recording.
func (r Recording) At(text string) (time.Time, error) {
	f, err := r.Rate.Parse(text)
	if err != nil {
		return time.Time{}, err
	}
	if f < r.Start {
		return time.Time{}, fmt.Errorf("the recording begins at %s", r.Rate.Format(r.Start))
	}
	return r.Began.Add(r.Rate.Duration(f - r.Start)), nil
}

// within gives the markers of a recording, the oldest first, and how many are from before it.
func (r Recording) within(list []Marker) (in []Marker, before int) {
	for _, m := range list {
		if m.At.Before(r.Began) {
			before++
			continue
		}
		in = append(in, m)
	}
	slices.SortStableFunc(in, func(a, b Marker) int { return a.At.Compare(b.At) })
	return in, before
}
