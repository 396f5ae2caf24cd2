package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

const (
	//limit:count readings of the past that a reflex is played against | in the answer, as the time they reach from
	maxNightReadings = 100_000
	//limit:count events of the past that a reflex is played against | in the answer, as the time they reach from
	maxNightEvents = 20_000
	//limit:count hours that a reflex is played against: a week | at the field
	maxNightHours = 7 * 24
	//limit:count events that a reflex can be tried with | nowhere; those before are in the timeline
	maxTriedWith = 50
)

// NightForm asks what a reflex would have done.
type NightForm struct {
	Reflex edit.ReflexForm `json:"reflex"`
	Hours  float64         `json:"hours"` // up to now
}

// NightDoc is what a reflex would have done.
type NightDoc struct {
	plan.Would
	From time.Time `json:"from"`
}

// wouldHave plays a reflex, which need not be kept, against what was recorded.
func (s *server) wouldHave(c *echo.Context) error {
	var f NightForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if f.Hours <= 0 || f.Hours > maxNightHours {
		return &badBody{"hours", fmt.Sprintf("hours is from 0 to %d.", maxNightHours)}
	}
	r, err := s.Edit.MadeOf(who(c), f.Reflex)
	if err != nil {
		return err
	}
	return s.work(c, func(ctx context.Context) error {
		to := time.Now()
		night, err := s.night(r, to.Add(-time.Duration(f.Hours*float64(time.Hour))), to)
		if err != nil {
			return err
		}
		v := s.Mirror.View()
		out := plan.WouldHave(ctx, r, night, v.Facts(ctx))
		if ctx.Err() != nil {
			return tooLong(ctx.Err())
		}
		return c.JSON(http.StatusOK, NightDoc{out, night.From})
	})
}

// night reads what a reflex is played against.
func (s *server) night(r *program.Reflex, from, to time.Time) (plan.Night, error) {
	night := plan.Night{From: from, To: to, Before: map[reading.Key]reading.Value{}}
	if err := s.History.Flush(); err != nil {
		return night, err
	}
	keys := r.Uses()
	if r.Then.Bound != nil {
		keys = append(keys, r.Then.Bound.Affects()...)
		keys = append(keys, r.Then.Bound.Uses()...)
	}
	p := s.Edit.Program()
	before, then, err := s.History.Past(keys, from, to, maxNightReadings)
	if err != nil {
		return night, err
	}
	if len(then) == maxNightReadings {
		night.From = then[0].At
	}
	events, err := s.History.PastEvents(night.From, to, maxNightEvents)
	if err != nil {
		return night, err
	}
	if len(events) == maxNightEvents {
		night.From = events[0].At
	}
	typed := func(w journal.Was) reading.Value {
		if d := p.Devices[w.Key.Device]; d != nil && d.Type != nil {
			if v, err := d.Type.Value(w.Key.Path, w.Value); err == nil {
				return v
			}
		}
		return w.Value
	}
	for _, w := range before {
		night.Before[w.Key] = typed(w)
	}
	for _, w := range then {
		night.Moments = append(night.Moments, plan.Moment{At: w.At, Key: w.Key, Value: typed(w)})
	}
	for _, e := range events {
		if h, ok := happenedOf(e); ok {
			night.Moments = append(night.Moments, plan.Moment{At: e.At, On: h.On, Text: h.Text, Fields: h.Fields})
		}
	}
	slices.SortStableFunc(night.Moments, func(a, b plan.Moment) int { return a.At.Compare(b.At) })
	return night, nil
}

func happenedOf(e journal.Happened) (h engine.Happened, ok bool) {
	return h, json.Unmarshal(e.Body, &h) == nil
}

// PastEvent is an event that a reflex could have had.
type PastEvent struct {
	At     time.Time      `json:"at"`
	Text   string         `json:"text"`
	Fields map[string]any `json:"fields"`
}

// EventsForm asks for the events that came of what a reflex waits for.
type EventsForm struct {
	On show.On `json:"on"`
}

