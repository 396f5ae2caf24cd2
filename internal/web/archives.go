package web

import (
	"bytes"
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/archive"
	"synaptor/internal/core/show"
)

// export gives the whole show in one file, with what is known now as the assumptions
// of rehearsals.
func (s *server) export(c *echo.Context) error {
	a := archive.Archive{Sheets: s.Own.Files()}
	v := s.Mirror.Current()
	a.Show, a.Assumed = v.Program.Show, v.Assumptions()
	var b bytes.Buffer
	if err := archive.Write(&b, a); err != nil {
		return err
	}
	name := show.Slug(a.Show.Settings().Name, func(string) bool { return false })
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name+".synaptor.zip"))
	return c.Blob(http.StatusOK, "application/zip", b.Bytes())
}
