package web

import (
	"net"
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/certs"
	"synaptor/internal/doors"
)

// tls is which certificates are used.
func (s *server) tls() certs.Mode {
	if s.Doors == nil {
		return certs.Plain
	}
	return s.Doors.Config().TLS
}

// nameOf is the name of a controller; empty: there is none.
func (s *server) nameOf(controller string) string {
	if c := s.Edit.Program().Controllers[controller]; c != nil {
		return c.Name
	}
	return ""
}

// AddressesDoc is what is open, and to whom.
type AddressesDoc struct {
	doors.View
	// Claimed says that a passphrase is set: nothing is opened before.
	Claimed bool `json:"claimed"`
}

func (s *server) addresses(c *echo.Context) error {
	return c.JSON(http.StatusOK, AddressesDoc{s.Doors.View(s.nameOf), s.People.Claimed()})
}

func (s *server) setAddresses(c *echo.Context) error {
	var f doors.Config
	if err := read(c, &f, false); err != nil {
		return err
	}
	if err := s.claimedFirst("addresses"); err != nil {
		return err
	}
	to, _ := c.Request().Context().Value(http.LocalAddrContextKey).(net.Addr)
	if to == nil {
		to = &net.TCPAddr{}
	}
	p, err := s.Doors.Change(f, to)
	s.noteAccess(c, "The addresses were changed", visitorOf(c).Name, err)
	if err != nil {
		return err
	}
	s.opened()
	v := s.Doors.View(s.nameOf)
	v.Pending = p
	return c.JSON(http.StatusOK, AddressesDoc{v, true})
}

// opened has everybody asked anew: what is open is something else.
func (s *server) opened() {
	if s.Opened != nil {
		s.Opened()
	}
}

// undoAddresses undoes a change that waits for its confirmation.
func (s *server) undoAddresses(c *echo.Context) error {
	s.Doors.Back("")
	s.opened()
	return c.NoContent(http.StatusNoContent)
}

// CertificateForm is the user's certificate with its chain, and its key, as PEM (RFC 7468).
type CertificateForm struct {
	Certificate string `json:"certificate"`
	Key         string `json:"key"`
}

func (s *server) useCertificate(c *echo.Context) error {
	var f CertificateForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if err := s.Certs.Use(f.Certificate, f.Key); err != nil {
		return unfit("certificate", certs.Sentence(err))
	}
	s.noteAccess(c, "A certificate was given", visitorOf(c).Name, nil)
	return c.NoContent(http.StatusNoContent)
}

// herePage confirms a change of the addresses: that it was opened at one of them is the proof.
func (s *server) herePage(c *echo.Context) error {
	r := c.Request()
	at := "http://"
	if r.TLS != nil {
		at = "https://"
	}
	to, _ := r.Context().Value(http.LocalAddrContextKey).(net.Addr)
	if to != nil {
		at += to.String()
	}
	if err := s.Doors.Confirm(c.Param("token"), at); err != nil {
		return s.serve(c, http.StatusNotFound, page{Title: "This is Synaptor", Problem: certs.Sentence(err)})
	}
	s.noteAccess(c, "The addresses were confirmed from "+at, visitorOf(c).Name, nil)
	return s.serve(c, http.StatusOK, page{Title: "This is Synaptor", Text: "It can be reached at " + at + ", and stays open there.", Links: []onLink{{"/", "Go on"}}})
}

// authority is the certificate of the authority that is made here, for browsers to be told of.
func (s *server) authority(c *echo.Context) error {
	if s.tls() != certs.Own {
		return echo.ErrNotFound
	}
	der, err := s.Certs.Authority()
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="synaptor-authority.crt"`)
	return c.Blob(http.StatusOK, "application/x-x509-ca-cert", der)
}
