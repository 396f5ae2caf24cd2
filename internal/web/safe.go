package web

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// SafeRow is an output with its safe picture.
type SafeRow struct {
	Output string     `json:"output"` // its id
	Title  string     `json:"title"`  // with its device
	Now    string     `json:"now"`    // what it shows, in words
	Then   *show.Call `json:"then,omitempty"`
	Action string     `json:"action,omitempty"` // in words
	// Problem says why its safe picture can never be shown, or could not now.
	Problem string `json:"problem,omitempty"`
	// LandsMs is how long it takes until it shows, by what was measured: 95 of 100 are there by then; 0: nobody knows yet.
	LandsMs float64 `json:"landsMs"`
	Safe    bool    `json:"safe"`
}

// safePictures lists the outputs with their safe pictures.
func (s *server) safePictures(c *echo.Context) error {
	v := s.Mirror.View()
	p := v.Program
	out := []SafeRow{}
	for _, o := range p.Outputs(v) {
		row := SafeRow{Output: o.ID, Title: p.Called(o.Key, v), Now: v.Word(o.Key, v.Reading(o.Key).Value)}
		for _, sp := range p.Safe {
			if sp.Source.ID != o.ID {
				continue
			}
			row.Then, row.Problem = &sp.Source.Then, sp.Problem
			if row.Problem == "" {
				row.Action = sp.Then.Bound.Title.Text(v)
				row.LandsMs = float64(v.Latency(sp.Then.Device, sp.Then.Call.Action).P95.Microseconds()) / 1000
				if v.Away(sp.Then.Device) {
					row.Problem = sp.Then.Name + " is away."
				}
			}
			row.Safe = v.IsSafe(o.ID)
		}
		out = append(out, row)
	}
	return c.JSON(http.StatusOK, out)
}

// SafeRehearsal is what Safe would do as things stand.
type SafeRehearsal struct {
	// Ms is when all that can take their safe picture have it by what is usual, WorstMs by when that is so 95 times of 100.
	Ms      float64      `json:"ms"`
	WorstMs float64      `json:"worstMs"`
	Rows    []SafeOutput `json:"rows"`
}

// SafeOutput is an output in it.
type SafeOutput struct {
	Output string  `json:"output"`
	Title  string  `json:"title"`
	From   string  `json:"from"` // what it shows now, in words
	To     string  `json:"to"`
	Ms     float64 `json:"ms"`
	// Problem says why it cannot take its safe picture.
	Problem string `json:"problem,omitempty"`
}

// rehearseSafe works out what Safe would do.
func (s *server) rehearseSafe(c *echo.Context) error {
	v := s.Mirror.View()
	p := v.Program
	out := SafeRehearsal{Rows: []SafeOutput{}}
	refusal := func(r *program.Response) string {
		if v.Away(r.Device) {
			return r.Name + " is away."
		}
		return r.Bound.Refusal(v)
	}
	for _, l := range plan.RehearseSafe(v.Facts(c.Request().Context()), p.Safe, refusal) {
		row := SafeOutput{Output: l.Of.Source.ID, Title: p.Called(l.Of.Key, v), From: v.Word(l.Of.Key, v.Reading(l.Of.Key).Value), Problem: l.Problem}
		if l.Problem == "" {
			row.Ms = macro.Millis(l.At)
			row.To = v.Word(l.Of.Key, l.To)
			out.Ms, out.WorstMs = max(out.Ms, row.Ms), max(out.WorstMs, macro.Millis(l.Worst))
		}
		out.Rows = append(out.Rows, row)
	}
	return c.JSON(http.StatusOK, out)
}

// CallForm is an action.
type CallForm struct {
	Then show.Call `json:"then"`
}

func (s *server) setSafe(c *echo.Context) error {
	var f CallForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.SetSafe(who(c), c.Param("output"), f.Then))
}

func (s *server) removeSafe(c *echo.Context) error {
	return done(c, s.Edit.RemoveSafe(who(c), c.Param("output")))
}

// SafeWhat says what is made safe: an output; empty: all.
type SafeWhat struct {
	Output string `json:"output,omitempty"`
}

// safe puts safe pictures on. Nothing stands between the request and the engine.
func (s *server) safe(c *echo.Context) error {
	at := time.Now()
	var f SafeWhat
	if err := read(c, &f, true); err != nil {
		return err
	}
	by := s.request(c, at, "safe")
	s.Engine.Ask(engine.Safe{Request: by, Output: f.Output})
	return s.accepted(c, by)
}
