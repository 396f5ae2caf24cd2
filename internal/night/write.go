package night

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"html/template"
	"io"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/journal"
)

//go:embed report.html
var pageText string

// clock writes times as the clock on the wall of the show has them.
type clock struct{ zone *time.Location }

func (c clock) At(t time.Time) string   { return t.In(c.zone).Format("15:04:05") }
func (c clock) Date(t time.Time) string { return t.In(c.zone).Format("2 January 2006, 15:04") }
func (c clock) Until(t time.Time) string {
	if t.IsZero() {
		return "still so"
	}
	return c.At(t)
}

var page = template.Must(template.New("report").Funcs(template.FuncMap{
	"ms":    func(us int64) string { return fmt.Sprintf("%.1f ms", float64(us)/1000) },
	"lasts": length,
	"worst": worst,
}).Parse(pageText))

// length is how long something took, until the end of the report where it went on.
func length(s Span, end time.Time) string {
	if !s.To.IsZero() {
		end = s.To
	}
	return end.Sub(s.From).Round(time.Second).String()
}

// worst is the together of a run that was furthest apart.
func worst(list []journal.Skew) (w journal.Skew) {
	for _, s := range list {
		if s.MeasuredUs > w.MeasuredUs {
			w = s
		}
	}
	return w
}

// HTML writes a report as one page that needs nothing else, with the times of a zone.
func (r Report) HTML(w io.Writer, zone *time.Location) error {
	return page.Execute(w, struct {
		Report
		Clock clock
	}{r, clock{zone}})
}

// CSV writes a report as one table (RFC 4180): what it is, when, until when, and what there is to say. Times are RFC 3339.
func (r Report) CSV(w io.Writer) error {
	c := csv.NewWriter(w)
	at := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.UTC().Format(time.RFC3339Nano)
	}
	out := [][]string{{"what", "from", "to", "title", "who", "count", "ms", "reason"}}
	add := func(what string, from, to time.Time, title, who, count, ms, reason string) {
		out = append(out, []string{what, at(from), at(to), markers.Cell(title), markers.Cell(who), count, ms, markers.Cell(reason)})
	}
	ms := func(us int64) string { return fmt.Sprintf("%.3f", float64(us)/1000) }
	add("show", r.From, r.To, r.Name, "", "", "", "")
	for _, s := range r.Starts {
		reason := ""
		if s.Unclean {
			reason = "Synaptor had been cut off."
		}
		add("start", s.At, time.Time{}, "Synaptor has started", "", "", "", reason)
	}
	for _, s := range r.OnAir {
		add(s.Kind, s.From, s.To, s.Title, s.Device, "", "", "")
	}
	for _, m := range r.Markers {
		add("marker", m.At, time.Time{}, m.Text, m.By, "", "", m.Kind)
	}
	for _, u := range r.Uses {
		add("used", time.Time{}, time.Time{}, u.Title, u.Name+" "+u.Control, fmt.Sprint(u.N), "", fmt.Sprintf("%d failed", u.Failed))
	}
	for _, e := range r.Slowest {
		add("slow", e.At, time.Time{}, e.Title, e.Actor, "", ms(e.LatencyUs), "")
	}
	for _, e := range r.Troubles {
		add(string(e.Outcome), e.At, time.Time{}, e.Title, e.Actor, "", "", e.Reason)
	}
	for _, s := range r.Lost {
		add("link lost", s.From, s.To, s.Title, "", "", "", "")
	}
	for _, e := range r.Together {
		for _, s := range e.Together {
			add("together", e.At, time.Time{}, e.Title, e.Actor, "", ms(s.MeasuredUs), ms(s.PredictedUs)+" ms were expected")
		}
	}
	for _, a := range r.Accepted {
		add("accepted", a.At, time.Time{}, a.What, a.By, "", "", a.Reason)
	}
	return c.WriteAll(out)
}

// Files are those that are kept of a night: its report, its markers in a recording, its journal and the show, which others write.
func (r Report) Files(zone *time.Location, rec markers.Recording, journal, show func(io.Writer) error) []File {
	files := []File{
		{"report.html", func(w io.Writer) error { return r.HTML(w, zone) }},
		{"report.csv", r.CSV},
		{"markers.csv", func(w io.Writer) error { return markers.CSV(w, r.Markers, rec) }},
		{"markers.vtt", func(w io.Writer) error { return markers.WebVTT(w, r.Markers, rec) }},
		{"journal.csv", journal},
		{"show.synaptor.zip", show},
	}
	if len(r.Markers) <= markers.MaxEvents { // an edit list cannot number more
		files = append(files, File{"markers.edl", func(w io.Writer) error { return markers.CMX3600(w, r.Name, r.Markers, rec) }})
	}
	return files
}
