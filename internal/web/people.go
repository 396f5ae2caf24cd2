package web

import (
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/people"
)

func (s *server) routesOfPeople(v1 *echo.Group) {
	v1.GET("/me", s.me)
	v1.PUT("/me/passphrase", s.setPassphrase)
	v1.POST("/claim", s.claim)
	v1.POST("/sign-in", s.signIn)
	v1.POST("/sign-out", s.signOut)
	v1.GET("/people", s.listPeople)
	v1.PUT("/people/:id", s.setRole)
	v1.PUT("/people/:id/rights", s.setRights)
	v1.DELETE("/people/:id", s.removePerson)
	v1.POST("/people", s.expect)
	v1.POST("/people/:id/invitation", s.inviteExpected)
	v1.POST("/people/:id/pairing", s.pair)
	v1.DELETE("/people/:id/sessions", s.takeBack)
	v1.PUT("/me/locked", s.setLocked)
	v1.GET("/me/keys", s.myKeys)
	v1.GET("/me/desk", s.myDesk)
	v1.PUT("/me/desk", s.arrangeDesk)
	v1.POST("/desk", s.deskAction, all)
	v1.GET("/outputs", s.outputs)
	v1.POST("/claims", s.claimOutput)
	v1.DELETE("/claims/:id", s.giveBack)
	v1.GET("/addresses", s.addresses)
	v1.PUT("/addresses", s.setAddresses)
	v1.DELETE("/addresses/change", s.undoAddresses)
	v1.PUT("/certificate", s.useCertificate)
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
	// Locked says that this browser edits nothing until it unlocks.
	Locked bool `json:"locked"`
	// LockedForAll says that nobody edits anything until somebody unlocks.
	LockedForAll bool `json:"lockedForAll"`
}

func (s *server) me(c *echo.Context) error {
	v := visitorOf(c)
	m := Me{Claimed: s.People.Claimed(), Role: v.Role, Locked: s.locks.has(browserOf(c)), LockedForAll: s.Access.Locked()}
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

// ClaimForm sets the first passphrase; Code is what Synaptor has shown at its start, where other computers can reach it already.
type ClaimForm struct {
	Name       string `json:"name"`
	Passphrase string `json:"passphrase"`
	Code       string `json:"code,omitempty"`
}

// claim sets the first passphrase, and signs its owner in.
func (s *server) claim(c *echo.Context) error {
	var f ClaimForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.claimAs(c, f))
}

func (s *server) claimAs(c *echo.Context, f ClaimForm) error {
	if !s.gate.try(hostOf(c.Request().RemoteAddr), "") {
		return errTooMany
	}
	who, err := s.People.Claim(c.Request().Context(), f.Name, f.Passphrase, f.Code)
	if errors.Is(err, people.ErrCode) {
		s.noteAccess(c, "A try to set the first passphrase", cut(f.Name), err)
	}
	if err != nil {
		return err
	}
	s.gate.succeeded(hostOf(c.Request().RemoteAddr), "")
	s.noteAccess(c, who.Name+" has set the first passphrase", who.Name, nil)
	return s.gate.enter(c, who)
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
	Pairings []people.Pairing `json:"pairings"`
	// Here is who is connected now.
	Here   []people.Visit `json:"here"`
	Claims []access.Claim `json:"claims"`
}

func (s *server) listPeople(c *echo.Context) error {
	sessions, err := s.People.Browsers()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, PeopleDoc{s.People.All(), sessions, s.People.Programs(), s.People.Pairings(), s.People.Here(), s.Access.Claims()})
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
	Name  string       `json:"name"`
	Role  access.Role  `json:"role"`
	Terms people.Terms `json:"terms"`
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
	id, token, err := s.People.AddProgram(f.Name, f.Role, f.Terms)
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
