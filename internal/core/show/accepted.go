package show

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"
)

// Accepted is a finding that somebody has looked at and decided to live with. It counts until its subject is no longer as it was then.
type Accepted struct {
	ID      string `json:"id"` // see AcceptedID
	Finding string `json:"finding"`
	Subject Ref    `json:"subject"`
	At      string `json:"at,omitempty"` // which part of the subject
	// Of is the imprint of what was accepted: see Imprint.
	Of     string    `json:"of"`
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	When   time.Time `json:"when"`
}

// MaxReason is how long the reason may be for which a finding is accepted.
//
//limit:count characters of the reason for which a finding is accepted | at the field
const MaxReason = 300

// Ref implements Entity.
func (e *Accepted) Ref() Ref { return Ref{KindAccepted, e.ID} }

// Title implements Entity.
func (e *Accepted) Title() string { return "Accepted: " + e.Reason }

// AcceptedID is the id of the acceptance of a finding, so that there is one for each: two who accept the same accept it once.
func AcceptedID(finding string, subject Ref, at string) string {
	return shortHash(finding, string(subject.Kind), subject.ID, at)
}

// Acceptance returns how a finding was accepted, or nil.
func (s *Show) Acceptance(id string) *Accepted {
	a, _ := s.entities[KindAccepted][id].(*Accepted)
	return a
}

// Acceptances returns all that was accepted, the oldest first.
func (s *Show) Acceptances() []*Accepted {
	return sorted(s, KindAccepted, func(a, b *Accepted) int {
		if d := a.When.Compare(b.When); d != 0 {
			return d
		}
		return strings.Compare(a.ID, b.ID)
	})
}

// Imprint tells two states of a thing apart, a macro with its steps; said is what else counts. What is gone has one too.
func (s *Show) Imprint(r Ref, said string) string {
	parts := []string{said}
	if e := s.Get(r); e != nil {
		parts = append(parts, string(Encode(e)))
	}
	if r.Kind == KindMacro {
		for _, st := range s.StepsOf(r.ID) {
			parts = append(parts, string(Encode(st)))
		}
	}
	return shortHash(parts...)
}

// shortHash is a hash of texts that is long enough to tell them apart, and short enough for an id.
func shortHash(parts ...string) string {
	h := sha256.New()
	for _, p := range parts {
		h.Write([]byte(p))
		h.Write([]byte{0})
	}
	return hex.EncodeToString(h.Sum(nil)[:12])
}
