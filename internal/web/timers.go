package web

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
)

// TimerDoc is a timer; where it stands is a reading of Synaptor.
type TimerDoc struct {
	show.Timer
	Rev int64 `json:"rev"`
}

// TimerChange is a timer as it is to be; Rev is the revision that it was read at.
type TimerChange struct {
	edit.TimerForm
	Rev int64 `json:"rev,omitempty"`
}

func (s *server) timers(c *echo.Context) error {
	out := []TimerDoc{}
	sh := s.Edit.Program().Show
	for _, t := range sh.Timers() {
		out = append(out, TimerDoc{*t, sh.Rev(t.Ref())})
	}
	return c.JSON(http.StatusOK, out)
}

func (s *server) addTimer(c *echo.Context) error {
	var f edit.TimerForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddTimer(who(c), f))
}

func (s *server) editTimer(c *echo.Context) error {
	var f TimerChange
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.EditTimer(who(c), c.Param("id"), f.Rev, f.TimerForm))
}

func (s *server) removeTimer(c *echo.Context) error {
	return done(c, s.Edit.RemoveTimer(who(c), c.Param("id")))
}

// ZoneForm is the time zone of the show, by its IANA name.
type ZoneForm struct {
	TimeZone string `json:"timeZone"`
}

func (s *server) zone(c *echo.Context) error {
	p := s.Edit.Program()
	name := p.Show.Settings().TimeZone
	if name == "" {
		name = p.TimeZone.String()
	}
	return c.JSON(http.StatusOK, ZoneForm{name})
}

func (s *server) setZone(c *echo.Context) error {
	var f ZoneForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.SetZone(who(c), f.TimeZone))
}

// sendSignal sends a signal, with what it brings along.
func (s *server) sendSignal(c *echo.Context) error {
	var f FieldsForm
	if err := read(c, &f, true); err != nil {
		return err
	}
	name := c.Param("name")
	if why := show.CheckSignal(name); why != "" {
		return &badBody{"name", why}
	}
	by := s.request(c, time.Now(), "http")
	s.Engine.Ask(engine.Signal{Request: by, Name: name, Fields: f.Fields})
	return s.accepted(c, by)
}
