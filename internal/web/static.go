package web

import (
	_ "embed"
	"errors"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/archive"
	"synaptor/internal/edit"
	"synaptor/internal/sheet"
	"synaptor/internal/wire"
)

//go:embed openapi.json
var openAPI []byte

// static serves the interface: real paths for the application's views and for
// panels, and the built files, precompressed where the browser takes that.
func (s *server) static(e *echo.Echo) {
	for _, p := range []string{"/", "/rig", "/patch", "/macros", "/macros/:id", "/reflexes", "/reflexes/:id", "/preflight", "/patch/:page", "/patch/:page/:control", "/macros/:id/:step", "/rig/:kind/:id", "/rig/safe", "/rig/overlays", "/desk", "/desk/:part", "/journal", "/journal/:id"} {
		e.GET(p, func(c *echo.Context) error { return s.file(c, http.StatusOK, "index.html") })
	}
	e.GET("/panel", func(c *echo.Context) error { return s.file(c, http.StatusOK, "panel.html") })
	e.GET("/panel/:controller", func(c *echo.Context) error { return s.file(c, http.StatusOK, "panel.html") })
	e.GET("/overlay/:name", s.overlayPage)
	e.GET("/overlay/:name/events", s.overlayEvents)
	e.GET("/overlay/:name/picture/:id", s.overlayPicture)
	e.GET("/overlay/:name/portrait/:id/:mark", s.overlayPortrait)
	e.GET("/carry", func(c *echo.Context) error { return s.file(c, http.StatusOK, "panel.html") })
	e.GET("/legend/:controller", func(c *echo.Context) error { return s.file(c, http.StatusOK, "panel.html") })
	e.GET("/*", func(c *echo.Context) error {
		err := s.file(c, http.StatusOK, c.Param("*"))
		// Who mistypes an address in a browser is told so by the application.
		if errors.Is(err, echo.ErrNotFound) && strings.Contains(c.Request().Header.Get("Accept"), "text/html") && !strings.HasPrefix(c.Param("*"), "api/") {
			return s.file(c, http.StatusNotFound, "index.html")
		}
		return err
	})
}

// file hands out a built file, with a status.
func (s *server) file(c *echo.Context, status int, name string) error {
	name = path.Clean(name)
	if !fs.ValidPath(name) || strings.HasSuffix(name, ".gz") {
		return echo.ErrNotFound
	}
	body, err := fs.ReadFile(s.Files, name)
	if err != nil {
		if strings.HasSuffix(name, ".html") {
			return echo.NewHTTPError(http.StatusServiceUnavailable, "The interface was not built. Run make build.")
		}
		return echo.ErrNotFound
	}
	h := c.Response().Header()
	h.Set("Vary", "Accept-Encoding")
	if strings.Contains(c.Request().Header.Get("Accept-Encoding"), "gzip") {
		if z, err := fs.ReadFile(s.Files, name+".gz"); err == nil {
			h.Set("Content-Encoding", "gzip")
			body = z
		}
	}
	if strings.HasPrefix(name, "assets/") {
		h.Set("Cache-Control", "public, max-age=31536000, immutable") // names carry a hash
	} else {
		h.Set("Cache-Control", "no-cache")
	}
	typ := mime.TypeByExtension(path.Ext(name))
	if typ == "" {
		typ = http.DetectContentType(body)
	}
	return c.Blob(status, typ, body)
}

func (s *server) schema(c *echo.Context) error {
	name := strings.TrimSuffix(c.Param("name"), ".json")
	body := sheet.Schema(name)
	switch name {
	case archive.SchemaName:
		body = archive.Schema()
	case wire.SchemaName:
		body = wire.Schema()
	}
	if body == nil {
		return edit.ErrNotFound
	}
	return c.Blob(http.StatusOK, "application/schema+json", body)
}
