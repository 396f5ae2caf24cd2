package show

import (
	"cmp"
	"fmt"
	"slices"
)

// Load makes a show of entities as they were stored. Where two mappings have one place, the one that
// was changed last keeps it: repair is the edit that puts the others aside, on a control that no
// layout has, from where they are brought back; notes says what that was. An edit without changes means that nothing was wrong.
func Load(stored []Change, seq int64) (s *Show, repair Edit, notes []string, err error) {
	// Whoever was changed last comes last.
	stored = slices.Clone(stored)
	slices.SortStableFunc(stored, func(a, b Change) int { return cmp.Or(cmp.Compare(a.Next, b.Next), cmp.Compare(a.ID, b.ID)) })
	s, twice, err := Empty().apply(Edit{Name: "load", Changes: stored})
	if err != nil || len(twice) == 0 {
		return s, Edit{}, nil, err
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
		notes = append(notes, fmt.Sprintf("Two keys had one place: %s of %s. The one that was changed last keeps it.", t.Place.Control, s.nameOf(t.Place)))
	}
	repair = d.Edit("Repaired: keys that had one place", seq)
	s, err = s.Apply(repair)
	return s, repair, notes, err
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
