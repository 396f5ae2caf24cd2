package web

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
	"synaptor/internal/store"
)

// ShowList are the shows of the data folder.
type ShowList struct {
	Open  string           `json:"open"` // the id of the one in force
	Shows []store.ShowInfo `json:"shows"`
}

func (s *server) listShows(c *echo.Context) error {
	list, err := s.Shows.List()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, ShowList{s.Shows.Current(), list})
}

// NewShow is a show to add.
type NewShow struct {
	Name string `json:"name"`
	From string `json:"from"` // the id of the show it begins as; empty: with nothing in it
}

func (s *server) addShow(c *echo.Context) error {
	var f NewShow
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := s.Shows.Make(f.Name, f.From)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Created{id})
}

func (s *server) addDemo(c *echo.Context) error { return created(c)(s.Demo(who(c))) }

func (s *server) listBackups(c *echo.Context) error {
	list, err := s.Shows.Backups()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, list)
}

func (s *server) addBackup(c *echo.Context) error {
	b, err := s.Shows.Back()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, b)
}

// BackupFolder says where copies are kept.
type BackupFolder struct {
	Folder string `json:"folder"` // a whole path; empty: the usual one
}

func (s *server) chooseBackupFolder(c *echo.Context) error {
	var f BackupFolder
	if err := read(c, &f, false); err != nil {
		return err
	}
	if err := s.Shows.ChooseBackupFolder(f.Folder); err != nil {
		return unfit("folder", show.Sentence(err))
	}
	return c.NoContent(http.StatusNoContent)
}

// ShowName is what a show shall be called.
type ShowName struct {
	Name string `json:"name"`
}

func (s *server) renameShow(c *echo.Context) error {
	var f ShowName
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Shows.Rename(who(c), c.Param("id"), f.Name))
}

func (s *server) deleteShow(c *echo.Context) error { return done(c, s.Shows.Delete(c.Param("id"))) }

func (s *server) undeleteShow(c *echo.Context) error { return done(c, s.Shows.Undelete(c.Param("id"))) }

func (s *server) lookAtShow(c *echo.Context) error {
	o, err := s.Shows.Look(c.Param("id"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, o)
}

// OpenShow says how a show is opened.
type OpenShow struct {
	Sure bool `json:"sure"` // what goes on shall end
}

func (s *server) openShow(c *echo.Context) error {
	var f OpenShow
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Shows.Put(who(c), c.Param("id"), f.Sure))
}
