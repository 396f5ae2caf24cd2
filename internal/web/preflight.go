package web

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/inspect"
)

// PreflightDoc says whether the show is ready to go on air.
type PreflightDoc struct {
	Verdict  string       `json:"verdict"`
	At       time.Time    `json:"at"` // when it was looked at
	Findings []FindingDoc `json:"findings"`
}

// FindingDoc is a finding as the API shows it.
type FindingDoc struct {
	preflight.Weighed
	Title   string `json:"title"`   // of its subject
	Path    string `json:"path"`    // where the interface shows it
	Imprint string `json:"imprint"` // of its subject as it is
	// AcceptedID is what its acceptance is called; empty: it was not accepted.
	AcceptedID string `json:"acceptedId,omitempty"`
}

// preflight tells what was found, as things stand.
func (s *server) preflight(c *echo.Context) error {
	v, at := s.Mirror.View(), s.Mirror.Preflight()
	out := PreflightDoc{Verdict: preflight.Verdict(preflight.Open(at.Findings)), At: at.At, Findings: []FindingDoc{}}
	for _, w := range at.Findings {
		doc := FindingDoc{Weighed: w, Title: inspect.Title(at.Program, w.Subject, v), Path: inspect.Path(at.Program, w.Subject, w.At), Imprint: w.Imprint(at.Program.Show)}
		if w.Accepted != nil {
			doc.AcceptedID = w.Accepted.ID
		}
		out.Findings = append(out.Findings, doc)
	}
	return c.JSON(http.StatusOK, out)
}

// previewFix tells what the fix of a finding would change.
func (s *server) previewFix(c *echo.Context) error {
	var f edit.Found
	if err := read(c, &f, false); err != nil {
		return err
	}
	p, err := s.Edit.PreviewFix(who(c), f)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, p)
}

// Fixed is what the edit is called that puts a finding right.
type Fixed struct {
	Title string `json:"title"`
}

func (s *server) fixFinding(c *echo.Context) error {
	var f edit.Found
	if err := read(c, &f, false); err != nil {
		return err
	}
	title, err := s.Edit.FixFinding(who(c), f)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Fixed{title})
}

// Acceptance is a finding that is to count no more, and why.
type Acceptance struct {
	ID      string   `json:"id"` // of the finding
	Subject show.Ref `json:"subject"`
	At      string   `json:"at,omitempty"`
	Imprint string   `json:"imprint,omitempty"`
	Reason  string   `json:"reason"`
}

func (s *server) acceptFinding(c *echo.Context) error {
	var a Acceptance
	if err := read(c, &a, false); err != nil {
		return err
	}
	return done(c, s.Edit.Accept(who(c), edit.Found{ID: a.ID, Subject: a.Subject, At: a.At, Imprint: a.Imprint}, a.Reason))
}

func (s *server) reconsiderFinding(c *echo.Context) error {
	return done(c, s.Edit.Reconsider(who(c), c.Param("id")))
}
