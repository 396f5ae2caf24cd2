package web

import (
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/edit"
	"synaptor/internal/engine"
)

func (s *server) addPage(c *echo.Context) error {
	var n edit.NewPage
	if err := read(c, &n, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddPage(who(c), n))
}

// created answers with the id of what was made.
func created(c *echo.Context) func(string, error) error {
	return func(id string, err error) error {
		if err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, Created{id})
	}
}

// done answers that it worked.
func done(c *echo.Context, err error) error {
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// PageChange is what is changed of a page: its name, its place, or whether it is for trying things out.
type PageChange struct {
	Name     *string `json:"name,omitempty"`
	Position *int    `json:"position,omitempty"`
	Scratch  *bool   `json:"scratch,omitempty"`
}

func (s *server) editPage(c *echo.Context) error {
	var p PageChange
	if err := read(c, &p, false); err != nil {
		return err
	}
	switch {
	case p.Name != nil:
		return done(c, s.Edit.RenamePage(who(c), c.Param("page"), *p.Name))
	case p.Scratch != nil:
		return done(c, s.Edit.ScratchPage(who(c), c.Param("page"), *p.Scratch))
	case p.Position != nil:
		return done(c, s.Edit.MovePage(who(c), c.Param("page"), *p.Position))
	}
	return unfit("name", "Say what to change: the name, the position, or whether it is a scratch page.")
}

func (s *server) deletePage(c *echo.Context) error {
	return done(c, s.Edit.DeletePage(who(c), c.Param("page")))
}

func (s *server) duplicatePage(c *echo.Context) error {
	return created(c)(s.Edit.DuplicatePage(who(c), c.Param("page")))
}

// NewProfile says what a profile is called.
type NewProfile struct {
	Name string `json:"name"`
}

func (s *server) addProfile(c *echo.Context) error {
	var n NewProfile
	if err := read(c, &n, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddProfile(who(c), n.Name))
}

// Stand has a mapping stay on every page, or on one only.
type Stand struct {
	Stands bool   `json:"stands"`
	Page   string `json:"page"`
}

// Over names the keys that are hidden from now on, or whose place was taken.
type Over struct {
	Over []string `json:"over"`
}

func (s *server) stand(c *echo.Context) error {
	var b Stand
	if err := read(c, &b, false); err != nil {
		return err
	}
	over, err := s.Edit.Stand(who(c), c.Param("id"), b.Stands, b.Page)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Over{append([]string{}, over...)})
}

// DeskPlace is a place on the desk drawing, in CSS pixels.
type DeskPlace struct {
	X int `json:"x"`
	Y int `json:"y"`
}

func (s *server) place(c *echo.Context) error {
	var p DeskPlace
	if err := read(c, &p, false); err != nil {
		return err
	}
	return done(c, s.Edit.Place(who(c), c.Param("id"), p.X, p.Y))
}

// PageRef names a page.
type PageRef struct {
	Page string `json:"page"`
}

func (s *server) startPage(c *echo.Context) error {
	var p PageRef
	if err := read(c, &p, false); err != nil {
		return err
	}
	return done(c, s.Edit.Start(who(c), c.Param("id"), p.Page))
}

// showPage turns a controller to a page, as a key that goes there would.
func (s *server) showPage(c *echo.Context) error {
	at := time.Now()
	var p PageRef
	if err := read(c, &p, false); err != nil {
		return err
	}
	ct := s.Edit.Program().Controllers[c.Param("id")]
	if ct == nil {
		return fmt.Errorf("controller: %w", edit.ErrNotFound)
	}
	if page := s.Edit.Program().Show.Page(p.Page); page == nil || page.Layout != ct.Controller.Layout {
		return edit.FieldErrors{{Field: "page", Text: "The controller has no such page."}}
	}
	if err := given(c, ct.ID, ct.Name); err != nil {
		return err
	}
	by := s.request(c, at, "panel")
	s.Engine.Ask(engine.ShowPage{Request: by, Controller: ct.ID, Page: p.Page})
	return s.accepted(c, by)
}

// ControllerName is what a controller shall be called.
type ControllerName struct {
	Name string `json:"name"`
}

func (s *server) renameController(c *echo.Context) error {
	var f ControllerName
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.RenameController(who(c), c.Param("id"), f.Name))
}

func (s *server) removeController(c *echo.Context) error {
	return done(c, s.Edit.RemoveController(who(c), c.Param("id")))
}
