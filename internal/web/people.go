package web

import (
	"embed"
	"errors"
	"html/template"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/people"
)

//go:embed pages
var pageFiles embed.FS

var pages = template.Must(template.ParseFS(pageFiles, "pages/*.html"))

func (s *server) routesOfPeople(e *echo.Echo, v1 *echo.Group) {
	e.GET("/sign-in", s.signInPage)
	e.POST("/sign-in", s.signInForm)
	e.GET("/invitation/:link", s.invitationPage)
	e.POST("/invitation/:link", s.invitationForm)
	v1.GET("/me", s.me)
	v1.PUT("/me/passphrase", s.setPassphrase)
	v1.POST("/claim", s.claim)
	v1.POST("/sign-in", s.signIn)
	v1.POST("/sign-out", s.signOut)
	v1.GET("/people", s.listPeople)
	v1.PUT("/people/:id", s.setRole)
	v1.PUT("/people/:id/rights", s.setRights)
	v1.DELETE("/people/:id", s.removePerson)
	v1.POST("/invitations", s.invite)
	v1.DELETE("/sessions/:id", s.endSession)
	v1.POST("/tokens", s.addToken)
	v1.DELETE("/tokens/:id", s.removeToken)
}

// noteAccess writes into the journal who got in, or did not, and what was changed of that.
func (s *server) noteAccess(c *echo.Context, title, by string, err error) {
	e := journal.Event{Entry: journal.NextID(), At: time.Now(), Stage: journal.StageDecision, Text: title, Title: title, Device: "Synaptor",
		Origin: &journal.Origin{ControllerName: "Synaptor", Gesture: "access", Via: hostOf(c.Request().RemoteAddr), Actor: by}, Outcome: journal.Confirmed}
	if err != nil {
		e.Outcome, e.Reason = journal.Refused, show.Sentence(err)
	}
	s.Journal.Record(e)
}

// Me is who asks.
type Me struct {
	Claimed bool        `json:"claimed"`
	Who     *people.Who `json:"who,omitempty"`
	Role    access.Role `json:"role"`
}

func (s *server) me(c *echo.Context) error {
	v := visitorOf(c)
	m := Me{Claimed: s.People.Claimed(), Role: v.Role}
	if v.ID != "" {
		m.Who = &v.Who
	}
	return c.JSON(http.StatusOK, m)
}

// SignInForm is what somebody signs in with.
type SignInForm struct {
	Name       string `json:"name"`
	Passphrase string `json:"passphrase"`
}

// errTooMany says that somebody has to wait.
var errTooMany = echo.NewHTTPError(http.StatusTooManyRequests, "There were many tries. Wait ten seconds, then try again.")

// admit signs somebody in.
func (s *server) admit(c *echo.Context, f SignInForm) error {
	if !s.gate.try(hostOf(c.Request().RemoteAddr), f.Name) {
		return errTooMany
	}
	who, err := s.People.SignIn(c.Request().Context(), f.Name, f.Passphrase)
	if err != nil {
		s.noteAccess(c, "A try to sign in as "+cut(f.Name), cut(f.Name), err)
		return err
	}
	s.gate.succeeded(hostOf(c.Request().RemoteAddr), f.Name)
	s.noteAccess(c, who.Name+" has signed in", who.Name, nil)
	return s.gate.enter(c, who)
}

// cut keeps a name to what is shown of it.
func cut(s string) string {
	const most = 60
	if r := []rune(strings.ToValidUTF8(s, "�")); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}

func (s *server) signIn(c *echo.Context) error {
	var f SignInForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.admit(c, f))
}

func (s *server) signOut(c *echo.Context) error {
	if v := visitorOf(c); v.session != "" {
		s.noteAccess(c, v.Name+" has signed out", v.Name, nil)
	}
	return done(c, s.gate.leave(c))
}

