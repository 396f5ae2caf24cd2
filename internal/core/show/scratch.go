package show

import "slices"

// OnScratch reports whether a mapping stands on scratch pages and nowhere else.
func (s *Show) OnScratch(m *Mapping) bool {
	return len(m.Placements) > 0 && !slices.ContainsFunc(m.Placements, func(at Placement) bool {
		p := s.Page(at.Page)
		return at.Standing != nil || p == nil || !p.Scratch
	})
}

// WithoutScratch is a show without its scratch pages and what is only on them; the same show where it has none.
func (s *Show) WithoutScratch() *Show {
	d := NewDraft(s)
	for _, p := range s.Pages() {
		if p.Scratch {
			d.Delete(p.Ref())
		}
	}
	if len(d.after) == 0 {
		return s
	}
	gone := func(page string) bool { p := s.Page(page); return p != nil && p.Scratch }
	for _, m := range s.Mappings() {
		left := slices.DeleteFunc(slices.Clone(m.Placements), func(at Placement) bool { return at.Standing == nil && gone(at.Page) })
		switch {
		case len(left) == len(m.Placements):
		case len(left) == 0:
			d.Delete(m.Ref())
		default:
			c := m.Clone()
			c.Placements = left
			d.Put(c)
		}
	}
	for _, c := range s.Controllers() {
		if slices.ContainsFunc(c.Start, gone) {
			left := *c
			left.Start = slices.DeleteFunc(slices.Clone(c.Start), gone)
			d.Put(&left)
		}
	}
	return d.Now()
}
