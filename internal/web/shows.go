package web

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/device"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/sheet"
)

// ShowDoc is the show as the interface reads it.
type ShowDoc struct {
	ID           string          `json:"id"`
	Name         string          `json:"name"`
	Devices      []DeviceDoc     `json:"devices"`
	Controllers  []ControllerDoc `json:"controllers"`
	Profiles     []*show.Profile `json:"profiles"`
	Pages        []PageDoc       `json:"pages"`
	Mappings     []MappingDoc    `json:"mappings"`
	DeviceTypes  []DeviceTypeDoc `json:"deviceTypes"`
	Layouts      []LayoutDoc     `json:"layouts"`
	SheetProblem []sheet.Problem `json:"sheetProblems"`
	Undo         string          `json:"undo"` // the edit that undo takes back; empty: none
	Redo         string          `json:"redo"`
	Bench        bool            `json:"bench"` // stand-ins run here
	OSCIn        string          `json:"oscIn"`
	Unread       string          `json:"unread"` // why the hardware of this computer itself cannot be read; empty: it can
	Journal      JournalHealth   `json:"journal"`
	// Aside is how many mappings have no control, because a sheet was made smaller.
	Aside int `json:"aside"`
}

// JournalHealth says what the journal had to drop, and why it cannot write.
type JournalHealth struct {
	Dropped int64  `json:"dropped"` // entries that were not kept
	Problem string `json:"problem"` // empty: all is well
	Waiting int    `json:"waiting"` // entries that are not on the disk yet
	Trimmed int64  `json:"trimmed"` // old entries that were let go since the start
}

// DeviceDoc is a device with its revision and what uses it.
type DeviceDoc struct {
	*show.Device
	Address  string   `json:"address"` // host and port as a person types them
	Rev      int64    `json:"rev"`
	Role     string   `json:"role"`
	TypeName string   `json:"typeName"`
	Uses     []string `json:"uses"` // titles of the mappings that use it
	// Login says which credentials its sheet asks for: none, password, basic,
	// bearer or challenge. HasPassword says that one is set; it is never shown.
	Login       string     `json:"login"`
	HasPassword bool       `json:"hasPassword"`
	Factory     bool       `json:"factory"` // the password is the one it was delivered with
	CanSecure   bool       `json:"canSecure"`
	Local       bool       `json:"local"` // needs no address
	Plain       bool       `json:"plain"` // takes messages written by hand
	Models      []ModelDoc `json:"models"`
}

// ModelDoc is a model that can be chosen.
type ModelDoc struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// ControllerDoc is a controller with its layout.
type ControllerDoc struct {
	*show.Controller
	Width    float64          `json:"width"` // of the layout, in keys
	Height   float64          `json:"height"`
	Controls []device.Control `json:"controls"`
	Zones    []string         `json:"zones"`
	Title    string           `json:"title"` // of the layout
	Links    []LinkDoc        `json:"links"`
}

// LinkDoc is a link with its revision and what is wrong with it. Bound has the bindings that count: its own, or where it has none those of the controller's sheet.
type LinkDoc struct {
	*show.Link
	Rev   int64          `json:"rev"`
	Bound []show.Binding `json:"bound"`
	// Findings are what somebody should look at.
	Findings []preflight.Finding `json:"findings"`
}

// PageDoc is a page with what answers on it, by control: its own mappings and
// those that stand on every page.
type PageDoc struct {
	*show.Page
	Controls map[string]string `json:"controls"`
}

// MappingDoc is a mapping with its revision.
type MappingDoc struct {
	*show.Mapping
	Rev int64 `json:"rev"`
}

// DeviceTypeDoc is a device type that can be added.
type DeviceTypeDoc struct {
	Type  string `json:"type"`
	Title string `json:"title"`
	Role  string `json:"role"`
	Port  int    `json:"port"`
	Login string `json:"login"` // as for devices
	User  string `json:"user"`  // its default user name
	Local bool   `json:"local"`
	// CanSecure says that it can be spoken to over TLS.
	CanSecure bool `json:"canSecure"`
	Own       bool `json:"own"` // one of the user's own sheets
	// LetIn says what has to be switched on at the device before it can be reached.
	LetIn string `json:"letIn"`
	Name  string `json:"name"` // proposed for such a device
}

// LayoutDoc is a controller layout that can be added.
type LayoutDoc struct {
	Type  string `json:"type"`
	Title string `json:"title"`
	Own   bool   `json:"own"` // one of the user's own sheets
}