// claim sets the first passphrase, and signs its owner in.
func (s *server) claim(c *echo.Context) error {
	var f SignInForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	who, err := s.People.Claim(c.Request().Context(), f.Name, f.Passphrase)
	if err != nil {
		return err
	}
	s.noteAccess(c, who.Name+" has set the first passphrase", who.Name, nil)
	return done(c, s.gate.enter(c, who))
}

// PassphraseForm changes a passphrase.
type PassphraseForm struct {
	Old        string `json:"old"`
	Passphrase string `json:"passphrase"`
}

func (s *server) setPassphrase(c *echo.Context) error {
	var f PassphraseForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	v := visitorOf(c)
	if v.session == "" {
		return unfit("old", "Nobody has a passphrase here.")
	}
	if !s.gate.try(hostOf(c.Request().RemoteAddr), v.Name) {
		return errTooMany
	}
	if err := s.People.SetPassphrase(c.Request().Context(), v.ID, f.Old, f.Passphrase); err != nil {
		return err
	}
	s.gate.succeeded(hostOf(c.Request().RemoteAddr), v.Name)
	s.noteAccess(c, v.Name+" has changed the passphrase", v.Name, nil)
	return c.NoContent(http.StatusNoContent)
}

// PeopleDoc is who may get in.
type PeopleDoc struct {
	People   []people.Who     `json:"people"`
	Sessions []people.Browser `json:"sessions"`
	Programs []people.Program `json:"programs"`
}

func (s *server) listPeople(c *echo.Context) error {
	sessions, err := s.People.Browsers()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, PeopleDoc{s.People.All(), sessions, s.People.Programs()})
}

// RoleForm says what somebody may do.
type RoleForm struct {
	Role access.Role `json:"role"`
}

