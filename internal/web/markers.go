package web

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/markers"
	"synaptor/internal/core/show"
	"synaptor/internal/core/timecode"
	"synaptor/internal/edit"
)

// MarkerDoc is a marker with its place in a recording.
type MarkerDoc struct {
	markers.Marker
	// Timecode in the recording that was asked about; empty: it is from before, or none was.
	Timecode string `json:"timecode,omitempty"`
}

// MarkerForm is a marker as it is to be. At is when it was set, and the marker points LeadMs before that; where At is left out, it is now.
// Timecode sets what it points at by the recording.
type MarkerForm struct {
	Kind     string    `json:"kind"`
	Text     string    `json:"text"`
	LeadMs   int64     `json:"leadMs,omitempty"`
	At       time.Time `json:"at,omitzero"`
	Timecode string    `json:"timecode,omitempty"`
	// Began and Start say which recording a timecode is of.
	Began time.Time `json:"began,omitzero"`
	Start string    `json:"start,omitempty"`
}

// markersFor is how long before now markers are looked for where nothing is said.
const markersFor = 24 * time.Hour

// span reads since and until of a request; a day until now where they are left out.
func span(c *echo.Context) (from, to time.Time, err error) {
	w, err := wantedOf(c)
	if err != nil {
		return from, to, err
	}
	if to = w.Until; to.IsZero() {
		to = time.Now().Add(time.Second)
	}
	if from = w.Since; from.IsZero() {
		from = to.Add(-markersFor)
	}
	return from, to, nil
}

// recordingOf is the recording that began at a time, whose first frame has a timecode; counted at the show's frame rate.
func (s *server) recordingOf(began time.Time, start string) (r markers.Recording, err error) {
	if r.Rate, err = timecode.ForFrames(s.Edit.Program().Show.Settings().FrameRate); err != nil {
		return r, edit.FieldErrors{{Field: "rate", Text: show.Sentence(err)}}
	}
	if r.Began = began; start != "" {
		if r.Start, err = r.Rate.Parse(start); err != nil {
			return r, edit.FieldErrors{{Field: "start", Text: show.Sentence(err)}}
		}
	}
	return r, nil
}

// askedRecording is the recording that the query of a request is about; fallback is when it began where nothing is said.
func (s *server) askedRecording(c *echo.Context, fallback time.Time) (markers.Recording, error) {
	began := fallback
	if q := c.QueryParam("began"); q != "" {
		var err error
		if began, err = time.Parse(time.RFC3339, q); err != nil {
			return markers.Recording{}, &badBody{"began", "began is a time as 2026-08-12T22:30:00Z."}
		}
	}
	return s.recordingOf(began, c.QueryParam("start"))
}

// askedMarkers are those of the time that a request is about, and when that begins.
func (s *server) askedMarkers(c *echo.Context) (list []markers.Marker, from time.Time, err error) {
	from, to, err := span(c)
	if err != nil {
		return nil, from, err
	}
	list, err = s.Markers.Of(s.Shows.Current(), from, to)
	return list, from, err
}

func (s *server) listMarkers(c *echo.Context) error {
	list, _, err := s.askedMarkers(c)
	if err != nil {
		return err
	}
	r, err := s.askedRecording(c, time.Time{})
	if err != nil {
		return err
	}
	out := make([]MarkerDoc, len(list))
	for i, m := range list {
		out[i] = MarkerDoc{Marker: m}
		if !r.Began.IsZero() {
			out[i].Timecode = r.Timecode(m.At)
		}
	}
	return c.JSON(http.StatusOK, out)
}

func (s *server) addMarker(c *echo.Context) error {
	var f MarkerForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	at := f.At
	if at.IsZero() {
		at = time.Now()
	}
	m := markers.Marker{At: at.Add(-time.Duration(f.LeadMs) * time.Millisecond), Kind: cmp.Or(f.Kind, markers.Kinds()[0]), Text: f.Text, LeadMs: f.LeadMs}
	if field, why := m.Check(); why != "" {
		return edit.FieldErrors{{Field: field, Text: why}}
	}
	m = s.Markers.Mark(m.Kind, m.Text, actor(c), "", at, time.Duration(f.LeadMs)*time.Millisecond)
	return c.JSON(http.StatusCreated, Created{m.ID})
}

func (s *server) editMarker(c *echo.Context) error {
	var f MarkerForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	m, err := s.Markers.One(s.Shows.Current(), c.Param("id"))
	if err == nil && m == nil {
		err = fmt.Errorf("the marker: %w", edit.ErrNotFound)
	}
	if err != nil {
		return err
	}
	set := m.At.Add(time.Duration(m.LeadMs) * time.Millisecond)
	if !f.At.IsZero() {
		set = f.At
	}
	m.Kind, m.Text, m.LeadMs = cmp.Or(f.Kind, m.Kind), cmp.Or(f.Text, m.Text), f.LeadMs
	m.At = set.Add(-time.Duration(m.LeadMs) * time.Millisecond)
	if f.Timecode != "" {
		r, err := s.recordingOf(f.Began, f.Start)
		if err != nil {
			return err
		}
		if m.At, err = r.At(f.Timecode); err != nil {
			return edit.FieldErrors{{Field: "timecode", Text: show.Sentence(err)}}
		}
	}
	if field, why := m.Check(); why != "" {
		return edit.FieldErrors{{Field: field, Text: why}}
	}
	return done(c, s.Markers.Save(*m))
}

func (s *server) removeMarker(c *echo.Context) error {
	was, err := s.Markers.Drop(c.Param("id"))
	if err == nil && !was {
		err = fmt.Errorf("the marker: %w", edit.ErrNotFound)
	}
	return done(c, err)
}

// exportMarkers writes markers for other programs.
func (s *server) exportMarkers(c *echo.Context) error {
	list, from, err := s.askedMarkers(c)
	if err != nil {
		return err
	}
	began := from
	if len(list) > 0 {
		began = list[0].At
	}
	r, err := s.askedRecording(c, began)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	name, kind := s.Edit.Program().Show.Settings().Name, "text/csv; charset=utf-8"
	form := cmp.Or(c.QueryParam("form"), "csv")
	switch form {
	case "csv":
		err = markers.CSV(&b, list, r)
	case "vtt":
		kind, err = "text/vtt; charset=utf-8", markers.WebVTT(&b, list, r)
	case "edl":
		kind, err = "text/plain; charset=us-ascii", markers.CMX3600(&b, name, list, r)
	default:
		return &badBody{"form", "Markers are written as csv, vtt or edl."}
	}
	if errors.Is(err, markers.ErrTooMany) {
		return edit.FieldErrors{{Field: "form", Text: show.Sentence(err)}}
	}
	if err != nil {
		return err
	}
	return attachment(c, fmt.Sprintf("%s markers.%s", name, form), kind, b.Bytes())
}

// attachment answers with a file to be kept.
func attachment(c *echo.Context, name, kind string, body []byte) error {
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", strings.Map(plainName, name)))
	return c.Blob(http.StatusOK, kind, body)
}

// plainName keeps what may stand in the name of a file everywhere.
func plainName(r rune) rune {
	if r < ' ' || r > '~' || strings.ContainsRune(`\/:*?"<>|%`, r) {
		return '_'
	}
	return r
}
