package web

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"

	"github.com/coder/websocket"
	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// wireOf serves a bridge, which says its token itself. Its origin was checked by guardOrigin, the host by guardHost.
func (s *server) wireOf(c *echo.Context) error {
	ws, err := websocket.Accept(c.Response(), c.Request(), &websocket.AcceptOptions{InsecureSkipVerify: true, CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return nil // Accept has answered
	}
	defer func() { _ = ws.CloseNow() }()
	s.Bridges.Serve(c.Request().Context(), ws)
	return nil
}

// handsOf serves a browser that carries hardware. Its origin was checked by guardOrigin, the host by guardHost.
func (s *server) handsOf(c *echo.Context) error {
	ws, err := websocket.Accept(c.Response(), c.Request(), &websocket.AcceptOptions{InsecureSkipVerify: true, CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return nil // Accept has answered
	}
	defer func() { _ = ws.CloseNow() }()
	ctx := s.gate.while(c.Request().Context(), visitorOf(c), access.Operator)
	s.Hands.Serve(ctx, ws, sender(c))
	return nil
}

// hardware lists what is here to be touched, or was and is attached.
func (s *server) hardware(c *echo.Context) error {
	return c.JSON(http.StatusOK, append(s.Bridges.Boards(), s.Hands.Rows()...))
}

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

// AttachNew says which hardware gets a controller of its own.
type AttachNew struct {
	Hardware string `json:"hardware"`
	Name     string `json:"name"`
	// Layout is the id of the controller's layout; empty: that of the hardware.
	Layout string `json:"layout"`
}

// controllerOf adds a controller with the layout of hardware, and attaches that to it. A sheet that its bridge brings is taken among the
// user's own.
func (s *server) controllerOf(c *echo.Context) error {
	var f AttachNew
	if err := read(c, &f, false); err != nil {
		return err
	}
	for _, h := range append(s.Bridges.Boards(), s.Hands.Rows()...) {
		if h.ID != f.Hardware || !h.Here {
			continue
		}
		if h.Own && s.Edit.Sheets().Controller(h.Layout) == nil {
			if _, err := s.Own.Import(s.Bridges.Sheet(h.Match)); err != nil {
				return unfit("hardware", show.Sentence(err))
			}
			if err := s.reload(); err != nil {
				return err
			}
		}
		name := ""
		if h.Name != h.Match {
			name = h.Name
		}
		id, err := s.Edit.AttachNew(who(c), f.Name, cmp.Or(f.Layout, h.Layout), edit.LinkForm{Kind: h.Kind, Name: name, Match: h.Match, Place: h.Place})
		if err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, Created{id})
	}
	return fmt.Errorf("this hardware is not here any more: %w", edit.ErrNotFound)
}

// take keeps hardware from other programs, for as long as it takes to see that all is well.
func (s *server) take(c *echo.Context) error {
	if err := s.Hands.TryTake(c.Param("id")); err != nil {
		return handsProblem(err)
	}
	return c.NoContent(http.StatusNoContent)
}

// keepTaken says that all is well: it is taken from now on.
func (s *server) keepTaken(c *echo.Context) error {
	link, err := s.Hands.Confirm(c.Param("id"))
	if err != nil {
		return handsProblem(err)
	}
	return done(c, s.Edit.SetTake(who(c), link, true))
}

// passOn gives hardware back to other programs.
func (s *server) passOn(c *echo.Context) error {
	link, err := s.Hands.PassOn(c.Param("id"))
	if err != nil {
		return handsProblem(err)
	}
	if l := s.Edit.Program().Show.Link(link); l == nil || !l.Take {
		return c.NoContent(http.StatusNoContent)
	}
	return done(c, s.Edit.SetTake(who(c), link, false))
}

// handsProblem is why hardware does not do what is asked for.
func handsProblem(err error) error {
	var gone hands.NotHere
	if errors.As(err, &gone) {
		return fmt.Errorf("%w: %w", edit.ErrNotFound, err)
	}
	return unfit("hardware", show.Sentence(err))
}

// LearnForm says what is to be learned by touching.
type LearnForm struct {
	// Controller and Control are what will be moved; empty: any.
	Controller string `json:"controller"`
	Control    string `json:"control"`
	// Hardware is the id of what will be touched; empty: any.
	Hardware string `json:"hardware"`
}

// learn begins to learn by touching.
func (s *server) learn(c *echo.Context) error {
	var f LearnForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	kind := ""
	if f.Controller != "" {
		ctl := s.Edit.Program().Controllers[f.Controller]
		if ctl == nil {
			return fmt.Errorf("this controller is not there any more: %w", edit.ErrNotFound)
		}
		one, has := ctl.Controls[f.Control]
		if f.Control != "" && !has {
			return unfit("control", fmt.Sprintf("%s has no control %q.", ctl.Name, f.Control))
		}
		kind = one.Kind
	}
	l, err := s.Hands.Learn(kind, f.Hardware)
	if err != nil {
		return handsProblem(err)
	}
	return c.JSON(http.StatusCreated, l)
}

// LearnedForm says which control what was learned is.
type LearnedForm struct {
	Controller string `json:"controller"`
	Control    string `json:"control"`
}

// learned makes what was learned a control.
func (s *server) learned(c *echo.Context) error {
	var f LearnedForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	link, want, err := s.Hands.Lesson(c.Param("id"), f.Controller, f.Control)
	if err != nil {
		return unfit("control", show.Sentence(err))
	}
	return done(c, s.Edit.Bind(who(c), link, *want))
}

// endLesson has what was touched work again.
func (s *server) endLesson(c *echo.Context) error {
	s.Hands.EndLesson(c.Param("id"))
	return c.NoContent(http.StatusNoContent)
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
	s.Hands.SetQuiet(f.On)
	return c.NoContent(http.StatusNoContent)
}