func (s *server) setRole(c *echo.Context) error {
	var f RoleForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	who, _ := s.People.Person(c.Param("id"))
	err := s.People.SetRole(c.Param("id"), f.Role)
	if err == nil {
		s.noteAccess(c, who.Name+" is "+article(f.Role)+" now", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

// setRights narrows what an operator may do.
func (s *server) setRights(c *echo.Context) error {
	var f access.Rights
	if err := read(c, &f, false); err != nil {
		return err
	}
	who, _ := s.People.Person(c.Param("id"))
	err := s.People.SetRights(c.Param("id"), &f)
	if err == nil {
		s.noteAccess(c, who.Name+" has other rights now", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

func (s *server) removePerson(c *echo.Context) error {
	who, _ := s.People.Person(c.Param("id"))
	err := s.People.Remove(c.Param("id"))
	if err == nil {
		s.noteAccess(c, who.Name+" may not get in any more", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

// Invited is an invitation that was made.
type Invited struct {
	Link  string    `json:"link"`
	Until time.Time `json:"until"`
}

func (s *server) invite(c *echo.Context) error {
	var f RoleForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if !s.People.Claimed() {
		return unfit("role", "Set a passphrase first: so far everybody who reaches Synaptor is its owner.")
	}
	v := visitorOf(c)
	link, until, err := s.People.Invite(v.ID, f.Role)
	if err != nil {
		return err
	}
	s.noteAccess(c, v.Name+" has invited "+article(f.Role), v.Name, nil)
	return c.JSON(http.StatusCreated, Invited{"/invitation/" + link, until.UTC()})
}

func (s *server) endSession(c *echo.Context) error {
	err := s.People.EndSession(c.Param("id"))
	if err == nil {
		s.noteAccess(c, "A session was ended", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

// TokenForm makes a token for a program.
type TokenForm struct {
	Name string      `json:"name"`
	Role access.Role `json:"role"`
}

// TokenMade is a token, which is told once.
type TokenMade struct {
	ID    string `json:"id"`
	Token string `json:"token"`
}

func (s *server) addToken(c *echo.Context) error {
	var f TokenForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, token, err := s.People.AddProgram(f.Name, f.Role)
	if err != nil {
		return err
	}
	s.noteAccess(c, "A token was made for "+cut(f.Name), visitorOf(c).Name, nil)
	return c.JSON(http.StatusCreated, TokenMade{id, token})
}

func (s *server) removeToken(c *echo.Context) error {
	err := s.People.RemoveProgram(c.Param("id"))
	if err == nil {
		s.noteAccess(c, "A token was taken away", visitorOf(c).Name, nil)
	}
	return done(c, err)
}

// page is what a page outside of the interface says.
type page struct {
	Title, Text, Problem, Name, Action, Button string
	Form                                       bool
}

func (s *server) serve(c *echo.Context, status int, p page) error {
	var b strings.Builder
	if err := pages.ExecuteTemplate(&b, "page.html", p); err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.HTML(status, b.String())
}

// onward is where somebody goes after signing in: a path here, and nothing else.
func onward(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(to, "//") || strings.Contains(to, `\`) {
		return "/"
	}
	return u.RequestURI()
}

func (s *server) signInPage(c *echo.Context) error {
	if visitorOf(c).Role != access.Nobody {
		return c.Redirect(http.StatusSeeOther, onward(c.QueryParam("to")))
	}
	return s.serve(c, http.StatusOK, page{Title: "Sign in", Action: c.Request().URL.RequestURI(), Button: "Sign in", Form: true})
}

func (s *server) signInForm(c *echo.Context) error {
	f, err := formOf(c)
	if err == nil {
		err = s.admit(c, f)
	}
	if err == nil {
		return c.Redirect(http.StatusSeeOther, onward(c.QueryParam("to")))
	}
	p := describe(err)
	return s.serve(c, p.Status, page{Title: "Sign in", Problem: p.Detail, Name: f.Name, Action: c.Request().URL.RequestURI(), Button: "Sign in", Form: true})
}

func (s *server) invitationPage(c *echo.Context) error {
	role, err := s.People.Invited(c.Param("link"))
	if err != nil {
		return s.serve(c, http.StatusNotFound, page{Title: "Invitation", Problem: describe(err).Detail})
	}
	return s.serve(c, http.StatusOK, page{Title: "You are invited", Text: "You will be here as " + article(role) + ". Choose a name and a passphrase.", Action: c.Request().URL.Path, Button: "Come in", Form: true})
}

func (s *server) invitationForm(c *echo.Context) error {
	f, err := formOf(c)
	if err == nil && !s.gate.try(hostOf(c.Request().RemoteAddr), "invitation") {
		err = errTooMany
	}
	var who people.Who
	if err == nil {
		if who, err = s.People.Accept(c.Request().Context(), c.Param("link"), f.Name, f.Passphrase); err == nil {
			s.gate.succeeded(hostOf(c.Request().RemoteAddr), "invitation")
		}
	}
	if err == nil {
		s.noteAccess(c, who.Name+" has accepted an invitation", who.Name, nil)
		err = s.gate.enter(c, who)
	}
	if err == nil {
		return c.Redirect(http.StatusSeeOther, "/")
	}
	p := describe(err)
	return s.serve(c, p.Status, page{Title: "You are invited", Problem: p.Detail, Name: f.Name, Action: c.Request().URL.Path, Button: "Come in", Form: !errors.Is(err, people.ErrInvited)})
}

// maxForm is how large a form of a page may be.
//
//limit:bytes the form of the sign-in or of an invitation | in the answer
const maxForm = 8 << 10

// formOf reads the form of a page.
func formOf(c *echo.Context) (SignInForm, error) {
	r := c.Request()
	r.Body = http.MaxBytesReader(c.Response(), r.Body, maxForm)
	if err := r.ParseForm(); err != nil {
		return SignInForm{}, &badBody{"name", "This form cannot be read."}
	}
	return SignInForm{r.PostForm.Get("name"), r.PostForm.Get("passphrase")}, nil
}
