package web

import (
	"embed"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/people"
)

//go:embed pages
var pageFiles embed.FS

var pages = template.Must(template.ParseFS(pageFiles, "pages/*.html"))

// routesOfEntrance are the pages that let somebody in. They are small, and need no script.
func (s *server) routesOfEntrance(e *echo.Echo) {
	e.GET("/sign-in", s.signInPage)
	e.POST("/sign-in", s.signInForm)
	e.GET("/invitation/:link", s.invitationPage)
	e.POST("/invitation/:link", s.invitationForm)
	e.GET("/claim", s.claimPage)
	e.POST("/claim", s.claimForm)
	e.GET("/pair", s.pairPage)
	e.POST("/pair", s.pairForm)
	e.GET("/pair/:link", s.pairLinkPage)
	e.POST("/pair/:link", s.pairForm)
	e.GET("/here/:token", s.herePage)
	e.GET("/authority.crt", s.authority)
}

// page is what a page outside of the interface says.
type page struct {
	Title, Text, Problem, Name, Action, Button string
	// Fields are those of its form: name, passphrase, code and digits; none: it has no form.
	Fields []string
	// Fingerprint is that of the authority whose certificates are used; empty: none is.
	Fingerprint string
	// Links lead elsewhere, by what they say.
	Links []onLink
}

type onLink struct{ To, Text string }

// Asks tells whether its form has a field.
func (p page) Asks(field string) bool { return slices.Contains(p.Fields, field) }

var known, named = []string{"name", "passphrase"}, []string{"passphrase"}

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
	return s.serve(c, http.StatusOK, page{Title: "Sign in", Action: c.Request().URL.RequestURI(), Button: "Sign in", Fields: known})
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
	return s.serve(c, p.Status, page{Title: "Sign in", Problem: p.Detail, Name: f.Name, Action: c.Request().URL.RequestURI(), Button: "Sign in", Fields: known})
}

// invitedBy is the page of an invitation, for whoever is invited.
func invitedBy(c *echo.Context, who people.Who) page {
	p := page{Title: "You are invited", Text: "You will be here as " + article(who.Role) + ". Choose a name and a passphrase.", Action: c.Request().URL.Path, Button: "Come in", Fields: known}
	if who.Name != "" {
		p.Title, p.Text, p.Fields = "You are invited, "+who.Name, "You will be here as "+article(who.Role)+". Choose a passphrase.", named
	}
	return p
}

func (s *server) invitationPage(c *echo.Context) error {
	who, err := s.People.Invited(c.Param("link"))
	if err != nil {
		return s.serve(c, http.StatusNotFound, page{Title: "Invitation", Problem: describe(err).Detail})
	}
	return s.serve(c, http.StatusOK, invitedBy(c, who))
}

func (s *server) invitationForm(c *echo.Context) error {
	f, err := formOf(c)
	if err == nil && !s.gate.try(hostOf(c.Request().RemoteAddr), "") {
		err = errTooMany
	}
	var who people.Who
	if err == nil {
		if who, err = s.People.Accept(c.Request().Context(), c.Param("link"), f.Name, f.Passphrase); err == nil {
			s.gate.succeeded(hostOf(c.Request().RemoteAddr), "")
		}
	}
	if err == nil {
		s.noteAccess(c, who.Name+" has accepted an invitation", who.Name, nil)
		err = s.gate.enter(c, who)
	}
	if err == nil {
		return c.Redirect(http.StatusSeeOther, "/")
	}
	d := describe(err)
	p := page{Title: "Invitation"}
	if invited, err := s.People.Invited(c.Param("link")); err == nil {
		p = invitedBy(c, invited)
	}
	p.Problem, p.Name = d.Detail, f.Name
	return s.serve(c, d.Status, p)
}

// The page where the first passphrase is set, from another computer.
func (s *server) claimPage(c *echo.Context) error {
	if s.People.Claimed() {
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
	return s.serve(c, http.StatusOK, s.claimed(c))
}

func (s *server) claimed(c *echo.Context) page {
	p := page{Title: "Whose is this Synaptor?", Text: "Nobody has set a passphrase yet. Whoever does is its owner.", Action: c.Request().URL.Path, Button: "Set the passphrase", Fields: known}
	if s.People.ClaimCode() != "" {
		p.Text += " The code stands where Synaptor was started."
		p.Fields = append([]string{"code"}, known...)
	}
	return p
}

func (s *server) claimForm(c *echo.Context) error {
	f, err := formOf(c)
	if err == nil {
		err = s.claimAs(c, ClaimForm{f.Name, f.Passphrase, c.Request().PostForm.Get("code")})
	}
	if err == nil {
		return c.Redirect(http.StatusSeeOther, "/")
	}
	d, p := describe(err), s.claimed(c)
	p.Problem, p.Name = d.Detail, f.Name
	return s.serve(c, d.Status, p)
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
