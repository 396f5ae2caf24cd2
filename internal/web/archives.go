package web

import (
	"bytes"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/archive"
	"synaptor/internal/core/parts"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/sheet"
)

// maxArchive is the largest archive that is taken.
//
//limit:bytes an archive that is imported | in the answer, 413
const maxArchive = 128 << 20

// archiveKept is how long an archive that was looked at waits for what shall become of it.
const archiveKept = 15 * time.Minute

// export gives the show that is open as an archive. What devices say now is with it unless that is not wanted: then the
// same show is the same bytes.
func (s *server) export(c *echo.Context) error { return s.exported(c, nil) }

// SealedExport asks for an archive with the passwords in it.
type SealedExport struct {
	Passphrase string `json:"passphrase"`
}

// exportSealed gives the archive with the passwords, sealed.
func (s *server) exportSealed(c *echo.Context) error {
	var f SealedExport
	if err := read(c, &f, false); err != nil {
		return err
	}
	passwords, err := s.Shows.Passwords()
	if err != nil {
		return err
	}
	sealed, err := archive.Seal(passwords, f.Passphrase)
	if err != nil {
		return unfit("passphrase", show.Sentence(err))
	}
	return s.exported(c, sealed)
}

// archiveNow is the show that is open with the sheets of its own, as an archive.
func (s *server) archiveNow() (archive.Archive, error) {
	a, err := s.Shows.Export()
	a.Sheets = s.Own.Files()
	return a, err
}

func (s *server) exported(c *echo.Context, sealed []byte) error {
	a, err := s.archiveNow()
	if err != nil {
		return err
	}
	a.Sealed = sealed
	if c.QueryParam("assumptions") != "none" {
		a.Assumed = s.Mirror.Current().Assumptions()
	}
	var b bytes.Buffer
	if err := archive.Write(&b, a); err != nil {
		return err
	}
	name := show.Slug(a.Show.Settings().Name, func(string) bool { return false })
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name+".synaptor.zip"))
	return c.Blob(http.StatusOK, "application/zip", b.Bytes())
}

// waiting is the archive that was looked at last.
type waiting struct {
	reading sync.Mutex // one at a time: what is small in a file can be large in memory
	mu      sync.Mutex
	token   string
	at      time.Time
	a       archive.Archive
}

func (w *waiting) keep(a archive.Archive) (token string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.token, w.at, w.a = rand.Text(), time.Now(), a
	time.AfterFunc(archiveKept, w.forget)
	return w.token
}

// forget lets go of it where nobody has come back.
func (w *waiting) forget() {
	w.mu.Lock()
	defer w.mu.Unlock()
	if time.Since(w.at) >= archiveKept {
		w.token, w.a = "", archive.Archive{}
	}
}

func (w *waiting) get(token string) (a archive.Archive, err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if token == "" || token != w.token {
		return a, fmt.Errorf("this archive is not here any more; choose the file again: %w", edit.ErrNotFound)
	}
	return w.a, nil
}

// ArchiveDoc is what is in an archive, before anything is done with it.
type ArchiveDoc struct {
	Token       string          `json:"token"`
	Name        string          `json:"name"`
	Devices     []ArchiveDevice `json:"devices"`
	Controllers []string        `json:"controllers"`
	Pages       int             `json:"pages"`
	Keys        int             `json:"keys"`
	Macros      int             `json:"macros"`
	Reflexes    int             `json:"reflexes"`
	// Fires names the reflexes that are on: they start something by themselves once it is open.
	Fires    []string       `json:"fires"`
	Pictures int            `json:"pictures"`
	Sealed   bool           `json:"sealed"` // passwords are in it
	Sheets   []ArchiveSheet `json:"sheets"`
}

// ArchiveDevice is a device that the show of an archive connects to once it is open.
type ArchiveDevice struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Type    string `json:"type"` // in words, where it is known
	Address string `json:"address"`
	// Problem is why it will not work here; empty: nothing is known.
	Problem string `json:"problem"`
}

// ArchiveSheet is a sheet of an archive.
type ArchiveSheet struct {
	File string `json:"file"`
	// State: new, same as the one here, other than the one here, or wrong.
	State string `json:"state"`
	Text  string `json:"text"` // why it is wrong
}

// States of a sheet of an archive.
const (
	sheetNew, sheetSame, sheetOther, sheetWrong = "new", "same", "other", "wrong"
)

func (s *server) lookAtArchive(c *echo.Context) error {
	s.archives.reading.Lock()
	defer s.archives.reading.Unlock()
	body, err := bodyOf(c.Request(), maxArchive)
	if err != nil {
		return err
	}
	a, err := archive.Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		return unfit("archive", show.Sentence(err))
	}
	doc := ArchiveDoc{Token: s.archives.keep(a), Name: a.Show.Settings().Name, Devices: []ArchiveDevice{}, Controllers: []string{}, Pages: len(a.Show.Pages()),
		Keys: len(a.Show.Mappings()), Macros: len(a.Show.Macros()), Reflexes: len(a.Show.Reflexes()), Fires: []string{}, Pictures: len(a.Media), Sealed: len(a.Sealed) > 0, Sheets: s.sheetsOf(a)}
	lib, err := sheet.Load(a.Folder)
	if err != nil {
		return err
	}
	for _, d := range a.Show.Devices() {
		row := ArchiveDevice{ID: d.ID, Name: d.Name, Type: d.Type, Address: d.Address()}
		if t := titleOfType(s.Edit.Sheets(), lib, d.Type); t != "" {
			row.Type = t
		} else {
			row.Problem = fmt.Sprintf("There is no sheet of the type %q, neither here nor in the archive.", d.Type)
		}
		doc.Devices = append(doc.Devices, row)
	}
	for _, k := range a.Show.Controllers() {
		doc.Controllers = append(doc.Controllers, k.Name)
	}
	for _, r := range a.Show.Reflexes() {
		if !r.Off {
			doc.Fires = append(doc.Fires, r.Name)
		}
	}
	return c.JSON(http.StatusOK, doc)
}

