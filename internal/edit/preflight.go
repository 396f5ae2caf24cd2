package edit

import (
	"errors"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/core/version"
)

// Found points at a finding.
type Found struct {
	ID      string   `json:"id"`
	Subject show.Ref `json:"subject"`
	At      string   `json:"at,omitempty"`
	// Imprint is that of the finding as it was seen; missing: whatever it is now is meant.
	Imprint string `json:"imprint,omitempty"`
}

var errNotSo = FieldErrors{{Field: "finding", Text: "This is not so any more, or nothing can be done about it in one step."}}

// finding finds one as things stand. It fails with a *StaleError where its subject is not as it was seen.
func (s *Service) finding(f Found) (preflight.Weighed, error) {
	all := s.mirror.Known()
	want := preflight.Finding{ID: f.ID, Subject: f.Subject, At: f.At}
	i := slices.IndexFunc(all, func(o preflight.Weighed) bool { return o.Same(want) })
	if i < 0 {
		return preflight.Weighed{}, errNotSo
	}
	w := all[i]
	if f.Imprint != "" && f.Imprint != w.Imprint(s.Program().Show) {
		return w, &StaleError{Text: "What this is about has changed since you saw it. Look at it again, then decide."}
	}
	return w, nil
}

// put has a fix change a draft.
func (s *Service) put(fix *preflight.Fix, d *show.Draft) error {
	err := fix.Make(d, newID)
	if errors.Is(err, preflight.ErrChanged) {
		return &StaleError{Text: "What this is about has changed since it was found. Look at it again, then decide."}
	}
	return err
}

// FixFinding puts a finding right with one edit, and returns its name.
func (s *Service) FixFinding(who Who, f Found) (name string, err error) {
	w, err := s.finding(f)
	if err == nil && w.Fix == nil {
		err = errNotSo
	}
	if err != nil {
		return "", err
	}
	return w.Fix.Title, s.do(who, func(d *show.Draft, _ *show.Show) (string, error) { return w.Fix.Title, s.put(w.Fix, d) })
}

// Preview is what a fix would change.
type Preview struct {
	Title   string   `json:"title"`
	Changes []Change `json:"changes"`
	// Left is what is found no more, New what would be found then: of what can be told without trying it.
	Left []string `json:"left"`
	New  []string `json:"new"`
}

// Change is one thing that a fix would change, with what it was and would be.
type Change struct {
	version.Difference
	Values []version.Value `json:"values"`
}

// PreviewFix tells what a fix would change, and changes nothing.
func (s *Service) PreviewFix(who Who, f Found) (*Preview, error) {
	w, err := s.finding(f)
	if err == nil && w.Fix == nil {
		err = errNotSo
	}
	if err != nil {
		return nil, err
	}
	out := &Preview{Title: w.Fix.Title, Changes: []Change{}, Left: []string{}, New: []string{}}
	var before, after *show.Show
	err = s.try(who, func(d *show.Draft, sh *show.Show) (string, error) {
		if err := s.put(w.Fix, d); err != nil {
			return "", err
		}
		next, err := sh.Apply(d.Edit(w.Fix.Title, 0))
		before, after = sh, next
		return "", err
	})
	if err != nil {
		return nil, err
	}
	for _, c := range version.Compare(before, after) {
		r := show.Ref{Kind: c.Kind, ID: c.ID}
		out.Changes = append(out.Changes, Change{c, version.Values(before.Get(r), after.Get(r))})
	}
	out.Left, out.New = s.mirror.Compare(after)
	return out, nil
}

// Accept has a finding count no more, for a reason.
func (s *Service) Accept(who Who, f Found, reason string) error {
	switch reason = strings.TrimSpace(reason); {
	case reason == "":
		return FieldErrors{{Field: "reason", Text: "Say why this is all right: whoever looks next will ask."}}
	case utf8.RuneCountInString(reason) > show.MaxReason:
		return FieldErrors{{Field: "reason", Text: "A reason has at most 300 characters."}}
	}
	w, err := s.finding(f)
	if err != nil {
		return err
	}
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		d.Put(&show.Accepted{ID: show.AcceptedID(f.ID, f.Subject, f.At), Finding: f.ID, Subject: f.Subject, At: f.At, Of: w.Imprint(sh), Reason: reason, By: who.Actor, When: time.Now().UTC().Truncate(time.Second)})
		return "Accept a finding: " + reason, nil
	})
}

// Reconsider has a finding that was accepted count again.
func (s *Service) Reconsider(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		a := sh.Acceptance(id)
		if a == nil {
			return "", notFound("acceptance")
		}
		d.Delete(a.Ref())
		return "Have a finding count again", nil
	})
}

// Pictured gives the pictures that the library of the show has.
func (s *Service) Pictured() map[string]bool {
	out := map[string]bool{}
	all, err := s.base().AllMedia()
	if err != nil {
		return nil // nobody knows
	}
	for _, m := range all {
		out[m.ID] = true
	}
	return out
}
