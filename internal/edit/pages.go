package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
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

// AddPage adds a page after the others of its zone, or several whose names stand
// with commas between them, and returns the id of the first.
func (s *Service) AddPage(who Who, n NewPage) (first string, err error) {
	return first, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(n.Layout)
		switch {
		case sh.Profile(n.Profile) == nil:
			return "", FieldErrors{{Field: "profile", Text: "There is no such profile."}}
		case l == nil || !slices.Contains(l.Zones(), n.Zone):
			return "", FieldErrors{{Field: "zone", Text: "There is no such layout, or it has no such zone."}}
		}
		names := strings.FieldsFunc(n.Name, func(r rune) bool { return r == ',' })
		if len(names) == 0 {
			names = []string{n.Name}
		}
		for i, name := range names {
			now := d.Now()
			p := &show.Page{ID: newID(), Name: strings.TrimSpace(name), Profile: n.Profile, Layout: n.Layout, Zone: n.Zone}
			for _, o := range now.PagesFor(n.Profile, n.Layout, n.Zone) {
				p.Position = max(p.Position, o.Position+1)
			}
			p.Slug = pageSlug(now, p)
			d.Put(p)
			if err := checkPageName(now, p); err != nil {
				return "", err
			}
			if names[i] = p.Name; i == 0 {
				first = p.ID
			}
		}
		if len(names) == 1 {
			return "Add the page " + names[0], nil
		}
		return "Add the pages " + strings.Join(names, ", "), nil
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

// ScratchPage makes a page one for trying things out, or one of the show again.
func (s *Service) ScratchPage(who Who, id string, scratch bool) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Page(id)
		if old == nil {
			return "", notFound("page")
		}
		p := *old
		p.Scratch = scratch
		d.Put(&p)
		if scratch {
			return "Make " + p.Name + " a scratch page", nil
		}
		return "Make " + p.Name + " a page of the show", nil
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

// addAfter adds an empty page after another one of its zone. A name that is taken
// gets a number.
func addAfter(d *show.Draft, after *show.Page, name string) (*show.Page, error) {
	sh := d.Now()
	p := &show.Page{ID: newID(), Name: strings.TrimSpace(name), Profile: after.Profile, Layout: after.Layout, Zone: after.Zone, Position: after.Position + 1}
	if text := show.CheckName(p.Name); text != "" {
		return nil, FieldErrors{{Field: "name", Text: text}}
	}
	base := strings.TrimSpace(strings.TrimRight(p.Name, "0123456789"))
	for n := 2; checkPageName(sh, p) != nil; n++ {
		if p.Name = fmt.Sprintf("%s %d", base, n); n > 1000 {
			return nil, checkPageName(sh, p)
		}
	}
	p.Slug = pageSlug(sh, p)
	for _, o := range sh.PagesFor(after.Profile, after.Layout, after.Zone) {
		if o.Position > after.Position {
			later := *o
			later.Position++
			d.Put(&later)
		}
	}
	d.Put(p)
	return p, nil
}

// goTo is the action that shows a page.
func goTo(page string) show.Call {
	return show.Call{Device: program.SelfID, DeviceName: "Synaptor", Action: "page", Params: map[string]string{"page": page}}
}

// linkPages puts a key on one page that leads to another, and one at the same place
// that leads back, under the same finger.
func linkPages(d *show.Draft, from, to *show.Page, control string) {
	for _, way := range [][2]*show.Page{{from, to}, {to, from}} {
		d.ClearPlacement(way[0].ID, control)
		d.Put(newMapping(way[0].ID, control, input.Press, goTo(way[1].ID)))
	}
}

// canPress fails where a control cannot be pressed, or has a standing mapping.
func (s *Service) canPress(sh *show.Show, p *show.Page, l *device.ControllerSheet, control string) error {
	c, _ := l.Control(control)
	if !slices.Contains(c.Gestures, input.Press) {
		return FieldErrors{{Field: "control", Text: control + " cannot be pressed, so no page can be behind it."}}
	}
	return standing(sh, p, control)
}

// PageBehind adds a page behind a key: the key leads there, and the key at the
// same place leads back. It returns the new page's id.
func (s *Service) PageBehind(who Who, page, control, name string) (made string, err error) {
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p, l, err := s.onPage(sh, page, control)
		if err == nil {
			err = s.canPress(sh, p, l, control)
		}
		if err != nil {
			return "", err
		}
		to, err := addAfter(d, p, name)
		if err != nil {
			return "", err
		}
		made = to.ID
		linkPages(d, p, to, control)
		return fmt.Sprintf("A page %s behind %s of %s", to.Name, control, p.Name), nil
	})
}

