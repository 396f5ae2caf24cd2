package web

import (
	"fmt"
	"net/http"

	"github.com/coder/websocket"
	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// wire serves a bridge. Its origin was checked by guardOrigin, the host by guardHost.
func (s *server) wireOf(c *echo.Context) error {
	ws, err := websocket.Accept(c.Response(), c.Request(), &websocket.AcceptOptions{InsecureSkipVerify: true, CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return nil // Accept has answered
	}
	defer func() { _ = ws.CloseNow() }()
	s.Bridges.Serve(c.Request().Context(), ws)
	return nil
}

// boards lists the controllers of the real world that bridges carry, or did.
func (s *server) boards(c *echo.Context) error { return c.JSON(http.StatusOK, s.Bridges.Boards()) }

// addLink attaches hardware to a controller.
func (s *server) addLink(c *echo.Context) error {
	var f edit.LinkForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := s.Edit.AddLink(who(c), f)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Created{id})
}

// EditLink is a link as it shall be.
type EditLink struct {
	Rev int64 `json:"rev"`
	edit.LinkForm
}

func (s *server) editLink(c *echo.Context) error {
	var f EditLink
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.SetLink(who(c), c.Param("id"), f.Rev, f.LinkForm))
}

func (s *server) removeLink(c *echo.Context) error {
	return done(c, s.Edit.RemoveLink(who(c), c.Param("id")))
}

func (s *server) setLight(c *echo.Context) error {
	var f edit.LightForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.SetLight(who(c), c.Param("id"), f))
}

// AttachNew says which board gets a controller of its own.
type AttachNew struct {
	Serial string `json:"serial"`
	Name   string `json:"name"`
}

// controllerOfBoard adds a controller with the layout of a board, and attaches that to it. A sheet that its bridge brings is taken
// among the user's own.
func (s *server) controllerOfBoard(c *echo.Context) error {
	var f AttachNew
	if err := read(c, &f, false); err != nil {
		return err
	}
	for _, b := range s.Bridges.Boards() {
		if b.Serial != f.Serial || !b.Here {
			continue
		}
		if b.Own && s.Edit.Sheets().Controller(b.Layout) == nil {
			if _, err := s.Own.Import(s.Bridges.Sheet(f.Serial)); err != nil {
				return unfit("serial", show.Sentence(err))
			}
			if err := s.reload(); err != nil {
				return err
			}
		}
		id, err := s.Edit.AttachNew(who(c), f.Name, b.Layout, f.Serial, b.Name)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, Created{id})
	}
	return fmt.Errorf("%s is not here any more: %w", f.Serial, edit.ErrNotFound)
}

// Quiet says whether real controllers do nothing for now.
type Quiet struct {
	On bool `json:"on"`
}

func (s *server) setQuiet(c *echo.Context) error {
	var f Quiet
	if err := read(c, &f, false); err != nil {
		return err
	}
	s.Bridges.SetQuiet(f.On)
	return c.NoContent(http.StatusNoContent)
}
