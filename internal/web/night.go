package web

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/archive"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
	"synaptor/internal/mirror"
	"synaptor/internal/night"
	"synaptor/internal/store"
)

// nightSources are what a report of the show that is open is made of.
func (s *server) nightSources() night.Sources {
	v := s.Mirror.Current()
	return night.Sources{Program: v.Program, Paths: v.Paths, Show: s.Shows.Current(), Journal: s.JournalDB, History: s.History, Markers: s.Markers}
}

// recordings lists when something was streamed or recorded: what markers can be placed in.
func (s *server) recordings(c *echo.Context) error {
	from, to, err := span(c)
	if err != nil {
		return err
	}
	out, err := night.OnAir(s.nightSources(), from, to)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// ClosingDoc is what has to be looked at before a night is over.
type ClosingDoc struct {
	Still []mirror.StillOn `json:"still"`
	// Since is when the night began, as far as anybody can tell: with what was streamed or recorded first within a day, else twelve hours ago.
	Since  time.Time    `json:"since"`
	Nights []night.Kept `json:"nights"`
}

func (s *server) closing(c *echo.Context) error {
	v := s.Mirror.Current()
	doc := ClosingDoc{Still: v.StillOn()}
	var err error
	if doc.Since, err = night.Began(s.nightSources(), time.Now()); err != nil {
		return err
	}
	if doc.Nights, err = s.Nights.List(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, doc)
}

// ClosingForm says which time is closed. Since is when it began; where it is left out, it is found.
type ClosingForm struct {
	Since time.Time `json:"since,omitzero"`
	// Name is that of the version of the show that is kept.
	Name string `json:"name"`
}

// SavedRow says what was saved, or why it was not.
type SavedRow struct {
	What    string `json:"what"`
	Text    string `json:"text"`
	Problem string `json:"problem,omitempty"`
}

// ClosedNight is what became of it.
type ClosedNight struct {
	Saved []SavedRow `json:"saved"`
	// Night is that of the files; empty: none were kept.
	Night string `json:"night,omitempty"`
}

// closeNight saves the version, a copy of the data, and the files of the night. Each is whole or not there; what could not be saved is said, and the
// others are saved all the same.
func (s *server) closeNight(c *echo.Context) error {
	var f ClosingForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if text := show.CheckName(f.Name); text != "" {
		return edit.FieldErrors{{Field: "name", Text: text}}
	}
	now, doc := time.Now(), ClosedNight{Saved: []SavedRow{}}
	saved := func(what, text string, err error) {
		row := SavedRow{What: what, Text: text}
		if err != nil {
			row.Problem = show.Sentence(store.InWords(err))
		}
		doc.Saved = append(doc.Saved, row)
	}
	_, err := s.Edit.KeepVersion(who(c), f.Name)
	saved("version", fmt.Sprintf("The show is kept as the version “%s”.", f.Name), err)
	files, err := s.nightFiles(f.Since, now)
	if err == nil {
		doc.Night, err = s.Nights.Keep(s.Edit.Program().Show.Settings().Name, now.In(s.Edit.Program().TimeZone), files)
	}
	saved("files", "The report, the markers, the journal and an archive of the show are kept.", err)
	b, err := s.Shows.Back()
	saved("backup", "A copy of all data is kept: "+b.Name+".", err)
	return c.JSON(http.StatusOK, doc)
}

// nightFiles are those of a night until now: its report, its markers, its journal and the show.
func (s *server) nightFiles(since, now time.Time) ([]night.File, error) {
	if err := s.Journal.Flush(); err != nil {
		return nil, err
	}
	if since.IsZero() {
		var err error
		if since, err = night.Began(s.nightSources(), now); err != nil {
			return nil, err
		}
	}
	r, err := night.Make(s.nightSources(), since, now)
	if err != nil {
		return nil, err
	}
	a, err := s.archiveNow()
	if err != nil {
		return nil, err
	}
	began := since
	if len(r.OnAir) > 0 {
		began = r.OnAir[0].From
	}
	rec, err := s.recordingOf(began, "")
	if err != nil {
		return nil, err
	}
	return r.Files(s.Edit.Program().TimeZone, rec, func(w io.Writer) error { return s.journalTable(w, since, now) },
		func(w io.Writer) error { return archive.Write(w, a) }), nil
}

// nightReport gives the report of a time as a page, as a table or as JSON.
func (s *server) nightReport(c *echo.Context) error {
	_, to, err := span(c)
	if err != nil {
		return err
	}
	w, _ := wantedOf(c) // it was read by span
	since := w.Since
	if since.IsZero() {
		if since, err = night.Began(s.nightSources(), to); err != nil {
			return err
		}
	}
	if err := s.Journal.Flush(); err != nil {
		return err
	}
	r, err := night.Make(s.nightSources(), since, to)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	switch c.QueryParam("form") {
	case "", "html":
		if err := r.HTML(&b, s.Edit.Program().TimeZone); err != nil {
			return err
		}
		c.Response().Header().Set("Content-Security-Policy", onPaper)
		return c.Blob(http.StatusOK, "text/html; charset=utf-8", b.Bytes())
	case "csv":
		if err := r.CSV(&b); err != nil {
			return err
		}
		return attachment(c, r.Name+" night report.csv", "text/csv; charset=utf-8", b.Bytes())
	case "json":
		return c.JSON(http.StatusOK, r)
	}
	return &badBody{"form", "A report is html, csv or json."}
}

// nightFile gives a file of a night that was closed.
func (s *server) nightFile(c *echo.Context) error {
	f, err := s.Nights.Open(c.Param("id"), c.Param("file"))
	if errors.Is(err, night.ErrNone) {
		return fmt.Errorf("%w: %w", err, edit.ErrNotFound)
	}
	if err != nil {
		return err
	}
	defer func(f *os.File) { _ = f.Close() }(f)
	if filepath.Ext(c.Param("file")) == ".html" {
		c.Response().Header().Set("Content-Security-Policy", onPaper)
		return c.Stream(http.StatusOK, "text/html; charset=utf-8", f)
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", c.Param("file")))
	return c.Stream(http.StatusOK, "application/octet-stream", f)
}

// maxTable is how many entries of the journal are written as a table: all that are kept.
//
//limit:count entries of the journal as a table | nowhere; older ones are left out
const maxTable = 200_000

func (s *server) journalTable(w io.Writer, since, until time.Time) error {
	return s.Journal.CSV(w, journal.Wanted{Show: s.Shows.Current(), Since: since, Until: until, Limit: maxTable})
}

// exportJournal writes the entries that are wanted as a table.
func (s *server) exportJournal(c *echo.Context) error {
	w, err := wantedOf(c)
	if err != nil {
		return err
	}
	if w.Limit = maxTable; c.QueryParam("of") != "all" {
		w.Show = s.Shows.Current()
	}
	name := s.Edit.Program().Show.Settings().Name + " journal.csv"
	var b bytes.Buffer
	if err := s.Journal.CSV(&b, w); err != nil {
		return err
	}
	return attachment(c, name, "text/csv; charset=utf-8", b.Bytes())
}

// uses says how often each control was used in a time.
func (s *server) uses(c *echo.Context) error {
	from, to, err := span(c)
	if err != nil {
		return err
	}
	if err := s.Journal.Flush(); err != nil {
		return err
	}
	const most = 2000
	out, err := s.JournalDB.Uses(s.Shows.Current(), from, to, most)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}
