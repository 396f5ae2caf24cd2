package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// NewPage says where a page belongs and what it is called.
type NewPage struct {
	Name    string `json:"name"`
	Profile string `json:"profile"`
	Layout  string `json:"layout"`
	Zone    string `json:"zone"`
}

func checkPageName(sh *show.Show, p *show.Page) error {
	if text := show.CheckName(p.Name); text != "" {
		return FieldErrors{{Field: "name", Text: text}}
	}
	for _, o := range sh.PagesFor(p.Profile, p.Layout, p.Zone) {
		if o.ID != p.ID && strings.EqualFold(o.Name, p.Name) {
			return FieldErrors{{Field: "name", Text: fmt.Sprintf("There is a page %s here already. Choose another name.", o.Name)}}
		}
	}
	return nil
}

func pageSlug(sh *show.Show, p *show.Page) string {
	return show.Slug(p.Name, func(t string) bool {
		return slices.ContainsFunc(sh.PagesFor(p.Profile, p.Layout, p.Zone), func(o *show.Page) bool { return o.Slug == t })
	})
}

// AddPage adds a page after the others of its zone and returns its id.
func (s *Service) AddPage(who Who, n NewPage) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(n.Layout)
		switch {
		case sh.Profile(n.Profile) == nil:
			return "", FieldErrors{{Field: "profile", Text: "There is no such profile."}}
		case l == nil || !slices.Contains(l.Zones(), n.Zone):
			return "", FieldErrors{{Field: "zone", Text: "There is no such layout, or it has no such zone."}}
		}
		p := &show.Page{ID: id, Name: strings.TrimSpace(n.Name), Profile: n.Profile, Layout: n.Layout, Zone: n.Zone}
		for _, o := range sh.PagesFor(n.Profile, n.Layout, n.Zone) {
			p.Position = max(p.Position, o.Position+1)
		}
		p.Slug = pageSlug(sh, p)
		d.Put(p)
		return "Add the page " + p.Name, checkPageName(sh, p)
	})
}

// RenamePage gives a page another name.
func (s *Service) RenamePage(who Who, id, name string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Page(id)
		if old == nil {
			return "", notFound("page")
		}
		p := *old
		p.Name = strings.TrimSpace(name)
		d.Put(&p)
		return fmt.Sprintf("Rename the page %s to %s", old.Name, p.Name), checkPageName(sh, &p)
	})
}

// MovePage puts a page at a place among those of its zone, from 0.
func (s *Service) MovePage(who Who, id string, to int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(id)
		if p == nil {
			return "", notFound("page")
		}
		all := slices.DeleteFunc(sh.PagesFor(p.Profile, p.Layout, p.Zone), func(o *show.Page) bool { return o.ID == id })
		all = slices.Insert(all, min(max(to, 0), len(all)), p)
		for i, o := range all {
			moved := *o
			moved.Position = i
			d.Put(&moved)
		}
		return "Move the page " + p.Name, nil
	})
}

// DuplicatePage adds a page with copies of another one's mappings, and returns
// its id.
func (s *Service) DuplicatePage(who Who, id string) (string, error) {
	made := newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Page(id)
		if old == nil {
			return "", notFound("page")
		}
		p := *old
		p.ID, p.Position = made, old.Position+1
		for n := 2; ; n++ {
			p.Name = fmt.Sprintf("%s %d", old.Name, n)
			if checkPageName(sh, &p) == nil || n > 1000 {
				break
			}
		}
		p.Slug = pageSlug(sh, &p)
		for _, o := range sh.PagesFor(old.Profile, old.Layout, old.Zone) {
			if o.Position > old.Position {
				later := *o
				later.Position++
				d.Put(&later)
			}
		}
		d.Put(&p)
		for _, m := range sh.Mappings() {
			for _, at := range m.Placements {
				if at.Page != id {
					continue
				}
				c := m.Clone()
				c.ID = newID()
				c.Placements = []show.Placement{{Page: made, Control: at.Control, Covers: at.Covers}}
				d.Put(c)
			}
		}
		return "Duplicate the page " + old.Name, checkPageName(sh, &p)
	})
}

