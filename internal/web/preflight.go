package web

import (
	"net/http"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/inspect"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

// PreflightDoc says whether the show is ready to go on air.
type PreflightDoc struct {
	Verdict  string       `json:"verdict"`
	At       time.Time    `json:"at"` // when it was looked at
	Findings []FindingDoc `json:"findings"`
	// Night is the last rehearsal of the night; missing: there was none since Synaptor began.
	Night *NightRehearsal `json:"night,omitempty"`
}

// NightRehearsal is a rehearsal of the night.
type NightRehearsal struct {
	At      time.Time `json:"at"`
	TookMs  float64   `json:"tookMs"`
	Keys    int       `json:"keys"` // gestures of keys that were tried
	Macros  int       `json:"macros"`
	Unsent  int       `json:"unsent"`
	Changed bool      `json:"changed"` // the show has changed since
	// Findings are what it found, Moves which keys would be better placed.
	Findings []FindingDoc `json:"findings"`
	Moves    []AdviceDoc  `json:"moves"`
}

// AdviceDoc is a key that would be better placed.
type AdviceDoc struct {
	FindingDoc
	Gain       int     `json:"gain"` // presses that it would have saved
	MeanBefore float64 `json:"meanBefore"`
	MeanAfter  float64 `json:"meanAfter"`
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
		out.Findings = append(out.Findings, findingDoc(at.Program, w, v))
	}
	if n := s.Mirror.Night(); n != nil {
		out.Night = nightRehearsal(at.Program, n, v)
	}
	return c.JSON(http.StatusOK, out)
}

func findingDoc(p *program.Program, w preflight.Weighed, v *mirror.View) FindingDoc {
	doc := FindingDoc{Weighed: w, Title: inspect.Title(p, w.Subject, v), Path: inspect.Path(p, w.Subject, w.At), Imprint: w.Imprint(p.Show)}
	if w.Accepted != nil {
		doc.AcceptedID = w.Accepted.ID
	}
	return doc
}

// nightRehearsal describes a rehearsal of the night, as far as what it is about is still there.
func nightRehearsal(p *program.Program, n *mirror.NightDone, v *mirror.View) *NightRehearsal {
	doc := &NightRehearsal{At: n.At, TookMs: n.TookMs, Keys: n.Keys, Macros: n.Macros, Unsent: n.Unsent, Changed: n.Program.Show != p.Show, Findings: []FindingDoc{}, Moves: []AdviceDoc{}}
	for _, w := range preflight.Weigh(p.Show, append(slices.Clip(n.Findings), n.Risks...)) {
		if p.Show.Get(w.Subject) != nil {
			doc.Findings = append(doc.Findings, findingDoc(p, w, v))
		}
	}
	for _, a := range n.Moves {
		if p.Show.Get(a.Subject) != nil {
			w := preflight.Weigh(p.Show, []preflight.Finding{a.Finding})[0]
			doc.Moves = append(doc.Moves, AdviceDoc{findingDoc(p, w, v), a.Gain, a.MeanBefore, a.MeanAfter})
		}
	}
	return doc
}

// rehearseNight begins to rehearse the night; how far it is comes over the live feed.
func (s *server) rehearseNight(c *echo.Context) error {
	s.Mirror.RehearseTheNight()
	return c.NoContent(http.StatusNoContent)
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
