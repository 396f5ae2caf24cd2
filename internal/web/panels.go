package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/certs"
	"synaptor/internal/people"
	"synaptor/internal/program"
)

// PersonForm is somebody, or a panel, that is to get in.
type PersonForm struct {
	Name   string         `json:"name"`
	Role   access.Role    `json:"role"`
	Rights *access.Rights `json:"rights,omitempty"`
	// Panel says that it is a panel, which is paired; else it is somebody who is invited. Tonight ends its right by itself.
	Panel   bool `json:"panel,omitempty"`
	Tonight bool `json:"tonight,omitempty"`
}

// expect lists somebody, or a panel, with what they may do; a way in comes after that.
func (s *server) expect(c *echo.Context) error {
	var f PersonForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	var who people.Who
	var err error
	if f.Panel {
		within := time.Duration(0)
		if f.Tonight {
			within = people.Tonight
		}
		who, err = s.People.AddPanel(f.Name, f.Role, f.Rights, within)
	} else {
		who, err = s.People.Expect(f.Name, f.Role, f.Rights)
	}
	if err != nil {
		return err
	}
	s.noteAccess(c, who.Name+" may come, as "+article(who.Role), visitorOf(c).Name, nil)
	return c.JSON(http.StatusCreated, who)
}

// claimedFirst fails where nobody has set a passphrase: so far everybody who reaches Synaptor is its owner.
func (s *server) claimedFirst(field string) error {
	if s.People.Claimed() {
		return nil
	}
	return unfit(field, "Set a passphrase first: so far everybody who reaches Synaptor is its owner.")
}

func (s *server) inviteExpected(c *echo.Context) error {
	if err := s.claimedFirst("id"); err != nil {
		return err
	}
	v := visitorOf(c)
	who, _ := s.People.Person(c.Param("id"))
	link, until, err := s.People.InviteExpected(v.ID, c.Param("id"))
	if err != nil {
		return err
	}
	s.noteAccess(c, v.Name+" has invited "+who.Name, v.Name, nil)
	return c.JSON(http.StatusCreated, Invited{"/invitation/" + link, until.UTC()})
}

// pair begins the pairing of a panel.
func (s *server) pair(c *echo.Context) error {
	if err := s.claimedFirst("id"); err != nil {
		return err
	}
	who, _ := s.People.Person(c.Param("id"))
	p, err := s.People.Pair(c.Param("id"))
	if err != nil {
		return err
	}
	s.noteAccess(c, "A code was made for "+who.Name, visitorOf(c).Name, nil)
	return c.JSON(http.StatusCreated, p)
}

