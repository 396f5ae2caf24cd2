package web

import (
	"context"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
)

func (s *server) listVersions(c *echo.Context) error {
	list, err := s.Edit.Versions()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, list)
}

// VersionName is what a version shall be called.
type VersionName struct {
	Name string `json:"name"`
}

// MadeVersion is a version that was kept.
type MadeVersion struct {
	ID int64 `json:"id"`
}

func (s *server) keepVersion(c *echo.Context) error {
	var f VersionName
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := s.Edit.KeepVersion(who(c), f.Name)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, MadeVersion{id})
}

// versionID reads the number of a version; 0 is the show as it is.
func versionID(text string) (int64, error) {
	id, err := strconv.ParseInt(text, 10, 64)
	if err != nil || id < 0 {
		return 0, unfit("version", "The number of a version is a whole number; 0 is the show as it is.")
	}
	return id, nil
}

func (s *server) nameVersion(c *echo.Context) error {
	var f VersionName
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := versionID(c.Param("id"))
	if err != nil {
		return err
	}
	return done(c, s.Edit.NameVersion(id, f.Name))
}

func (s *server) dropVersion(c *echo.Context) error {
	id, err := versionID(c.Param("id"))
	if err != nil {
		return err
	}
	return done(c, s.Edit.DropVersion(id))
}

func (s *server) compareVersions(c *echo.Context) error {
	from, err := versionID(c.Param("id"))
	if err != nil {
		return err
	}
	to := int64(0)
	if text := c.QueryParam("with"); text != "" {
		if to, err = versionID(text); err != nil {
			return err
		}
	}
	return s.work(c, func(context.Context) error {
		list, err := s.Edit.CompareVersions(from, to)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, list)
	})
}

// Restoration says what of a version comes back; nothing: all of it.
type Restoration struct {
	Only []show.Ref `json:"only"`
}

func (s *server) restoreVersion(c *echo.Context) error {
	var f Restoration
	if err := read(c, &f, true); err != nil {
		return err
	}
	id, err := versionID(c.Param("id"))
	if err != nil {
		return err
	}
	return done(c, s.Edit.Restore(who(c), id, f.Only))
}
