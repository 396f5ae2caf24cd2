package web

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/macro"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

func (s *server) rehearse(c *echo.Context) error {
	var seed uint64
	if q := c.QueryParam("seed"); q != "" {
		var err error
		if seed, err = strconv.ParseUint(q, 10, 64); err != nil {
			return &badBody{"seed", "seed is a number from 0."}
		}
	}
	v := s.Mirror.Current()
	if v.Program.Macros[c.Param("id")] == nil {
		return edit.ErrNotFound
	}
	return s.work(c, func(ctx context.Context) error {
		out, err := v.Rehearse(ctx, c.Param("id"), seed)
		var cannot *macro.Error
		if errors.As(err, &cannot) {
			return edit.FieldErrors{{Field: "macro", Text: cannot.Text}}
		}
		if err != nil {
			return tooLong(err)
		}
		return c.JSON(http.StatusOK, out)
	})
}

// RunStarted is a run that was asked for.
type RunStarted struct {
	ID      string `json:"id"`      // of its journal entry
	Refused string `json:"refused"` // why it does not begin; empty: it has
}

// MacroSettings are those of all macros of the show.
type MacroSettings struct {
	// ProgressFromMs is how long a macro has to take for keys to show how it goes on.
	ProgressFromMs int `json:"progressFromMs"`
}

func (s *server) macroSettings(c *echo.Context) error {
	return c.JSON(http.StatusOK, MacroSettings{s.Edit.Program().Show.Settings().ProgressFromMs})
}

func (s *server) setMacroSettings(c *echo.Context) error {
	var f MacroSettings
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.ProgressFrom(who(c), f.ProgressFromMs))
}

// runMacro runs a macro for real, as a key would.
func (s *server) runMacro(c *echo.Context) error {
	if s.Edit.Program().Macros[c.Param("id")] == nil {
		return edit.ErrNotFound
	}
	id, at := journal.NextID(), time.Now()
	s.Journal.Announce(id, at)
	refused := s.Engine.RunMacro(engine.Input{Entry: id, At: at, Via: "macros", Actor: actor(c), By: visitorOf(c).ID}, c.Param("id"))
	return c.JSON(http.StatusAccepted, RunStarted{id, refused})
}

// HaltWhat says what is halted: a macro; empty: all runs.
type HaltWhat struct {
	Macro string `json:"macro,omitempty"`
}

// halt ends runs. Nothing stands between the request and the engine.
func (s *server) halt(c *echo.Context) error {
	at := time.Now()
	var f HaltWhat
	if err := read(c, &f, true); err != nil {
		return err
	}
	by := s.request(c, at, "macros")
	s.Engine.Halt(engine.Halt{Request: by, Macro: f.Macro})
	return s.accepted(c, by)
}

// tooLate says in a sentence that something cannot be put back any more.
func tooLate(err error) error {
	if engine.NotRestorable(err) {
		return edit.FieldErrors{{Field: "entry", Text: "This was more than two minutes ago, or it changed nothing. It cannot be put back any more."}}
	}
	return err
}

func (s *server) planBack(c *echo.Context) error {
	p, err := s.Engine.PutBackPlan(c.Param("entry"))
	if err != nil {
		return tooLate(err)
	}
	return c.JSON(http.StatusOK, p)
}

func (s *server) putBack(c *echo.Context) error {
	id, at := journal.NextID(), time.Now()
	s.Journal.Announce(id, at)
	if err := s.Engine.PutBack(c.Param("entry"), engine.Input{Entry: id, At: at, Via: "put back", Actor: actor(c), By: visitorOf(c).ID}); err != nil {
		return tooLate(err)
	}
	return c.JSON(http.StatusAccepted, Created{id})
}

func (s *server) leave(c *echo.Context) error {
	return done(c, tooLate(s.Engine.Leave(c.Param("entry"))))
}

func (s *server) record(c *echo.Context) error { return done(c, s.Engine.StartRecording(actor(c))) }

// RecordingEnd is what becomes of a recording: a macro of this name; Discard throws it
// away.
type RecordingEnd struct {
	Name    string `json:"name"`
	Discard bool   `json:"discard,omitempty"`
}

func (s *server) recorded(c *echo.Context) error {
	var f RecordingEnd
	if err := read(c, &f, false); err != nil {
		return err
	}
	list, err := s.Engine.StopRecording()
	if err != nil || f.Discard {
		return done(c, err)
	}
	return created(c)(s.Edit.MacroFromUse(who(c), cmp.Or(f.Name, "From use"), list))
}
