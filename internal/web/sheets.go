package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/sheet"
)

func (s *server) importSheet(c *echo.Context) error {
	body, err := bodyOf(c.Request(), maxBody)
	if err != nil {
		return err
	}
	typ, err := s.Own.Check(body)
	var wrong sheet.Problems
	if errors.As(err, &wrong) {
		var fields edit.FieldErrors
		for _, p := range wrong {
			fields = append(fields, &show.FieldError{Field: "sheet", Text: fmt.Sprintf("Line %d: %s.", p.Line, p.Said())})
		}
		return fields
	}
	if err != nil {
		return err
	}
	doc := ImportedSheet{Type: typ, Replaces: s.Own.IsOwn(typ), Reconnects: []string{}}
	if !s.Own.Known(body) {
		doc.Reconnects = s.Edit.Reconnects(typ)
	}
	if c.QueryParam("check") != "" {
		return c.JSON(http.StatusOK, doc)
	}
	if _, err := s.Own.Import(body); err != nil {
		return err
	}
	if err := s.reload(); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, doc)
}

// ImportedSheet is a sheet that was imported, or was checked.
type ImportedSheet struct {
	Type     string `json:"type"`
	Replaces bool   `json:"replaces"` // there was one of this type
	// Reconnects names the devices whose links are made anew.
	Reconnects []string `json:"reconnects"`
}

func (s *server) removeSheet(c *echo.Context) error {
	typ := c.Param("type")
	for _, d := range s.Edit.Program().Show.Devices() {
		if d.Type == typ {
			return unfit("type", d.Name+" uses this sheet. Give it another one first.")
		}
	}
	for _, ct := range s.Edit.Program().Show.Controllers() {
		if ct.Layout == typ {
			return unfit("type", ct.Name+" has this layout. Take it off the desk first.")
		}
	}
	if s.Own.Remove(typ) != nil {
		return edit.ErrNotFound
	}
	if err := s.reload(); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// removeSheetFile removes a file of the folder that was left out, since it is no sheet
// or has the type of another one.
func (s *server) removeSheetFile(c *echo.Context) error {
	file := c.Param("file")
	if !slices.ContainsFunc(s.Edit.Program().Sheets.Problems, func(p sheet.Problem) bool { return p.File == file }) {
		return edit.ErrNotFound
	}
	if err := s.Own.RemoveFile(file); err != nil {
		return err
	}
	if err := s.reload(); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// reload reads all sheets again.
func (s *server) reload() error {
	lib, err := s.Own.Load()
	if err != nil {
		return err
	}
	s.Edit.SetSheets(lib)
	return nil
}

// sheetOf gives the sheet of a type as a file.
func (s *server) sheetOf(c *echo.Context) error {
	if l := s.Edit.Program().Sheets.Controller(c.Param("type")); l != nil {
		c.Response().Header().Set("Content-Disposition", `attachment; filename="`+l.Type+`.json"`)
		return c.JSONPretty(http.StatusOK, l, "  ")
	}
	t := s.Edit.Program().Sheets.Device(c.Param("type"))
	if t == nil {
		return edit.ErrNotFound
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+t.Sheet.Type+`.json"`)
	return c.JSONPretty(http.StatusOK, t.Sheet, "  ")
}

func (s *server) promote(c *echo.Context) error {
	var n edit.NewSheet
	if err := read(c, &n, false); err != nil {
		return err
	}
	typ, err := s.Edit.Promote(who(c), c.Param("id"), n, func(body []byte) (*sheet.Library, error) {
		if _, err := s.Own.Import(body); err != nil {
			return nil, err
		}
		return s.Own.Load()
	})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, SheetDoc{typ})
}
