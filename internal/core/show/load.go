package show

import (
	"cmp"
	"fmt"
	"slices"
)

// Loaded is a show as it was stored, and what was wrong with it.
type Loaded struct {
	Show *Show
	// Repair is the edit that was applied to put right what could be; without changes where nothing was.
	Repair Edit
	// Unread are the entities that cannot be read. The show is without them.
	Unread []Unread
	Notes  []string // what was wrong, as sentences
}

// Unread is an entity that cannot be read.
type Unread struct {
	Change
	Why error
}

// Load makes a show of entities as they were stored; seq is the number of the repair. Where two mappings have one
// place, the one that was changed last keeps it; the others are put aside, on a control that no layout has, from where
// they are brought back. An entity that cannot be read is left out.
func Load(stored []Change, seq int64) (l Loaded, err error) {
	// Whoever was changed last comes last.
	stored = slices.Clone(stored)
	slices.SortStableFunc(stored, func(a, b Change) int { return cmp.Or(cmp.Compare(a.Next, b.Next), cmp.Compare(a.ID, b.ID)) })
	stored = slices.DeleteFunc(stored, func(c Change) bool {
		e, err := Decode(c.Kind, c.After)
		if err == nil && e.Ref() != c.Ref {
			err = fmt.Errorf("it says that it is the %s %q", e.Ref().Kind, e.Ref().ID)
		}
		if err != nil {
			l.Unread = append(l.Unread, Unread{c, err})
			l.Notes = append(l.Notes, fmt.Sprintf("A %s of the show (%s) cannot be read and was set aside: %v.", c.Kind, c.ID, err))
		}
		return err != nil
	})
	s, twice, err := Empty().apply(Edit{Name: "load", Changes: stored})
	if l.Show = s; err != nil || len(twice) == 0 {
		return l, err
	}
	d := NewDraft(s)
	for _, t := range twice {
		c := d.Mapping(t.By).Clone()
		at := slices.IndexFunc(c.Placements, t.Place.same)
		if at < 0 {
			continue
		}
		c.Placements[at].Control = aside(d.Now(), t.Place)
		d.Put(c)
		l.Notes = append(l.Notes, fmt.Sprintf("Two keys had one place: %s of %s. The one that was changed last keeps it.", t.Place.Control, s.nameOf(t.Place)))
	}
	l.Repair = d.Edit("Repaired: keys that had one place", seq)
	l.Show, err = s.Apply(l.Repair)
	return l, err
}

// aside gives a control that no layout has, for what was on another one.
func aside(s *Show, at Placement) string {
	for n := 2; ; n++ {
		control := fmt.Sprintf("%s-%d", at.Control, n)
		on := s.places.pages[at.Page]
		if at.Standing != nil {
			on = s.places.standing[*at.Standing]
		}
		if on == nil || on.At[control] == nil {
			return control
		}
	}
}

// nameOf says where a placement is.
func (s *Show) nameOf(at Placement) string {
	if at.Standing != nil {
		return "every page"
	}
	if p := s.Page(at.Page); p != nil {
		return "the page " + p.Name
	}
	return "a page that is gone"
}
