package show

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"weak"
)

// Change is what an edit does to one entity. Before and After are canonical
// JSON; a missing Before means that the edit creates the entity, a missing
// After that it removes it.
type Change struct {
	Ref
	// Base is the revision the change was made against, Next the one it leaves.
	Base   int64           `json:"base"`
	Next   int64           `json:"next"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// Edit is a named list of changes that are applied together or not at all.
type Edit struct {
	Name    string   `json:"name"`
	Changes []Change `json:"changes"`
}

// Inverse returns the edit that takes this one back, revisions included.
func (e Edit) Inverse() Edit {
	inv := Edit{Name: e.Name, Changes: make([]Change, len(e.Changes))}
	for i, c := range e.Changes {
		inv.Changes[len(e.Changes)-1-i] = Change{Ref: c.Ref, Base: c.Next, Next: c.Base, Before: c.After, After: c.Before}
	}
	return inv
}

// ConflictError says that an entity is no longer at the revision an edit was
// made against.
type ConflictError struct {
	Ref  Ref
	Have int64 // the revision in force
	Want int64 // the revision the edit was made against
}

// Error implements error.
func (e *ConflictError) Error() string {
	return fmt.Sprintf("%s %s has changed: it is at revision %d, the edit was made at %d", e.Ref.Kind, e.Ref.ID, e.Have, e.Want)
}

// Apply returns the show after the edit. It fails with a *ConflictError when an
// entity is not at the revision the edit was made against, and with an *OccupiedError when two
// mappings would have one place; nothing is applied then.
func (s *Show) Apply(e Edit) (*Show, error) {
	next, twice, err := s.apply(e)
	if err == nil && len(twice) > 0 {
		err = twice[0]
	}
	if err != nil {
		return nil, err
	}
	return next, nil
}

// apply is Apply without looking at places; those that two mappings have are listed.
func (s *Show) apply(e Edit) (*Show, []*OccupiedError, error) {
	next := &Show{entities: maps.Clone(s.entities), revs: maps.Clone(s.revs), base: weak.Make(s), steps: s.steps, pages: s.pages}
	var before, after []*Mapping
	copied := map[Kind]bool{}
	for _, c := range e.Changes {
		if have := next.revs[c.Kind][c.ID]; have != c.Base {
			return nil, nil, &ConflictError{Ref: c.Ref, Have: have, Want: c.Base}
		}
		if !copied[c.Kind] {
			copied[c.Kind] = true
			next.entities[c.Kind] = cloneOrNew(s.entities[c.Kind])
			next.revs[c.Kind] = cloneOrNew(s.revs[c.Kind])
		}
		switch c.Kind {
		case KindMapping:
			next.touched = append(next.touched, c.ID)
			if m := s.Mapping(c.ID); m != nil {
				before = append(before, m)
			}
		case KindStep:
			next.steps, next.beyond = &stepIndex{}, true
		case KindPage:
			next.pages = &pageIndex{}
		case KindAccepted:
		default:
			next.beyond = true
		}
		if c.After == nil {
			delete(next.entities[c.Kind], c.ID)
			delete(next.revs[c.Kind], c.ID)
			continue
		}
		ent, err := Decode(c.Kind, c.After)
		if err != nil {
			return nil, nil, fmt.Errorf("apply %q: %w", e.Name, err)
		}
		next.entities[c.Kind][c.ID] = ent
		next.revs[c.Kind][c.ID] = c.Next
		if m, ok := ent.(*Mapping); ok {
			after = append(after, m)
		}
	}
	var twice []*OccupiedError
	next.places, twice = s.places.with(before, after)
	return next, twice, nil
}

func cloneOrNew[V any](m map[string]V) map[string]V {
	if m == nil {
		return map[string]V{}
	}
	return maps.Clone(m)
}

// Draft collects changes against one state of a show and turns them into an
// Edit. Reads through the draft see what it has changed.
type Draft struct {
	base  *Show
	after map[Ref]Entity // nil: removed
	order []Ref
}

// NewDraft starts a draft against a show.
func NewDraft(s *Show) *Draft { return &Draft{base: s, after: map[Ref]Entity{}} }

// Put creates or replaces an entity.
func (d *Draft) Put(e Entity) { d.set(e.Ref(), e) }

// Delete removes an entity; removing what is not there does nothing.
func (d *Draft) Delete(r Ref) { d.set(r, nil) }

func (d *Draft) set(r Ref, e Entity) {
	if _, seen := d.after[r]; !seen {
		d.order = append(d.order, r)
	}
	d.after[r] = e
}

// Now is the show as the draft stands; on its way to an edit, two mappings may have one place.
func (d *Draft) Now() *Show {
	now, _, err := d.base.apply(d.Edit("", 0))
	if err != nil {
		panic(err) // a draft is made against its own base
	}
	return now
}

// Mapping is Show.Mapping as the draft stands.
func (d *Draft) Mapping(id string) *Mapping {
	if e, touched := d.after[Ref{KindMapping, id}]; touched {
		m, _ := e.(*Mapping)
		return m
	}
	return d.base.Mapping(id)
}

// Page is Show.Page as the draft stands.
func (d *Draft) Page(id string) *Page {
	if e, touched := d.after[Ref{KindPage, id}]; touched {
		p, _ := e.(*Page)
		return p
	}
	return d.base.Page(id)
}

// MappingAt is Show.MappingAt as the draft stands.
func (d *Draft) MappingAt(page, control string) *Mapping {
	for _, r := range slices.Backward(d.order) {
		if m, ok := d.after[r].(*Mapping); ok && m.PlacementOn(page, control) >= 0 {
			return m
		}
	}
	m := d.base.MappingAt(page, control)
	if m != nil {
		if _, touched := d.after[m.Ref()]; touched {
			return nil
		}
	}
	return m
}

// ClearPlacement takes the mapping off a control of a page. The mapping goes
// with its last placement. It reports whether there was one.
func (d *Draft) ClearPlacement(page, control string) bool {
	m := d.MappingAt(page, control)
	if m == nil {
		return false
	}
	c := m.Clone()
	i := c.PlacementOn(page, control)
	c.Placements = slices.Delete(c.Placements, i, i+1)
	if len(c.Placements) == 0 {
		d.Delete(c.Ref())
	} else {
		d.Put(c)
	}
	return true
}

// Edit turns the draft into an edit. Entities that end as they were are left
// out. seq is the edit's sequence number, which becomes the revision of what it
// writes.
func (d *Draft) Edit(name string, seq int64) Edit {
	e := Edit{Name: name}
	for _, r := range d.order {
		c := Change{Ref: r, Base: d.base.Rev(r), Next: seq}
		if was := d.base.Get(r); was != nil {
			c.Before = Encode(was)
		}
		if now := d.after[r]; now != nil {
			c.After = Encode(now)
		} else {
			c.Next = 0
		}
		if !bytes.Equal(c.Before, c.After) {
			e.Changes = append(e.Changes, c)
		}
	}
	return e
}