// takeBack ends all sessions of somebody, or of a panel, at once, and gives back what they have claimed.
func (s *server) takeBack(c *echo.Context) error {
	id := c.Param("id")
	who, _ := s.People.Person(id)
	err := s.People.TakeBack(id)
	if err == nil {
		s.Access.Give(func(cl access.Claim) bool { return cl.By == id })
		s.noteAccess(c, who.Name+" was taken back", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

// pairPage asks for the six digits. A panel that had a right comes here too.
func (s *server) pairPage(c *echo.Context) error {
	return s.serve(c, http.StatusOK, s.pairing(c))
}

func (s *server) pairing(c *echo.Context) page {
	p := page{Title: "Pair this panel", Text: "Type the six digits that Synaptor shows in People.", Action: c.Request().URL.RequestURI(), Button: "Pair", Fields: []string{"digits"},
		Links: []onLink{{"/sign-in?to=" + url.QueryEscape(onward(c.QueryParam("to"))), "Sign in with a passphrase"}}}
	if c.QueryParam("lost") != "" {
		p.Title, p.Text = "This panel's right has ended", "It was taken back, or its time is over. What it held down was let go. To use it again, type the six digits that Synaptor shows in People."
	}
	if mode := s.tls(); mode == certs.Own {
		if der, err := s.Certs.Authority(); err == nil {
			p.Fingerprint = certs.Fingerprint(der)
		}
	}
	return p
}

// pairLinkPage is the page behind the QR code: that it was opened proves that the panel can reach Synaptor.
func (s *server) pairLinkPage(c *echo.Context) error {
	who, err := s.People.Opened("/pair/"+c.Param("link"), people.Reached{Address: hostOf(c.Request().RemoteAddr), Agent: people.CutAgent(c.Request().UserAgent()), At: time.Now().UTC()})
	if err != nil {
		p := s.pairing(c)
		p.Problem, p.Action = describe(err).Detail, "/pair"
		return s.serve(c, http.StatusNotFound, p)
	}
	p := s.pairing(c)
	p.Title, p.Text, p.Fields, p.Links = "Pair this panel", fmt.Sprintf("It becomes %s, %s of %s.", who.Name, article(who.Role), s.controllersOf(who.Rights)), []string{"nothing"}, nil
	return s.serve(c, http.StatusOK, p)
}

// controllersOf says which controllers somebody presses.
func (s *server) controllersOf(r *access.Rights) string {
	if r == nil || r.Controllers == nil {
		return "all controllers"
	}
	names := ""
	for _, id := range r.Controllers {
		if c := s.Edit.Program().Controllers[id]; c != nil {
			if names != "" {
				names += ", "
			}
			names += c.Name
		}
	}
	if names == "" {
		return "no controller"
	}
	return names
}

func (s *server) pairForm(c *echo.Context) error {
	address := hostOf(c.Request().RemoteAddr)
	_, err := formOf(c)
	if err == nil && !s.gate.try(address, "") {
		err = errTooMany
	}
	var who people.Who
	if err == nil {
		way := c.Request().PostForm.Get("digits")
		if link := c.Param("link"); link != "" {
			way = "/pair/" + link
		}
		if who, err = s.People.Paired(digits(way)); err != nil {
			s.noteAccess(c, "A try to pair a panel", address, err)
		}
	}
	if err == nil {
		s.gate.succeeded(address, "")
		s.noteAccess(c, who.Name+" was paired", who.Name, nil)
		err = s.gate.enter(c, who)
	}
	if err == nil {
		return c.Redirect(http.StatusSeeOther, s.firstPanel(who.Rights))
	}
	d, p := describe(err), s.pairing(c)
	p.Problem = d.Detail
	if errors.Is(err, people.ErrPairing) {
		p.Action = "/pair"
	}
	return s.serve(c, d.Status, p)
}

// digits are what somebody has typed without what makes it easy to read.
func digits(way string) string {
	if len(way) == 7 && (way[3] == ' ' || way[3] == '-') {
		return way[:3] + way[4:]
	}
	return way
}

// firstPanel is where a panel goes: to the first controller that it presses.
func (s *server) firstPanel(r *access.Rights) string {
	p := s.Edit.Program()
	for _, c := range p.Show.Controllers() {
		if r == nil || r.Controllers == nil || r.MayPress(c.ID) {
			return "/panel/" + c.Slug
		}
	}
	return "/panel"
}

// OutputDoc is an output, and who has taken it.
type OutputDoc struct {
	ID     string        `json:"id"`
	Title  string        `json:"title"`
	Device string        `json:"device"` // name
	Claim  *access.Claim `json:"claim,omitempty"`
}

// outputs lists the outputs, with who has taken them for a while.
func (s *server) outputs(c *echo.Context) error {
	v, out := s.Mirror.View(), []OutputDoc{}
	taken := s.Access.Claims()
	for _, o := range v.Program.Outputs(v) {
		doc := OutputDoc{ID: o.ID, Title: v.Program.OutputName(o, v), Device: v.Program.Devices[o.Key.Device].Name}
		if i := slices.IndexFunc(taken, func(cl access.Claim) bool { return cl.Changes == o.Changes }); i >= 0 {
			doc.Claim = &taken[i]
		}
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

// TakeForm claims an output, by its id.
type TakeForm struct {
	Output string `json:"output"`
}

func (s *server) claimOutput(c *echo.Context) error {
	var f TakeForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	v := visitorOf(c)
	view := s.Mirror.View()
	all := view.Program.Outputs(view)
	i := slices.IndexFunc(all, func(o program.Output) bool { return o.ID == f.Output })
	if i < 0 {
		return unfit("output", "There is no such output.")
	}
	out, title := all[i], view.Program.OutputName(all[i], view)
	if v.Role.May(access.Owner) { // an owner takes it, whoever has it
		s.Access.Give(func(cl access.Claim) bool { return cl.Changes == out.Changes && cl.By != v.ID })
	}
	if err := s.Access.Take(v.ID, v.Name, out.Changes, title); err != nil {
		return err
	}
	s.noteAccess(c, v.Name+" has taken "+title+" for a while", v.Name, nil)
	return c.NoContent(http.StatusNoContent)
}

// giveBack gives a claim back: one's own, or as an owner anybody's.
func (s *server) giveBack(c *echo.Context) error {
	v := visitorOf(c)
	title := ""
	if !s.Access.Give(func(cl access.Claim) bool {
		may := cl.ID == c.Param("id") && (cl.By == v.ID || v.Role.May(access.Owner))
		if may {
			title = cl.Title
		}
		return may
	}) {
		return access.ErrNoClaim
	}
	s.noteAccess(c, v.Name+" has given "+title+" back", v.Name, nil)
	return c.NoContent(http.StatusNoContent)
}
