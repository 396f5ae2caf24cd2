package web

import (
	"net/http"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/reach"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/mirror"
	"synaptor/internal/print"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// Controls names controls of a page.
type Controls struct {
	Controls []string `json:"controls"`
}

func (s *server) clearMany(c *echo.Context) error {
	var b Controls
	if err := read(c, &b, false); err != nil {
		return err
	}
	return done(c, s.Edit.Clear(who(c), c.Param("page"), b.Controls))
}

// PageName is what a page is to be called.
type PageName struct {
	Name string `json:"name"`
}

func (s *server) pageBehind(c *echo.Context) error {
	var b PageName
	if err := read(c, &b, false); err != nil {
		return err
	}
	return created(c)(s.Edit.PageBehind(who(c), c.Param("page"), c.Param("control"), b.Name))
}

// Extraction says which controls go to a new page, and what it is called.
type Extraction struct {
	Controls []string `json:"controls"`
	Name     string   `json:"name"`
}

func (s *server) extract(c *echo.Context) error {
	var b Extraction
	if err := read(c, &b, false); err != nil {
		return err
	}
	return created(c)(s.Edit.Extract(who(c), c.Param("page"), b.Controls, b.Name))
}

func (s *server) launcher(c *echo.Context) error {
	var n edit.NewPage
	if err := read(c, &n, false); err != nil {
		return err
	}
	return created(c)(s.Edit.Launcher(who(c), n))
}

// NoteList has notes by control.
type NoteList struct {
	Notes map[string]string `json:"notes"`
}

func (s *server) notes(c *echo.Context) error {
	var n NoteList
	if err := read(c, &n, false); err != nil {
		return err
	}
	return done(c, s.Edit.Notes(who(c), c.Param("page"), n.Notes))
}

// pageMap draws how one gets from page to page of a profile.
func (s *server) pageMap(c *echo.Context) error {
	snap := s.Edit.Program()
	if snap.Show.Profile(c.Param("id")) == nil {
		return edit.ErrNotFound
	}
	maps := reach.Of(snap.Show, c.Param("id"), layoutsInUse(snap), func(p *show.Page, control string) *show.Mapping {
		if m := snap.On(p, control); m != nil {
			return m.Source
		}
		return nil
	})
	out := []PageMapDoc{}
	for _, m := range maps {
		doc := PageMapDoc{Map: m}
		lost := slices.ContainsFunc(m.Pages, func(p reach.Page) bool { return p.Presses < 0 || !p.WayBack })
		if l := snap.Sheets.Controller(m.Layout); l != nil && lost {
			doc.Through = edit.PlanThrough(snap.Show, l, c.Param("id"), m.Zone)
		}
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

// PageMapDoc is how one gets from page to page of a zone. Where one cannot, Through proposes how one could.
type PageMapDoc struct {
	reach.Map
	Through *edit.Through `json:"through,omitempty"`
}

// goThrough has one go through the pages of a zone by gestures.
func (s *server) goThrough(c *echo.Context) error {
	var p edit.NewPage
	if err := read(c, &p, false); err != nil {
		return err
	}
	return done(c, s.Edit.GoThrough(who(c), p))
}

// layoutsInUse lists the layouts of the controllers on the desk, each once.
func layoutsInUse(snap *program.Program) (out []*device.ControllerSheet) {
	for _, ct := range snap.Show.Controllers() {
		if l := snap.Controllers[ct.ID].Layout; l != nil && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

// ProfileChange is what is changed of a profile: its name, or its place.
type ProfileChange struct {
	Name     *string `json:"name,omitempty"`
	Position *int    `json:"position,omitempty"`
}

func (s *server) editProfile(c *echo.Context) error {
	var p ProfileChange
	if err := read(c, &p, false); err != nil {
		return err
	}
	switch {
	case p.Name != nil:
		return done(c, s.Edit.RenameProfile(who(c), c.Param("id"), *p.Name))
	case p.Position != nil:
		return done(c, s.Edit.MoveProfile(who(c), c.Param("id"), *p.Position))
	}
	return unfit("name", "Say what to change: the name, or the position.")
}

func (s *server) deleteProfile(c *echo.Context) error {
	return done(c, s.Edit.DeleteProfile(who(c), c.Param("id")))
}

func (s *server) duplicateProfile(c *echo.Context) error {
	return created(c)(s.Edit.DuplicateProfile(who(c), c.Param("id")))
}

// ProfileRef names a profile; Start has the controller begin with it, else it is
// put in force now.
type ProfileRef struct {
	Profile string `json:"profile"`
	Start   bool   `json:"start,omitempty"`
}

func (s *server) setProfile(c *echo.Context) error {
	at := time.Now()
	var p ProfileRef
	if err := read(c, &p, false); err != nil {
		return err
	}
	snap := s.Edit.Program()
	ct := snap.Controllers[c.Param("id")]
	if ct == nil || snap.Show.Profile(p.Profile) == nil {
		return edit.ErrNotFound
	}
	if p.Start {
		return done(c, s.Edit.StartProfile(who(c), ct.ID, p.Profile))
	}
	if s.Edit.Program().Show.Profile(p.Profile) == nil {
		return edit.FieldErrors{{Field: "profile", Text: "There is no such profile."}}
	}
	by := s.request(c, at, "panel")
	s.Engine.Ask(engine.UseProfile{Request: by, Controller: ct.ID, Profile: p.Profile})
	return s.accepted(c, by)
}

// request is what somebody asks the engine for, with the journal entry it gets.
func (s *server) request(c *echo.Context, at time.Time, via string) engine.Request {
	return engine.Request{Entry: journal.NextID(), At: at, Via: via, Actor: actor(c), By: visitorOf(c).ID}
}

// accepted answers with the entry of what was asked for, which the engine has by now.
func (s *server) accepted(c *echo.Context, by engine.Request) error {
	s.Journal.Announce(by.Entry, by.At)
	return c.JSON(http.StatusAccepted, Created{by.Entry})
}

func (s *server) unplaced(c *echo.Context) error { return c.JSON(http.StatusOK, s.Edit.Unplaced()) }

// LeftOut names the gestures that a new control cannot make.
type LeftOut struct {
	Left []string `json:"left"`
}

func (s *server) bringBack(c *echo.Context) error {
	var b edit.Back
	if err := read(c, &b, false); err != nil {
		return err
	}
	left, err := s.Edit.BringBack(who(c), b)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, LeftOut{append([]string{}, left...)})
}

// LayoutPreview are the controls that a controller sheet makes, or what is wrong
// with it.
type LayoutPreview struct {
	Controls []device.Control `json:"controls"`
	Width    float64          `json:"width"` // in keys
	Height   float64          `json:"height"`
	Problem  string           `json:"problem"`
}

// previewLayout works out the controls of a controller sheet without keeping it.
func (s *server) previewLayout(c *echo.Context) error {
	body, err := bodyOf(c.Request(), maxBody)
	if err != nil {
		return err
	}
	out := LayoutPreview{Controls: []device.Control{}}
	l, p := sheet.ParseController("layout", body)
	if p != nil {
		out.Problem = p[0].Reason
		for _, more := range p[1:] {
			out.Problem += "; " + more.Reason
		}
		return c.JSON(http.StatusOK, out)
	}
	out.Controls = l.Controls()
	out.Width, out.Height = device.Extent(out.Controls)
	return c.JSON(http.StatusOK, out)
}

// printed prints pages: those of a profile for a layout, or one of them.
func (s *server) printed(c *echo.Context) error {
	id := c.Param("page")
	pages := s.pagesToPrint(s.Mirror.View(), func(p *show.Page) bool { return id == p.ID || id == "all" && p.Profile == c.QueryParam("profile") })
	if len(pages) == 0 {
		return edit.ErrNotFound
	}
	c.Response().Header().Set("Content-Security-Policy", onPaper)
	draw := print.Keys
	if c.QueryParam("what") == "gestures" {
		draw = print.Gestures
	}
	return c.Blob(http.StatusOK, "image/svg+xml", []byte(draw(pages)))
}

// pagesToPrint gathers the pages that are wanted, with their pictures.
func (s *server) pagesToPrint(v *mirror.View, wanted func(*show.Page) bool) (pages []print.Page) {
	for _, p := range v.Program.Show.Pages() {
		page, ok := print.Page{}, wanted(p)
		if ok {
			page, ok = printPage(v, p)
		}
		if !ok {
			continue
		}
		page.Picture = func(id string) ([]byte, string) {
			body, kind, err := s.Edit.MediaBody(id)
			if err != nil {
				return nil, ""
			}
			return body, kind
		}
		pages = append(pages, page)
	}
	return pages
}

// printPage gathers what is printed of a page; ok is false without its layout.
func printPage(v *mirror.View, p *show.Page) (out print.Page, ok bool) {
	l := v.Program.Sheets.Controller(p.Layout)
	if l == nil {
		return out, false
	}
	out = print.Page{Show: v.Program.Show.Settings().Name, Controller: l.Title, Name: p.Name, Faces: map[string]face.Face{}, Notes: p.Notes}
	if profile := v.Program.Show.Profile(p.Profile); profile != nil {
		out.Profile = profile.Name
	}
	for _, ct := range v.Program.Show.Controllers() {
		if ct.Layout == p.Layout {
			out.Controller = ct.Name
			break
		}
	}
	for _, ctl := range l.Controls() {
		if ctl.Zone != p.Zone {
			continue
		}
		out.Controls = append(out.Controls, ctl)
		m := v.Program.On(p, ctl.ID)
		if m == nil {
			continue
		}
		out.Faces[ctl.ID], _ = v.FaceIn(m, "rest")
		for _, g := range ctl.Gestures {
			r := m.Responses[g]
			if r == nil {
				continue
			}
			row := print.Row{Control: ctl.ID, Gesture: g, Does: r.Problem}
			if r.Bound != nil {
				row.Does = r.Bound.Title.Text(v)
			}
			if guard := m.Source.Guard; guard != nil {
				row.Guard = map[string]string{"hold": "hold it", "twice": "press twice", "cover": "lift the cover first"}[guard.Kind]
			}
			out.Gestures = append(out.Gestures, row)
		}
	}
	return out, true
}