// Extract moves mappings of a page to a new one, each to the same control, and
// returns the new page's id. Where a free key is left behind, the first of the
// controls leads to the new page.
func (s *Service) Extract(who Who, page string, controls []string, name string) (made string, err error) {
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(page)
		if p == nil {
			return "", notFound("page")
		}
		if err := standing(sh, p, controls...); err != nil {
			return "", err
		}
		to, err := addAfter(d, p, name)
		if err != nil {
			return "", err
		}
		made = to.ID
		n := 0
		for _, c := range controls {
			if m := sh.MappingAt(page, c); m != nil {
				unplace(d, m, page, c)
				put(d, m, show.Placement{Page: to.ID, Control: c})
				n++
			}
		}
		if n == 0 {
			return "", notFound("mapping")
		}
		return fmt.Sprintf("Move %d keys of %s to the page %s", n, p.Name, to.Name), nil
	})
}

// Launcher adds a page with a key for every other page of its zone, in order. A
// zone with more pages than keys gets further such pages. It returns the id of the
// first one.
func (s *Service) Launcher(who Who, n NewPage) (made string, err error) {
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(n.Layout)
		pages := sh.PagesFor(n.Profile, n.Layout, n.Zone)
		if l == nil || len(pages) == 0 {
			return "", FieldErrors{{Field: "zone", Text: "There is no page here yet that a key could lead to."}}
		}
		at := *pages[0]
		at.Position--
		on, err := addAfter(d, &at, n.Name)
		if err != nil {
			return "", err
		}
		made = on.ID
		free := slices.DeleteFunc(s.open(sh, on, l), func(c device.Control) bool { return !slices.Contains(c.Gestures, input.Press) })
		if len(free) < 2 {
			return "", FieldErrors{{Field: "zone", Text: "This zone has too few keys that can be pressed."}}
		}
		first := on
		for i, p := range pages {
			if len(free) == 1 && i < len(pages)-1 {
				more, err := addAfter(d, on, first.Name)
				if err != nil {
					return "", err
				}
				door := free[0].ID
				linkPages(d, on, more, door)
				on = more
				free = slices.DeleteFunc(s.open(sh, on, l), func(c device.Control) bool {
					return c.ID == door || !slices.Contains(c.Gestures, input.Press)
				})
			}
			d.Put(newMapping(on.ID, free[0].ID, input.Press, goTo(p.ID)))
			free = free[1:]
		}
		return "The launcher page " + first.Name, nil
	})
}

// DuplicatePage adds a page with copies of another one's mappings, and returns
// its id.
func (s *Service) DuplicatePage(who Who, id string) (made string, err error) {
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Page(id)
		if old == nil {
			return "", notFound("page")
		}
		p, err := addAfter(d, old, old.Name)
		if err != nil {
			return "", err
		}
		made, p.Notes = p.ID, old.Notes
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
		return "Duplicate the page " + old.Name, nil
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

// RenameController gives a controller another name. Its address stays, so that panels,
// legends and other programs go on.
func (s *Service) RenameController(who Who, id, name string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Controller(id)
		if old == nil {
			return "", notFound("controller")
		}
		c := *old
		c.Name = strings.TrimSpace(name)
		if text := show.CheckName(c.Name); text != "" {
			return "", FieldErrors{{Field: "name", Text: text}}
		}
		d.Put(&c)
		return fmt.Sprintf("Rename %s to %s", old.Name, c.Name), nil
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
		for _, l := range sh.LinksOf(id) {
			d.Delete(l.Ref())
		}
		return "Remove " + c.Name, nil
	})
}
