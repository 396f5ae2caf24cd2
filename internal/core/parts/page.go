package parts

import (
	"fmt"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// controllerOf is the controller of the other show that shows a page: of its layout, and if there is one, with its profile.
func (t *taking) controllerOf(p *show.Page) *show.Controller {
	all := slices.DeleteFunc(t.other.Controllers(), func(c *show.Controller) bool { return c.Layout != p.Layout })
	if i := slices.IndexFunc(all, func(c *show.Controller) bool { return c.Profile == p.Profile }); i > 0 {
		return all[i]
	}
	if len(all) == 0 {
		return nil
	}
	return all[0]
}

// shownBy decides which controllers here show the pages that are taken: those that stand in, and those that come along.
func (t *taking) shownBy(pages []*show.Page) error {
	for _, p := range pages {
		if was := t.controllerOf(p); was != nil {
			if err := t.controller(was, p.Profile); err != nil {
				return err
			}
		}
	}
	return nil
}

// controller decides which controller here is in the place of one of the other show. One that comes along has a profile.
func (t *taking) controller(was *show.Controller, profile string) error {
	if t.controllers[was.ID] != "" {
		return nil
	}
	row := Row{Kind: show.KindController, ID: was.ID, Title: was.Name, What: StandIn}
	if id := t.wish.Controllers[was.ID]; id != "" {
		here := t.now.Controller(id)
		if here == nil {
			return fmt.Errorf("this show has no controller %q", id)
		}
		t.controllers[was.ID], row.As = here.ID, here.Name
		t.rows = append(t.rows, row)
		return nil
	}
	c := *was
	if t.now.Controller(c.ID) != nil {
		c.ID = t.newID()
	}
	c.Name = free(c.Name, func(name string) bool { _, taken := named(t.d.Now().Controllers(), name); return taken })
	c.Slug = show.Slug(c.Name, func(s string) bool { return t.d.Now().ControllerBySlug(s) != nil })
	c.Aliases, c.Start, c.Position, c.Profile = nil, nil, len(t.d.Now().Controllers()), t.profileNamed(profile)
	t.controllers[was.ID], row.What, row.As = c.ID, Along, c.Name
	t.d.Put(&c)
	t.links(was.ID, c.ID)
	t.rows = append(t.rows, row)
	return nil
}

// links takes the links of a controller that comes along, except to what is attached here already.
func (t *taking) links(was, here string) {
	for _, l := range t.other.LinksOf(was) {
		c := *l
		c.ID, c.Controller, c.Position = t.newID(), here, len(t.d.Now().Links())
		if t.d.Now().Same(&c) == nil {
			t.d.Put(&c)
		}
	}
}

// profileNamed is the profile here that stands for one of the other show: it is taken whole, or one here has its name, or one is added.
func (t *taking) profileNamed(id string) string {
	if here := t.profiles[id]; here != "" {
		return here
	}
	was := t.other.Profile(id)
	if was == nil {
		was = &show.Profile{Name: "Main"}
	}
	if here, has := named(t.d.Now().Profiles(), was.Name); has {
		return here.ID
	}
	return t.addProfile(was.Name)
}

// addProfile adds an empty profile, under a name that is free.
func (t *taking) addProfile(name string) string {
	all := t.d.Now().Profiles()
	name = free(name, func(name string) bool { _, taken := named(all, name); return taken })
	slug := show.Slug(name, func(s string) bool {
		return slices.ContainsFunc(all, func(o *show.Profile) bool { return o.Slug == s })
	})
	c := show.Profile{ID: t.newID(), Slug: slug, Name: name, Position: len(all)}
	t.d.Put(&c)
	return c.ID
}

// profile takes a profile that is taken whole: its pages follow.
func (t *taking) profile(was *show.Profile) {
	row, here := placed(t, was, t.d.Now().Profiles())
	if row.What == InPlace {
		t.profiles[was.ID] = here.ID
	} else {
		t.profiles[was.ID] = t.addProfile(row.As)
	}
	t.rows = append(t.rows, row)
}

// profileFor is the profile here that gets a page: one that is taken whole, that of the controller that shows it, one of the same
// name, else the first.
func (t *taking) profileFor(p *show.Page) string {
	if id := t.profiles[p.Profile]; id != "" {
		return id
	}
	now := t.d.Now()
	if was := t.controllerOf(p); was != nil {
		if here := now.Controller(t.controllers[was.ID]); here != nil {
			return here.Profile
		}
	}
	if was := t.other.Profile(p.Profile); was != nil {
		if here, has := named(now.Profiles(), was.Name); has {
			return here.ID
		}
	}
	if all := now.Profiles(); len(all) > 0 {
		return all[0].ID
	}
	return t.profileNamed(p.Profile)
}

// layoutFor is the layout here that shows a page, and the zone of it.
func (t *taking) layoutFor(p *show.Page) (layout, zone string) {
	was := t.controllerOf(p)
	if was == nil {
		return p.Layout, p.Zone
	}
	layout = t.d.Now().Controller(t.controllers[was.ID]).Layout
	return layout, t.zoneOf(layout, p.Zone)
}

// zoneOf is a zone of a layout: of that name, else its first.
func (t *taking) zoneOf(layout, zone string) string {
	sheet := t.sheets(layout)
	if sheet == nil {
		return zone
	}
	if all := sheet.Zones(); len(all) > 0 && !slices.Contains(all, zone) {
		return all[0]
	}
	return zone
}

// page takes a page itself.
func (t *taking) page(p *show.Page) {
	c := *p
	c.Profile = t.profileFor(p)
	c.Layout, c.Zone = t.layoutFor(p)
	among := t.d.Now().PagesFor(c.Profile, c.Layout, c.Zone)
	row, here := placed(t, p, among)
	if row.What == InPlace {
		c.ID, c.Slug, c.Position = here.ID, here.Slug, here.Position
		t.empty(here)
	} else {
		c.ID, c.Name, c.Position = t.newID(), row.As, len(among)
		c.Slug = show.Slug(c.Name, func(s string) bool {
			return slices.ContainsFunc(t.d.Now().Pages(), func(o *show.Page) bool { return o.Slug == s })
		})
	}
	left := t.findRoom(p, c.Layout, c.Zone)
	if left > 0 {
		row.Note = fmt.Sprintf("%s no room there", keysFind(left))
	}
	c.Notes = map[string]string{}
	for control, note := range p.Notes {
		if at, has := t.spots[p.ID][control]; has {
			c.Notes[at] = note
		} else if p.Layout == c.Layout {
			c.Notes[control] = note
		}
	}
	t.pages[p.ID] = c.ID
	t.d.Put(&c)
	t.rows = append(t.rows, row)
}

func keysFind(n int) string {
	if n == 1 {
		return "a key finds"
	}
	return fmt.Sprintf("%d keys find", n)
}

// findRoom decides on which control each key of a page goes, and tells how many find none: on the control of the same name, else on
// the next one of its kind that is free and can make its gestures.
func (t *taking) findRoom(p *show.Page, layout, zone string) (left int) {
	spots := map[string]string{}
	t.spots[p.ID] = spots
	sheet, from, used := t.sheets(layout), t.sheets(p.Layout), map[string]bool{}
	type wants struct {
		control  string
		gestures []string
	}
	var late []wants
	fits := func(c device.Control, w wants) bool {
		if c.Zone != zone || len(c.Unable(w.gestures)) > 0 {
			return false
		}
		if from == nil {
			return true
		}
		was, has := from.Control(w.control)
		return !has || pressed(was.Kind) && pressed(c.Kind) || was.Kind == c.Kind
	}
	for _, m := range t.other.Mappings() {
		for _, at := range m.Placements {
			if at.Page != p.ID {
				continue
			}
			if sheet != nil && layout != p.Layout {
				w := wants{at.Control, m.Gestures()}
				if c, has := sheet.Control(at.Control); !has || !fits(c, w) {
					late = append(late, w)
					continue
				}
			}
			spots[at.Control], used[at.Control] = at.Control, true
		}
	}
	for _, w := range late {
		left++
		for _, c := range sheet.Controls() {
			if !used[c.ID] && fits(c, w) {
				spots[w.control], used[c.ID] = c.ID, true
				left--
				break
			}
		}
	}
	return left
}

// pressed tells whether a kind of control is a sort of key.
func pressed(kind string) bool { return kind == "key" || kind == "touch" || kind == "button" }

// placements are the places here of a mapping of the other show.
func (t *taking) placements(m *show.Mapping) (out []show.Placement) {
	for _, at := range m.Placements {
		if st := at.Standing; st != nil {
			if profile := t.profiles[st.Profile]; profile != "" {
				out = append(out, t.standing(at, profile)...)
			}
			continue
		}
		if control, has := t.spots[at.Page][at.Control]; has {
			out = append(out, show.Placement{Page: t.pages[at.Page], Control: control, Covers: at.Covers})
		}
	}
	return out
}

// standing is the place of what stands on every page of a profile that is taken whole: where something is, that stays.
func (t *taking) standing(at show.Placement, profile string) []show.Placement {
	layout := at.Standing.Layout
	for _, was := range t.other.Controllers() {
		if id := t.controllers[was.ID]; was.Layout == layout && id != "" {
			layout = t.d.Now().Controller(id).Layout
			break
		}
	}
	to := show.Standing{Profile: profile, Layout: layout, Zone: t.zoneOf(layout, at.Standing.Zone)}
	if sheet := t.sheets(layout); sheet != nil {
		if c, has := sheet.Control(at.Control); !has || c.Zone != to.Zone {
			return nil
		}
	}
	if _, standing := t.d.Now().Placed(); standing[to] != nil && standing[to].At[at.Control] != nil {
		return nil
	}
	return []show.Placement{{Standing: &to, Control: at.Control, Covers: at.Covers}}
}

// empty takes every key off a page; one that is elsewhere too stays there.
func (t *taking) empty(p *show.Page) {
	for _, m := range t.d.Now().Mappings() {
		for _, at := range m.Placements {
			if at.Page == p.ID {
				t.d.ClearPlacement(p.ID, at.Control)
			}
		}
	}
}

// standsIn tells whether a mapping stands on every page of a profile that is taken whole.
func (t *taking) standsIn(m *show.Mapping) bool {
	return slices.ContainsFunc(m.Placements, func(at show.Placement) bool {
		return at.Standing != nil && slices.Contains(t.wish.Profiles, at.Standing.Profile)
	})
}
