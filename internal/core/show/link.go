package show

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Link attaches real hardware to a controller. A controller may have several: what is held is held by all of them together.
type Link struct {
	ID         string `json:"id"`
	Controller string `json:"controller"`
	Kind       string `json:"kind"` // one of LinkKinds
	Name       string `json:"name"`
	// Match says which hardware it is: of the wire, the serial number that its bridge says; of others, how it is called. The keys of
	// whichever browser shows the controller have none.
	Match string `json:"match"`
	// Place tells hardware apart that is called the same: where it is plugged in.
	Place string `json:"place,omitempty"`
	// Map has, on the wire, the controls of the hardware that are called otherwise than those of the controller; an empty one does nothing.
	Map map[string]string `json:"map,omitempty"`
	// Bindings say of other hardware which control what is; where there are none, those of the controller's sheet count.
	Bindings []Binding `json:"bindings,omitempty"`
	// Take says that other programs on the computer do not get what comes from it.
	Take     bool `json:"take,omitempty"`
	Off      bool `json:"off,omitempty"`
	Position int  `json:"position"`
}

// The kinds of links.
const (
	LinkWire     = "wire"      // the open protocol for bridges
	LinkKeysHere = "keys-here" // the keys of the browser that shows the controller
	LinkMIDIHere = "midi-here" // MIDI in a browser
	LinkGamepad  = "gamepad"   // a game control in a browser
	LinkKeysHost = "keys-host" // keys, pedals and game controls of the computer that Synaptor runs on
	LinkMIDIHost = "midi-host" // MIDI of that computer
)

// LinkKinds lists the kinds of links.
var LinkKinds = []string{LinkWire, LinkKeysHere, LinkMIDIHere, LinkGamepad, LinkKeysHost, LinkMIDIHost}

// MaxMatch is how long what a link matches may be.
//
//limit:count characters of a serial number, or of how hardware is called | at the edit and at the hello
const MaxMatch = 120

// MaxBindings is how many bindings a link may have.
//
//limit:count keys, dials and axes of hardware that a link binds | at the edit
const MaxBindings = 1000

// Ref implements Entity.
func (e *Link) Ref() Ref { return Ref{KindLink, e.ID} }

// Title implements Entity.
func (e *Link) Title() string { return cmp.Or(e.Name, e.Match, "the keys of a browser") }

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

// LinkTo finds the link that hardware is attached by; nil: none. Place tells those apart that are called the same; hardware that is the
// only one of its name, of which there is only one link, is that of the link wherever it is plugged in.
func (s *Show) LinkTo(kind, match, place string, only bool) *Link {
	var named []*Link
	for _, l := range s.Links() {
		if l.Kind != kind || l.Match != match {
			continue
		}
		if l.Place == place {
			return l
		}
		named = append(named, l)
	}
	if only && len(named) == 1 {
		return named[0]
	}
	return nil
}

// Same finds a link to the same hardware as another one that is to be; nil: there is none.
func (s *Show) Same(l *Link) *Link {
	for _, other := range s.Links() {
		same := other.Kind == l.Kind && other.Match == l.Match && other.Place == l.Place
		if same && other.ID != l.ID && (l.Kind != LinkKeysHere || other.Controller == l.Controller) {
			return other
		}
	}
	return nil
}

// CheckLink says what is wrong with a link. Hardware is attached once.
func (s *Show) CheckLink(l *Link) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{Field: field, Text: text}) }
	if !slices.Contains(LinkKinds, l.Kind) {
		add("kind", fmt.Sprintf("There is no kind of link %q.", l.Kind))
	}
	if s.Controller(l.Controller) == nil {
		add("controller", "This controller is not there any more.")
	}
	switch other := s.Same(l); {
	case strings.TrimSpace(l.Match) == "" && l.Kind != LinkKeysHere:
		add("match", "Say which hardware it is.")
	case l.Match != "" && l.Kind == LinkKeysHere:
		add("match", "The keys of a browser have no name: whichever shows the controller is meant.")
	case len([]rune(l.Match)) > MaxMatch || len([]rune(l.Place)) > MaxMatch:
		add("match", fmt.Sprintf("It has at most %d characters.", MaxMatch))
	case other != nil:
		of := "another controller"
		if c := s.Controller(other.Controller); c != nil {
			of = c.Name
		}
		if l.Kind == LinkKeysHere {
			add("kind", fmt.Sprintf("%s has its keys already.", of))
		} else {
			add("match", fmt.Sprintf("%s is attached to %s already.", l.Match, of))
		}
	}
	if l.Name != "" {
		if text := CheckName(l.Name); text != "" {
			add("name", text)
		}
	}
	if l.Take && l.Kind != LinkKeysHost {
		add("take", "Only the keys and controls of this computer can be kept from other programs.")
	}
	if text := CheckBindings(l.Bindings); text != "" {
		add("bindings", text)
	}
	return errs
}

// CheckBindings says what is wrong with the bindings of a link or a sheet, in a sentence; empty: nothing.
func CheckBindings(all []Binding) string {
	if len(all) > MaxBindings {
		return fmt.Sprintf("A link has at most %d bindings; this would be %d.", MaxBindings, len(all))
	}
	seen := map[string]bool{}
	for _, b := range all {
		if text := b.Check(); text != "" {
			return text
		}
		if seen[b.Source] {
			return fmt.Sprintf("%s is bound twice.", b.Source)
		}
		seen[b.Source] = true
	}
	return ""
}
