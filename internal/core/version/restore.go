package version

import (
	"slices"

	"synaptor/internal/core/show"
)

// Whole has a draft become what a show was.
func Whole(d *show.Draft, now, then *show.Show) {
	for _, r := range now.Refs() {
		if then.Get(r) == nil {
			d.Delete(r)
		}
	}
	for _, r := range then.Refs() {
		d.Put(then.Get(r))
	}
}

// Part has one thing of a draft become what it was in another state, with what belongs to it: a page with its keys, a
// macro with its steps. ok is false where it was in neither state, or cannot come back without something that is gone.
func Part(d *show.Draft, now, then *show.Show, r show.Ref) (ok bool) {
	was := then.Get(r)
	if was == nil && now.Get(r) == nil || was != nil && !alone(was, now) {
		return false
	}
	switch r.Kind {
	case show.KindPage:
		pagePart(d, now, then, r.ID)
	case show.KindController:
		links(d, now, then, r.ID)
	case show.KindMacro:
		for _, st := range now.StepsOf(r.ID) {
			if then.Get(st.Ref()) == nil {
				d.Delete(st.Ref())
			}
		}
		for _, st := range then.StepsOf(r.ID) {
			d.Put(st)
		}
	}
	if was == nil {
		d.Delete(r)
	} else {
		d.Put(was)
	}
	return true
}

// links has a controller be attached to what it was attached to.
func links(d *show.Draft, now, then *show.Show, controller string) {
	for _, l := range now.LinksOf(controller) {
		d.Delete(l.Ref())
	}
	for _, l := range then.LinksOf(controller) {
		if other := now.Same(l); other == nil || other.Controller == controller {
			d.Put(l)
		}
	}
}

// alone tells whether a thing can be in a show without more of what it was with: a step is of its macro, and a key has to be
// on pages that are there.
func alone(e show.Entity, s *show.Show) bool {
	switch e := e.(type) {
	case *show.Step:
		return false
	case *show.Link:
		return s.Controller(e.Controller) != nil
	case *show.Mapping:
		return !slices.ContainsFunc(e.Placements, func(at show.Placement) bool { return at.Page != "" && s.Page(at.Page) == nil })
	}
	return true
}

// pagePart gives a page the keys that it had. A key that is on other pages too stays there.
func pagePart(d *show.Draft, now, then *show.Show, page string) {
	for _, m := range now.Mappings() {
		if on(m, page) && then.Mapping(m.ID) == nil {
			for _, at := range m.Placements {
				if at.Page == page {
					d.ClearPlacement(page, at.Control)
				}
			}
		}
	}
	for _, m := range then.Mappings() {
		if !on(m, page) {
			continue
		}
		c := m.Clone()
		c.Placements = slices.DeleteFunc(c.Placements, func(at show.Placement) bool {
			return at.Page != "" && at.Page != page && now.Page(at.Page) == nil
		})
		d.Put(c)
	}
}

// on tells whether a mapping is on a page.
func on(m *show.Mapping, page string) bool {
	return slices.ContainsFunc(m.Placements, func(at show.Placement) bool { return at.Page == page })
}