// pastEvents lists the last events of what a reflex waits for, the newest first.
func (s *server) pastEvents(c *echo.Context) error {
	var f EventsForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if err := s.History.Flush(); err != nil {
		return err
	}
	to := time.Now()
	from := to.Add(-maxNightHours * time.Hour)
	out := []PastEvent{}
	if f.On.Kind == reflex.OnReading {
		k := reading.Key{Device: f.On.Device, Path: f.On.Path}
		_, then, err := s.History.Past([]reading.Key{k}, from, to, maxTriedWith+1)
		if err != nil {
			return err
		}
		v := s.Mirror.View()
		for i := len(then) - 1; i > 0 && len(out) < maxTriedWith; i-- {
			out = append(out, PastEvent{then[i].At, fmt.Sprintf("%s is %s", v.Called(k), v.Word(k, then[i].Value)), map[string]any{"value": then[i].Value, "was": then[i-1].Value}})
		}
		return c.JSON(http.StatusOK, out)
	}
	events, err := s.History.PastEvents(from, to, maxNightEvents)
	if err != nil {
		return err
	}
	for _, e := range slices.Backward(events) {
		h, ok := happenedOf(e)
		if ok && len(out) < maxTriedWith && plan.Means(f.On, h.On) {
			out = append(out, PastEvent{h.At, h.Text, h.Fields})
		}
	}
	return c.JSON(http.StatusOK, out)
}

// TryReflex tries a reflex with an event.
type TryReflex struct {
	Reflex edit.ReflexForm `json:"reflex"`
	Fields map[string]any  `json:"fields"`
}

// tryReflex rehearses what a reflex would do with an event.
func (s *server) tryReflex(c *echo.Context) error {
	var f TryReflex
	if err := read(c, &f, false); err != nil {
		return err
	}
	r, err := s.Edit.MadeOf(who(c), f.Reflex)
	if err != nil {
		return err
	}
	return s.work(c, func(ctx context.Context) error {
		return c.JSON(http.StatusOK, plan.TryReflex(ctx, r, f.Fields, s.Mirror.View().Facts(ctx)))
	})
}

// FieldsForm is what an event brings along.
type FieldsForm struct {
	Fields map[string]any `json:"fields"`
}

// runReflex has a reflex of the show take up an event that somebody made, with its rates and conditions.
func (s *server) runReflex(c *echo.Context) error {
	var f FieldsForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if s.Edit.Program().Reflex(c.Param("id")) == nil {
		return edit.ErrNotFound
	}
	s.Engine.Ask(engine.TryReflex{Request: s.request(c, time.Now(), "reflexes"), Reflex: c.Param("id"), Fields: f.Fields})
	return done(c, nil)
}

// TimelineDoc is what has happened of late, and what became of it.
type TimelineDoc struct {
	Happened []engine.Happened `json:"happened"`
	Judged   []engine.Judged   `json:"judged"`
}

// timelineFor is how far back the timeline goes.
const timelineFor = 10 * time.Minute

func (s *server) timeline(c *echo.Context) error {
	past, judged := s.Mirror.Timeline(time.Now().Add(-timelineFor))
	return c.JSON(http.StatusOK, TimelineDoc{past, judged})
}

// TextForm is a text that is read.
type TextForm struct {
	Text string `json:"text"`
}

// readTable reads a table from CSV.
func (s *server) readTable(c *echo.Context) error {
	var f TextForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if len(f.Text) > reflex.MaxCSV {
		return edit.FieldErrors{{Field: "table", Text: "This file is larger than a megabyte."}}
	}
	t, why := reflex.ReadCSV(f.Text)
	if why != "" {
		return edit.FieldErrors{{Field: "table", Text: why}}
	}
	return c.JSON(http.StatusOK, t)
}

// tableCSV is the table of a reflex as CSV (RFC 4180).
func (s *server) tableCSV(c *echo.Context) error {
	r := s.Edit.Program().Show.Reflex(c.Param("id"))
	if r == nil || r.Table == nil {
		return edit.ErrNotFound
	}
	c.Response().Header().Set(echo.HeaderContentType, "text/csv; charset=utf-8; header=present")
	c.Response().Header().Set(echo.HeaderContentDisposition, fmt.Sprintf("attachment; filename=%q", strings.ReplaceAll(show.SignalKey(r.Name), "/", "-")+".csv"))
	return r.Table.CSV(c.Response())
}
