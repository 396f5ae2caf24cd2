package markers

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"synaptor/internal/core/timecode"
)

// ErrTooMany says that an edit list cannot have so many events.
var ErrTooMany = errors.New("an edit list has at most 999 events: choose a shorter time")

// MaxEvents is what the three digits of an event's number can say.
//
//limit:count events of an edit list | in the answer
const MaxEvents = 999

// CSV writes markers as a table with a line of names; what is from before the recording has no timecode.
func CSV(w io.Writer, list []Marker, r Recording) error {
	c := csv.NewWriter(w)
	rows := [][]string{{"time", "timecode", "kind", "text", "lead_s", "by"}}
	for _, m := range list {
		rows = append(rows, []string{m.At.UTC().Format(time.RFC3339Nano), r.Timecode(m.At), m.Kind, Cell(m.Text), fmt.Sprintf("%.3f", float64(m.LeadMs)/1000), Cell(m.By)})
	}
	return c.WriteAll(rows)
}

// Cell is a text as a cell of a table has it: one that a spreadsheet would take for a formula begins with an apostrophe.
func Cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// shownFor is how long a marker is shown at most: it has no end of its own.
const shownFor = 5 * time.Second

// WebVTT writes the markers of a recording as cues (W3C WebVTT): each is shown until the next, and at most for five seconds; chapters until the next
// chapter.
func WebVTT(w io.Writer, list []Marker, r Recording) error {
	in, before := r.within(list)
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	if before > 0 {
		fmt.Fprintf(&b, "\nNOTE %d are from before the recording began and are left out.\n", before)
	}
	for i, m := range in {
		from := m.At.Sub(r.Began)
		to := from + shownFor
		for _, next := range in[i+1:] {
			if m.Kind == "chapter" && next.Kind != "chapter" || !next.At.After(m.At) {
				continue
			}
			if then := next.At.Sub(r.Began); then < to || m.Kind == "chapter" {
				to = then
			}
			break
		}
		if to.Milliseconds() <= from.Milliseconds() {
			to = from + time.Millisecond
		}
		fmt.Fprintf(&b, "\n%s\n%s --> %s\n%s\n", m.ID, vttTime(from), vttTime(to), vttText(m))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

func vttTime(d time.Duration) string {
	ms := d.Milliseconds()
	return fmt.Sprintf("%02d:%02d:%02d.%03d", ms/3_600_000, ms/60_000%60, ms/1000%60, ms%1000)
}

// vttText is the text of a cue: one line, with what means something there escaped.
func vttText(m Marker) string {
	text := strings.Join(strings.Fields(m.Text), " ")
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(m.Kind + ": " + text)
}

// editRate is the rate at which an edit list counts: the form knows none above 30 frames, so of 50 and 60 every second one is counted.
func editRate(r timecode.Rate) timecode.Rate {
	if r.Count > 30 {
		r.Count /= 2
	}
	return r
}

// CMX3600 writes the markers of a recording as an edit list: an event of one frame each, with its text as a comment. It fails with ErrTooMany where
// there are more than the form can number.
func CMX3600(w io.Writer, title string, list []Marker, r Recording) error {
	in, before := r.within(list)
	if len(in) > MaxEvents {
		return ErrTooMany
	}
	edit := Recording{r.Began, editRate(r.Rate), r.Start * editRate(r.Rate).Count / r.Rate.Count}
	mode := "NON-DROP FRAME"
	if edit.Rate.Drop {
		mode = "DROP FRAME"
	}
	var b strings.Builder
	fmt.Fprintf(&b, "TITLE: %s\r\nFCM: %s\r\n", plain(title, 70), mode)
	if before > 0 {
		fmt.Fprintf(&b, "* %d ARE FROM BEFORE THE RECORDING BEGAN AND ARE LEFT OUT\r\n", before)
	}
	for i, m := range in {
		f, _ := edit.Frame(m.At)
		from, to := edit.Rate.Format(f), edit.Rate.Format(f+1)
		fmt.Fprintf(&b, "\r\n%03d  AX       V     C        %s %s %s %s\r\n", i+1, from, to, from, to)
		fmt.Fprintf(&b, "* COMMENT: %s: %s\r\n", strings.ToUpper(m.Kind), plain(m.Text, 60))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// plain is a text in ASCII, as edit lists are: letters without their accents, and a question mark for what has no such letter.
func plain(s string, most int) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.Join(strings.Fields(s), " ")) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case r >= ' ' && r < unicode.MaxASCII:
			b.WriteRune(r)
		default:
			b.WriteByte('?')
		}
	}
	out := b.String()
	return out[:min(len(out), most)]
}
