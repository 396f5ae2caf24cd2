package show

import (
	"fmt"
	"maps"
	"slices"
)

// Spots are the mappings on the controls of one page, or those that stand, by
// control. They do not change; where nothing changed on a page, the next show has
// the same.
type Spots struct{ At map[string]*Mapping }

// placed finds mappings by where they are.
type placed struct {
	pages    map[string]*Spots
	standing map[Standing]*Spots
}

// OccupiedError says that two mappings would have one place.
type OccupiedError struct {
	Place   Placement
	Mapping string // that was to be put there
	By      string // the mapping that has it
}

// Error implements error.
func (e *OccupiedError) Error() string {
	if e.Place.Standing != nil {
		return fmt.Sprintf("%s has a key already that stands on every page", e.Place.Control)
	}
	return fmt.Sprintf("%s has a key already on this page", e.Place.Control)
}

// with gives the places after some changes of mappings, and the places that would have two.
// Only the pages they touch are made anew.
func (p placed) with(before, after []*Mapping) (placed, []*OccupiedError) {
	next := placed{maps.Clone(p.pages), maps.Clone(p.standing)}
	if next.pages == nil {
		next.pages, next.standing = map[string]*Spots{}, map[Standing]*Spots{}
	}
	fresh := map[*Spots]bool{}
	for _, m := range before {
		for _, at := range m.Placements {
			s := next.own(at, fresh)
			if s.At[at.Control] != nil && s.At[at.Control].ID == m.ID {
				delete(s.At, at.Control)
			}
		}
	}
	var twice []*OccupiedError
	for _, m := range after {
		for i, at := range m.Placements {
			s := next.own(at, fresh)
			if there := s.At[at.Control]; there != nil && (there.ID != m.ID || slices.ContainsFunc(m.Placements[:i], at.same)) {
				twice = append(twice, &OccupiedError{at, m.ID, there.ID})
			}
			s.At[at.Control] = m
		}
	}
	return next, twice
}

// same reports whether two placements are one place.
func (p Placement) same(o Placement) bool {
	if p.Control != o.Control || p.Page != o.Page || (p.Standing == nil) != (o.Standing == nil) {
		return false
	}
	return p.Standing == nil || *p.Standing == *o.Standing
}

// own gives the spots of a placement's page that may be changed.
func (p placed) own(at Placement, fresh map[*Spots]bool) *Spots {
	var s *Spots
	if at.Standing != nil {
		s = p.standing[*at.Standing]
	} else {
		s = p.pages[at.Page]
	}
	if s != nil && fresh[s] {
		return s
	}
	made := &Spots{At: map[string]*Mapping{}}
	if s != nil {
		made.At = maps.Clone(s.At)
	}
	fresh[made] = true
	if at.Standing != nil {
		p.standing[*at.Standing] = made
	} else {
		p.pages[at.Page] = made
	}
	return made
}

// Placed gives the mappings on all pages, and those that stand. They must not be
// changed.
func (s *Show) Placed() (pages map[string]*Spots, standing map[Standing]*Spots) {
	return s.places.pages, s.places.standing
}

// MappingAt returns the mapping placed on a control of a page, or nil.
func (s *Show) MappingAt(page, control string) *Mapping {
	if on := s.places.pages[page]; on != nil {
		return on.At[control]
	}
	return nil
}

// Stands reports whether a mapping that stands on every page answers on a control
// of a page.
func (s *Show) Stands(p *Page, control string) bool {
	on := s.places.standing[Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}]
	return on != nil && on.At[control] != nil
}

// SamePages reports whether two shows have the same pages, whatever is on them.
func (s *Show) SamePages(o *Show) bool {
	if len(s.entities[KindPage]) != len(o.entities[KindPage]) {
		return false
	}
	for id := range s.entities[KindPage] {
		if o.entities[KindPage][id] == nil {
			return false
		}
	}
	return true
}

// Alike reports whether two shows have the very same things of some kinds: of what an edit did not touch, they have.
func (s *Show) Alike(o *Show, kinds ...Kind) bool {
	for _, k := range kinds {
		if !maps.Equal(s.entities[k], o.entities[k]) {
			return false
		}
	}
	return true
}

// EachMapping calls f for every mapping, in no order.
func (s *Show) EachMapping(f func(*Mapping)) {
	for _, e := range s.entities[KindMapping] {
		f(e.(*Mapping))
	}
}

// Touched lists the mappings in which a show differs from another one, if it was
// made from that by one edit that changed mappings and pages only.
func (s *Show) Touched(base *Show) (ids []string, ok bool) {
	return s.touched, s.base.Value() == base && base != nil && !s.beyond
}