func (s *server) show(c *echo.Context) error {
	snap := s.Edit.Program()
	sh := snap.Show
	doc := ShowDoc{ID: s.Shows.Current(), Name: sh.Settings().Name, Devices: []DeviceDoc{}, Controllers: []ControllerDoc{}, Profiles: sh.Profiles(), Pages: []PageDoc{},
		Mappings: []MappingDoc{}, DeviceTypes: []DeviceTypeDoc{}, Layouts: []LayoutDoc{}, SheetProblem: []sheet.Problem{}, Bench: s.Bench() != nil, OSCIn: s.OSCIn, Unread: s.Unread}
	for _, d := range sh.Devices() {
		row := DeviceDoc{Device: withoutSecret(d), Address: d.Address(), Rev: sh.Rev(d.Ref()), Role: "other", TypeName: d.Type, Uses: []string{},
			HasPassword: d.Secret != "", Models: []ModelDoc{}, Login: "none"}
		if t := snap.Sheets.Device(d.Type); t != nil {
			row.Role, row.TypeName = t.Sheet.Role, t.Sheet.Title
			row.Local, row.CanSecure = t.Driver.Local, t.Driver.Secure
			row.Plain = strings.HasPrefix(t.Sheet.Type, "plain.")
			for _, m := range t.Sheet.Models {
				row.Models = append(row.Models, ModelDoc{m.ID, m.Title})
			}
			if login := t.Sheet.Link.Login; login != nil {
				row.Login = login.Kind
				row.Factory = login.Factory != "" && d.Secret != "" && s.Edit.IsSecret(d.Secret, login.Factory)
			}
		}
		for _, m := range edit.UsesOf(sh, d.ID) {
			row.Uses = append(row.Uses, m.Title())
		}
		doc.Devices = append(doc.Devices, row)
	}
	for _, ct := range sh.Controllers() {
		cc := snap.Controllers[ct.ID]
		row := ControllerDoc{Controller: ct, Controls: []device.Control{}, Zones: []string{}, Title: ct.Layout, Links: []LinkDoc{}}
		if cc.Layout != nil {
			row.Controls, row.Zones, row.Title = cc.Layout.Controls(), cc.Layout.Zones(), cc.Layout.Title
		}
		row.Width, row.Height = device.Extent(row.Controls)
		for _, l := range sh.LinksOf(ct.ID) {
			row.Links = append(row.Links, LinkDoc{l, sh.Rev(l.Ref()), append([]show.Binding{}, cc.Layout.Bound(l)...), append([]preflight.Finding{}, preflight.Link(sh, l, snap.Sheets.Controller)...)})
		}
		doc.Controllers = append(doc.Controllers, row)
	}
	for _, p := range sh.Pages() {
		doc.Pages = append(doc.Pages, PageDoc{p, snap.AllOn(p)})
	}
	for _, m := range sh.Mappings() {
		doc.Mappings = append(doc.Mappings, MappingDoc{m, sh.Rev(m.Ref())})
	}
	for _, t := range snap.Sheets.Devices() {
		row := DeviceTypeDoc{Type: t.Sheet.Type, Title: t.Sheet.Title, Role: t.Sheet.Role, Port: t.Sheet.Link.Port, Login: "none",
			Local: t.Driver.Local, CanSecure: t.Driver.Secure, Own: s.Own.IsOwn(t.Sheet.Type), LetIn: t.Sheet.Link.LetIn, Name: t.Sheet.Plain()}
		if login := t.Sheet.Link.Login; login != nil {
			row.Login, row.User = login.Kind, login.User
		}
		doc.DeviceTypes = append(doc.DeviceTypes, row)
	}
	for _, l := range snap.Sheets.Controllers() {
		doc.Layouts = append(doc.Layouts, LayoutDoc{l.Type, l.Title, s.Own.IsOwn(l.Type)})
	}
	doc.Aside = len(s.Edit.Unplaced())
	doc.SheetProblem = append(doc.SheetProblem, snap.Sheets.Problems...)
	h := s.Journal.Health()
	doc.Journal = JournalHealth{Dropped: h.Dropped, Problem: h.Problem, Waiting: h.Waiting, Trimmed: h.Trimmed}
	var err error
	if doc.Undo, doc.Redo, err = s.Edit.Next(who(c)); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, doc)
}

// withoutSecret is a device as the API shows it.
func withoutSecret(d *show.Device) *show.Device {
	shown := *d
	shown.Secret = ""
	return &shown
}

func (s *server) edits(c *echo.Context) error {
	rows, err := s.Edit.History(who(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, rows)
}

// Stepped says which edit was undone or done again; empty: there was none.
type Stepped struct {
	Name string `json:"name"`
}

// UndoBody says which edit undo passes over for good, because it is blocked.
type UndoBody struct {
	Past int64 `json:"past,omitempty"`
}

func (s *server) undo(c *echo.Context) error {
	var b UndoBody
	if err := read(c, &b, true); err != nil {
		return err
	}
	name, err := s.Edit.Undo(who(c), b.Past)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Stepped{name})
}

func (s *server) redo(c *echo.Context) error {
	name, err := s.Edit.Redo(who(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Stepped{name})
}

// NewController is a controller to add.
type NewController struct {
	Name   string `json:"name"`
	Layout string `json:"layout"`
}

func (s *server) addController(c *echo.Context) error {
	var f NewController
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := s.Edit.AddController(who(c), f.Name, f.Layout)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Created{id})
}
