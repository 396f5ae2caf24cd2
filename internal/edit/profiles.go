package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// checkProfileName says what is wrong with the name of a profile.
func checkProfileName(sh *show.Show, p *show.Profile) error {
	if text := show.CheckName(p.Name); text != "" {
		return FieldErrors{{Field: "name", Text: text}}
	}
	for _, o := range sh.Profiles() {
		if o.ID != p.ID && strings.EqualFold(o.Name, p.Name) {
			return FieldErrors{{Field: "name", Text: "There is a profile " + o.Name + " already."}}
		}
	}
	return nil
}

func profileSlug(sh *show.Show, name string) string {
	return show.Slug(name, func(t string) bool {
		return slices.ContainsFunc(sh.Profiles(), func(o *show.Profile) bool { return o.Slug == t })
	})
}

// AddProfile adds a profile with a first page for every controller, and returns
// its id.
func (s *Service) AddProfile(who Who, name string) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := &show.Profile{ID: id, Name: strings.TrimSpace(name), Position: len(sh.Profiles()), Slug: profileSlug(sh, name)}
		d.Put(p)
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
		return "Add the profile " + p.Name, checkProfileName(sh, p)
	})
}

// RenameProfile gives a profile another name.
func (s *Service) RenameProfile(who Who, id, name string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Profile(id)
		if old == nil {
			return "", notFound("profile")
		}
		p := *old
		p.Name = strings.TrimSpace(name)
		d.Put(&p)
		return fmt.Sprintf("Rename the profile %s to %s", old.Name, p.Name), checkProfileName(sh, &p)
	})
}

// MoveProfile puts a profile at a place in the list, from 0.
func (s *Service) MoveProfile(who Who, id string, to int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Profile(id)
		if p == nil {
			return "", notFound("profile")
		}
		all := slices.DeleteFunc(sh.Profiles(), func(o *show.Profile) bool { return o.ID == id })
		for i, o := range slices.Insert(all, min(max(to, 0), len(all)), p) {
			moved := *o
			moved.Position = i
			d.Put(&moved)
		}
		return "Move the profile " + p.Name, nil
	})
}

// DuplicateProfile adds a profile with copies of another one's pages and mappings;
// keys that lead to a page lead to its copy. It returns the id.
func (s *Service) DuplicateProfile(who Who, id string) (made string, err error) {
	made = newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Profile(id)
		if old == nil {
			return "", notFound("profile")
		}
		p := *old
		p.ID, p.Position = made, len(sh.Profiles())
		for n := 2; ; n++ {
			if p.Name = fmt.Sprintf("%s %d", old.Name, n); checkProfileName(sh, &p) == nil || n > 1000 {
				break
			}
		}
		p.Slug = profileSlug(sh, p.Name)
		d.Put(&p)
		pages := map[string]string{}
		for _, page := range sh.Pages() {
			if page.Profile == id {
				c := *page
				c.ID, c.Profile = newID(), made
				pages[page.ID] = c.ID
				d.Put(&c)
			}
		}
		for _, m := range sh.Mappings() {
			c := m.Clone()
			c.ID, c.Placements = newID(), nil
			for _, at := range m.Placements {
				if to := pages[at.Page]; to != "" {
					at.Page = to
					c.Placements = append(c.Placements, at)
				} else if at.Standing != nil && at.Standing.Profile == id {
					with := *at.Standing
					with.Profile = made
					at.Standing = &with
					c.Placements = append(c.Placements, at)
				}
			}
			for i, r := range c.Responses {
				if to := pages[r.Action.Params["page"]]; to != "" {
					c.Responses[i].Action.Params["page"] = to
				}
			}
			if len(c.Placements) > 0 {
				d.Put(c)
			}
		}
		return "Duplicate the profile " + old.Name, checkProfileName(sh, &p)
	})
}

// DeleteProfile removes a profile with its pages and mappings. The last one, and
// one that a controller begins with, stay.
func (s *Service) DeleteProfile(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Profile(id)
		if p == nil {
			return "", notFound("profile")
		}
		if len(sh.Profiles()) < 2 {
			return "", FieldErrors{{Field: "profile", Text: "This is the only profile; a show needs one."}}
		}
		other := sh.Profiles()[0]
		if other.ID == id {
			other = sh.Profiles()[1]
		}
		for _, c := range sh.Controllers() {
			if c.Profile == id {
				moved := *c
				moved.Profile = other.ID
				d.Put(&moved)
				for _, zone := range s.zonesOf(c.Layout) {
					if len(sh.PagesFor(other.ID, c.Layout, zone)) == 0 {
						return "", FieldErrors{{Field: "profile", Text: fmt.Sprintf("%s would have no page: %s has none for it.", c.Name, other.Name)}}
					}
				}
			}
		}
		gone := map[string]bool{}
		for _, page := range sh.Pages() {
			if page.Profile == id {
				gone[page.ID] = true
				d.Delete(page.Ref())
			}
		}
		for _, m := range sh.Mappings() {
			c := m.Clone()
			c.Placements = slices.DeleteFunc(c.Placements, func(at show.Placement) bool {
				return gone[at.Page] || at.Standing != nil && at.Standing.Profile == id
			})
			if len(c.Placements) == 0 {
				d.Delete(c.Ref())
			} else {
				d.Put(c)
			}
		}
		d.Delete(p.Ref())
		return "Delete the profile " + p.Name, nil
	})
}

// StartProfile has a controller begin with a profile.
func (s *Service) StartProfile(who Who, controller, profile string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old, p := sh.Controller(controller), sh.Profile(profile)
		if old == nil || p == nil {
			return "", notFound("controller or profile")
		}
		c := *old
		c.Profile = profile
		d.Put(&c)
		return fmt.Sprintf("%s begins with the profile %s", c.Name, p.Name), nil
	})
}

// zonesOf lists the zones of a layout.
func (s *Service) zonesOf(layout string) []string {
	if l := s.sheets.Controller(layout); l != nil {
		return l.Zones()
	}
	return nil
}