// DeletePage removes a page with its mappings. The last page of a zone stays.
func (s *Service) DeletePage(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(id)
		if p == nil {
			return "", notFound("page")
		}
		if len(sh.PagesFor(p.Profile, p.Layout, p.Zone)) < 2 {
			return "", FieldErrors{{Field: "page", Text: "This is the only page here; a controller needs one."}}
		}
		for _, m := range sh.Mappings() {
			for _, at := range m.Placements {
				if at.Page == id {
					d.ClearPlacement(id, at.Control)
				}
			}
		}
		d.Delete(p.Ref())
		return "Delete the page " + p.Name, nil
	})
}

// Stand has a mapping stay on every page of its profile, or on one page only.
func (s *Service) Stand(who Who, id string, stands bool, page string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Mapping(id)
		if old == nil || len(old.Placements) == 0 {
			return "", notFound("mapping")
		}
		p := sh.Page(page)
		if p == nil {
			return "", notFound("page")
		}
		m := old.Clone()
		control := m.Placements[0].Control
		at := show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}
		if stands {
			m.Placements = []show.Placement{{Standing: &at, Control: control}}
		} else {
			d.ClearPlacement(page, control)
			m.Placements = []show.Placement{{Page: page, Control: control}}
		}
		d.Put(m)
		if stands {
			return fmt.Sprintf("%s stands on every page", m.Title()), nil
		}
		return fmt.Sprintf("%s stands on %s only", m.Title(), p.Name), nil
	})
}

// AddProfile adds a profile with a first page for every controller, and returns
// its id.
func (s *Service) AddProfile(who Who, name string) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		name = strings.TrimSpace(name)
		if text := show.CheckName(name); text != "" {
			return "", FieldErrors{{Field: "name", Text: text}}
		}
		for _, o := range sh.Profiles() {
			if strings.EqualFold(o.Name, name) {
				return "", FieldErrors{{Field: "name", Text: "There is a profile " + o.Name + " already."}}
			}
		}
		d.Put(&show.Profile{ID: id, Name: name, Position: len(sh.Profiles()),
			Slug: show.Slug(name, func(t string) bool {
				return slices.ContainsFunc(sh.Profiles(), func(o *show.Profile) bool { return o.Slug == t })
			})})
		done := map[string]bool{}
		for _, c := range sh.Controllers() {
			l := s.sheets.Controller(c.Layout)
			if l == nil || done[c.Layout] {
				continue
			}
			done[c.Layout] = true
			for _, zone := range l.Zones() {
				d.Put(&show.Page{ID: newID(), Slug: "home", Name: "Home", Profile: id, Layout: c.Layout, Zone: zone})
			}
		}
		return "Add the profile " + name, nil
	})
}

// Start has a controller begin with a page in its zone.
func (s *Service) Start(who Who, id, page string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old, p := sh.Controller(id), sh.Page(page)
		if old == nil {
			return "", notFound("controller")
		}
		if p == nil || p.Layout != old.Layout {
			return "", FieldErrors{{Field: "page", Text: "The controller has no such page."}}
		}
		c := *old
		c.Start = []string{page}
		for _, o := range old.Start {
			if q := sh.Page(o); q != nil && (q.Profile != p.Profile || q.Zone != p.Zone) {
				c.Start = append(c.Start, o)
			}
		}
		d.Put(&c)
		return fmt.Sprintf("%s begins with %s", c.Name, p.Name), nil
	})
}

// Place moves a controller on the desk drawing; x and y in CSS pixels.
func (s *Service) Place(who Who, id string, x, y int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Controller(id)
		if old == nil {
			return "", notFound("controller")
		}
		c := *old
		c.X, c.Y = min(max(x, 0), 8000), min(max(y, 0), 8000)
		d.Put(&c)
		return "Move " + c.Name + " on the desk", nil
	})
}

// RemoveController takes a controller off the desk. Its pages stay.
func (s *Service) RemoveController(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		c := sh.Controller(id)
		if c == nil {
			return "", notFound("controller")
		}
		d.Delete(c.Ref())
		return "Remove " + c.Name, nil
	})
}