// titleOfType gives the title of a type of device in the first library that has it.
func titleOfType(here, there *sheet.Library, typ string) string {
	for _, l := range []*sheet.Library{here, there} {
		if t := l.Device(typ); t != nil {
			return t.Sheet.Title
		}
	}
	return ""
}

// sheetsOf tells of each sheet of an archive what it is beside those that are here.
func (s *server) sheetsOf(a archive.Archive) []ArchiveSheet {
	out := []ArchiveSheet{}
	for name, body := range a.Sheets {
		row := ArchiveSheet{File: name, State: sheetNew}
		typ, err := s.Own.Check(body)
		switch {
		case err != nil:
			row.State, row.Text = sheetWrong, show.Sentence(err)
		case s.Own.Known(body):
			row.State = sheetSame
		case s.Own.IsOwn(typ):
			row.State = sheetOther
		}
		out = append(out, row)
	}
	slices.SortFunc(out, func(a, b ArchiveSheet) int { return strings.Compare(a.File, b.File) })
	return out
}

// NewFromArchive says what becomes of an archive that was looked at.
type NewFromArchive struct {
	Name string `json:"name"`
	// Replace has its sheets take the place of others of the same type that are here.
	Replace bool `json:"replace"`
	// Passphrase opens the passwords that were sealed; empty: they are left out.
	Passphrase string `json:"passphrase"`
}

func (s *server) showFromArchive(c *echo.Context) error {
	var f NewFromArchive
	if err := read(c, &f, false); err != nil {
		return err
	}
	a, err := s.archives.get(c.Param("token"))
	if err != nil {
		return err
	}
	id, err := s.Shows.Import(c.Request().Context(), who(c), a, f.Name, f.Passphrase)
	if err != nil {
		return err
	}
	if err := s.takeSheets(a, f.Replace); err != nil {
		return errors.Join(err, s.Shows.Delete(id)) // without its sheets it is of no use
	}
	return c.JSON(http.StatusCreated, Created{id})
}

// ArchiveParts are the pages, profiles, macros and reflexes of an archive, and what here may stand in for its own devices and controllers.
type ArchiveParts struct {
	Pages    []ArchivePart `json:"pages"`
	Profiles []ArchivePart `json:"profiles"`
	Macros   []ArchivePart `json:"macros"`
	Reflexes []ArchivePart `json:"reflexes"`
	// StandIns are the ids of the devices here that can stand in, by the id of the archive's own; Devices is what is
	// proposed of them.
	StandIns map[string][]string `json:"standIns"`
	Devices  map[string]string   `json:"devices"`
	// Controllers is what is proposed of the controllers here, any of which can stand in.
	Controllers map[string]string `json:"controllers"`
}

// ArchivePart is a page, a profile, a macro or a reflex of an archive.
type ArchivePart struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Of   string `json:"of"` // a page's profile, by its name; a reflex's group
}

func (s *server) partsOfArchive(c *echo.Context) error {
	a, err := s.archives.get(c.Param("token"))
	if err != nil {
		return err
	}
	now := s.Edit.Program().Show
	out := ArchiveParts{Pages: []ArchivePart{}, Profiles: []ArchivePart{}, Macros: []ArchivePart{}, Reflexes: []ArchivePart{}, StandIns: parts.StandIns(now, a.Show), Devices: parts.Suggest(now, a.Show),
		Controllers: parts.SuggestControllers(now, a.Show)}
	for _, p := range a.Show.Pages() {
		part := ArchivePart{ID: p.ID, Name: p.Name}
		if profile := a.Show.Profile(p.Profile); profile != nil {
			part.Of = profile.Name
		}
		out.Pages = append(out.Pages, part)
	}
	for _, p := range a.Show.Profiles() {
		out.Profiles = append(out.Profiles, ArchivePart{ID: p.ID, Name: p.Name})
	}
	for _, m := range a.Show.Macros() {
		out.Macros = append(out.Macros, ArchivePart{ID: m.ID, Name: m.Name})
	}
	for _, r := range a.Show.Reflexes() {
		out.Reflexes = append(out.Reflexes, ArchivePart{ID: r.ID, Name: r.Name, Of: r.Group})
	}
	return c.JSON(http.StatusOK, out)
}

// TakeParts says what of an archive is taken into the show that is open.
type TakeParts struct {
	parts.Wish
	Only bool `json:"only"` // only tell what would become of it
}

func (s *server) takeParts(c *echo.Context) error {
	var f TakeParts
	if err := read(c, &f, false); err != nil {
		return err
	}
	a, err := s.archives.get(c.Param("token"))
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	rows, err := s.Shows.TakeParts(ctx, who(c), a, f.Wish, true)
	if err == nil && !f.Only { // it can be taken: its devices need their sheets first
		if err = s.takeSheets(a, false); err == nil {
			rows, err = s.Shows.TakeParts(ctx, who(c), a, f.Wish, false)
		}
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, rows)
}

// takeSheets adds the sheets of an archive that are not here.
func (s *server) takeSheets(a archive.Archive, replace bool) error {
	took := false
	for _, row := range s.sheetsOf(a) {
		if row.State != sheetNew && (row.State != sheetOther || !replace) {
			continue
		}
		if _, err := s.Own.Import(a.Sheets[row.File]); err != nil {
			return err
		}
		took = true
	}
	if !took {
		return nil
	}
	return s.reload()
}
