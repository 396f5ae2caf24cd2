package show

import (
	"cmp"
	"fmt"
	"strings"
)

// Link attaches real hardware to a controller. A controller may have several: what is held is held by all of them together.
type Link struct {
	ID         string `json:"id"`
	Controller string `json:"controller"`
	Kind       string `json:"kind"` // wire
	Name       string `json:"name"`
	// Match says which hardware it is: of the wire, the serial number that its bridge says.
	Match string `json:"match"`
	// Map has the controls of the hardware that are called otherwise than those of the controller; an empty one does nothing.
	Map      map[string]string `json:"map,omitempty"`
	Off      bool              `json:"off,omitempty"`
	Position int               `json:"position"`
}

// LinkWire is the kind of link by the wire, the open protocol for bridges.
const LinkWire = "wire"

// MaxMatch is how long what a link matches may be.
//
//limit:count characters of a serial number | at the edit and at the hello
const MaxMatch = 120

// Ref implements Entity.
func (e *Link) Ref() Ref { return Ref{KindLink, e.ID} }

// Title implements Entity.
func (e *Link) Title() string { return cmp.Or(e.Name, e.Match) }

// Control is the control of the controller that one of the hardware is; empty: it does nothing.
func (e *Link) Control(hardware string) string {
	if to, mapped := e.Map[hardware]; mapped {
		return to
	}
	return hardware
}

// Link returns the link of an id, or nil.
func (s *Show) Link(id string) *Link {
	l, _ := s.entities[KindLink][id].(*Link)
	return l
}

// Links lists all links in their order.
func (s *Show) Links() []*Link {
	return sorted(s, KindLink, func(a, b *Link) int {
		return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
}

// LinksOf lists the links of a controller in their order.
func (s *Show) LinksOf(controller string) (out []*Link) {
	for _, l := range s.Links() {
		if l.Controller == controller {
			out = append(out, l)
		}
	}
	return out
}

// LinkTo finds the link of a kind that matches hardware; nil: there is none.
func (s *Show) LinkTo(kind, match string) *Link {
	for _, l := range s.Links() {
		if l.Kind == kind && l.Match == match {
			return l
		}
	}
	return nil
}

// CheckLink says what is wrong with a link. Hardware is attached once.
func (s *Show) CheckLink(l *Link) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{Field: field, Text: text}) }
	if l.Kind != LinkWire {
		add("kind", fmt.Sprintf("There is no kind of link %q; it is wire.", l.Kind))
	}
	if s.Controller(l.Controller) == nil {
		add("controller", "This controller is not there any more.")
	}
	switch other := s.LinkTo(l.Kind, l.Match); {
	case strings.TrimSpace(l.Match) == "":
		add("match", "Say which hardware it is: its serial number.")
	case len([]rune(l.Match)) > MaxMatch:
		add("match", fmt.Sprintf("A serial number has at most %d characters.", MaxMatch))
	case other != nil && other.ID != l.ID:
		of := "another controller"
		if c := s.Controller(other.Controller); c != nil {
			of = c.Name
		}
		add("match", fmt.Sprintf("%s is attached to %s already.", l.Match, of))
	}
	if l.Name != "" {
		if text := CheckName(l.Name); text != "" {
			add("name", text)
		}
	}
	return errs
}
