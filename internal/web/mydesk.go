package web

import (
	"net/http"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/program"
)

// DeskDoc is how whoever asks sees the Desk.
type DeskDoc struct {
	show.Desk
	// CountAt is when the time comes that is counted down to, the next time; zero where none is.
	CountAt time.Time `json:"countAt,omitzero"`
	// TimeZone is the show's, by its IANA name; empty: the one of this computer.
	TimeZone string `json:"timeZone"`
	// Choices are what can be chosen.
	Choices DeskChoices `json:"choices"`
}

// DeskChoices are the parts and the sides that a Desk can have.
type DeskChoices struct {
	Parts []string `json:"parts"`
	Sides []string `json:"sides"`
}

func (s *server) myDesk(c *echo.Context) error {
	d, err := s.Edit.Desk(visitorOf(c).ID)
	if err != nil {
		return err
	}
	p := s.Edit.Program()
	doc := DeskDoc{Desk: d, TimeZone: p.Show.Settings().TimeZone, Choices: DeskChoices{show.DeskParts(), show.DeskSides()}}
	if d.CountTo != "" {
		doc.CountAt, _ = reflex.Schedule{At: d.CountTo}.Next(time.Now(), p.TimeZone)
	}
	return c.JSON(http.StatusOK, doc)
}

// DeskAction is something of Synaptor itself that is done on the Desk, where nothing is edited.
type DeskAction struct {
	Action string `json:"action"` // one of deskActions
	Timer  string `json:"timer,omitempty"`
}

// deskActions are those of Synaptor itself that the Desk has: an operator reaches no others from there.
var deskActions = []string{"seen", "timer-start", "timer-stop", "timer-reset"}

func (s *server) deskAction(c *echo.Context) error {
	at := time.Now()
	var f DeskAction
	if err := read(c, &f, false); err != nil {
		return err
	}
	if !slices.Contains(deskActions, f.Action) {
		return edit.FieldErrors{{Field: "action", Text: "The Desk starts, stops and resets timers, and says that a warning was seen."}}
	}
	params := map[string]string{}
	if f.Timer != "" {
		params["timer"] = f.Timer
	}
	return s.ask(c, at, "desk", "Desk", edit.Action{Device: program.SelfID, Action: f.Action, Params: params})
}

// OffForm names what is to be ended.
type OffForm struct {
	Device string `json:"device"`
	Path   string `json:"path"`
}

// off ends something that is still on: it gets the value that it has when a night is over.
func (s *server) off(c *echo.Context) error {
	at := time.Now()
	var f OffForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	v := s.Mirror.Current()
	for _, row := range v.StillOn() {
		if row.Device != f.Device || row.Path != f.Path {
			continue
		}
		if row.Off == nil {
			return edit.FieldErrors{{Field: "path", Text: row.Why}}
		}
		return s.ask(c, at, "desk", "Desk", edit.Action{Device: f.Device, Action: row.Off.Action, Params: row.Off.Params})
	}
	return edit.FieldErrors{{Field: "path", Text: "This is not on any more."}}
}

// Decision says what becomes of what differs of a device that has returned: sent again, or left. Paths are the readings; none: all.
type Decision struct {
	Again bool     `json:"again"`
	Paths []string `json:"paths,omitempty"`
}

func (s *server) decideReturned(c *echo.Context) error {
	at := time.Now()
	var f Decision
	if err := read(c, &f, false); err != nil {
		return err
	}
	if s.Edit.Program().Show.Device(c.Param("id")) == nil {
		return edit.ErrNotFound
	}
	by := s.request(c, at, "desk")
	s.Engine.Ask(engine.Settle{Request: by, Device: c.Param("id"), Paths: f.Paths, Again: f.Again})
	return s.accepted(c, by)
}

func (s *server) arrangeDesk(c *echo.Context) error {
	var f show.Desk
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.ArrangeDesk(visitorOf(c).ID, f))
}
