package web

import (
	"errors"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/edit"
	"synaptor/internal/media"
)

func (s *server) listMedia(c *echo.Context) error {
	rows, err := s.Edit.AllMedia()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, rows)
}

// addMedia takes a picture as the body of the request, whatever it says it is.
func (s *server) addMedia(c *echo.Context) error {
	body, err := bodyOf(c.Request(), media.MaxBytes)
	if err != nil {
		return err
	}
	id, err := s.Edit.AddMedia(c.Request().Context(), c.QueryParam("name"), body)
	var refused *media.RefusedError
	if errors.As(err, &refused) {
		return unfit("picture", refused.Text)
	}
	return created(c)(id, err)
}

// mediaBody gives a picture. Its id is that of its bytes, so it never changes; what
// a drawing could still do is forbidden by its policy.
func (s *server) mediaBody(c *echo.Context) error {
	body, kind, err := s.Edit.MediaBody(c.Param("id"))
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Cache-Control", "private, max-age=31536000, immutable")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	h.Set("X-Content-Type-Options", "nosniff")
	return c.Blob(http.StatusOK, kind, body)
}

// MediaName is what a picture is called, and its tags.
type MediaName struct {
	Name string `json:"name"`
	Tags string `json:"tags"`
}

func (s *server) nameMedia(c *echo.Context) error {
	var n MediaName
	if err := read(c, &n, false); err != nil {
		return err
	}
	return done(c, s.Edit.NameMedia(c.Param("id"), n.Name, n.Tags))
}

func (s *server) deleteMedia(c *echo.Context) error {
	return done(c, s.Edit.DeleteMedia(c.Param("id")))
}

// glyphs gives all glyphs as one drawing of symbols.
func (s *server) glyphs(c *echo.Context) error {
	c.Response().Header().Set("Cache-Control", "private, max-age=3600")
	return c.Blob(http.StatusOK, "image/svg+xml", []byte(face.Sprite()))
}

func (s *server) glyphNames(c *echo.Context) error {
	return c.JSON(http.StatusOK, face.Glyphs())
}

func (s *server) copyFace(c *echo.Context) error {
	var f edit.FaceCopy
	if err := read(c, &f, false); err != nil {
		return err
	}
	n, err := s.Edit.CopyFace(who(c), c.Param("page"), f)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Count{n})
}

// Count says how many were changed.
type Count struct {
	Count int `json:"count"`
}

// ReadingValues are the values that a reading can have, for sentences that compare
// it.
type ReadingValues struct {
	Number bool           `json:"number"`
	Values []device.Named `json:"values"` // empty: a number, or any text
}

func (s *server) readingValues(c *echo.Context) error {
	v := s.Mirror.View()
	d, path := v.Program.Devices[c.Param("id")], c.QueryParam("path")
	if d == nil || d.Type == nil || d.Type.Reading(path) == nil {
		return edit.ErrNotFound
	}
	values := append([]device.Named{}, d.Type.ValuesOf(d.ID, path, v)...)
	return c.JSON(http.StatusOK, ReadingValues{Number: d.Type.IsNumber(path), Values: values})
}

// TriedState is a state of a face that is tried out for some seconds; empty ends
// it.
type TriedState struct {
	State   string `json:"state"`
	Seconds int    `json:"seconds"`
}

func (s *server) tryState(c *echo.Context) error {
	var t TriedState
	if err := read(c, &t, false); err != nil {
		return err
	}
	if t.Seconds < 0 || t.Seconds > 600 {
		return unfit("seconds", "A state is tried out for at most 600 seconds.")
	}
	if !s.Mirror.Force(c.Param("id"), t.State, time.Now().Add(time.Duration(t.Seconds)*time.Second)) {
		return edit.ErrNotFound
	}
	return c.NoContent(http.StatusNoContent)
}
