// Package parts takes pages and macros of one show into another, with the devices they drive put in the place of those there.
package parts

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// self is the id of Synaptor as a device, which every show has.
const self = "synaptor"

// Wish says what of another show is taken.
type Wish struct {
	Pages  []string `json:"pages"`  // ids of the other show
	Macros []string `json:"macros"` // as well; those that are run by what is taken come along
	// Devices are those of this show that stand in for others, by the id of the other; empty: that one comes along.
	Devices map[string]string `json:"devices"`
	// Beside puts what has the name of something here beside it, under a name of its own; else it takes its place.
	Beside bool `json:"beside"`
}

// What becomes of a part.
const (
	New     = "new"         // nothing here has its name
	InPlace = "in place"    // of what has its name here
	Beside  = "beside"      // what has its name here, as something else
	Along   = "comes along" // because something that is taken needs it
	StandIn = "stands in"   // a device here is driven instead
)

// Row is what becomes of one part.
type Row struct {
	Kind  show.Kind `json:"kind"`
	ID    string    `json:"id"` // in the other show
	Title string    `json:"title"`
	What  string    `json:"what"`
	// As is what it is called here: the name beside another, or the device that stands in.
	As string `json:"as"`
}

// taking is a wish on its way.
type taking struct {
	now, other *show.Show
	wish       Wish
	d          *show.Draft
	newID      func() string
	rows       []Row
	// The ids here, by those of the other show.
	pages, macros, steps, devices map[string]string
	names                         map[string]string // of the devices here that are driven
}

// Take puts what is wished into a draft of this show, and tells what becomes of each part. It fails where the other show has
// something not, or where no profile of this one can have the pages.
func Take(d *show.Draft, now, other *show.Show, w Wish, newID func() string) ([]Row, error) {
	t := &taking{now: now, other: other, wish: w, d: d, newID: newID, pages: map[string]string{}, macros: map[string]string{}, steps: map[string]string{}, devices: map[string]string{}, names: map[string]string{}}
	pages, macros, err := t.wanted()
	if err != nil {
		return nil, err
	}
	for _, id := range t.driven(pages, macros) {
		if err := t.device(id); err != nil {
			return nil, err
		}
	}
	for _, m := range macros {
		t.macroID(m)
	}
	for _, p := range pages {
		if err := t.page(p); err != nil {
			return nil, err
		}
	}
	for _, m := range macros {
		t.macro(m)
	}
	for _, m := range t.keysOf(pages) {
		t.key(m)
	}
	return t.rows, nil
}

// device decides what is driven in the place of a device of the other show.
func (t *taking) device(id string) error {
	was := t.other.Device(id)
	if here := t.now.Device(t.wish.Devices[id]); here != nil {
		if here.Type != was.Type {
			return fmt.Errorf("%s cannot stand in for %s: it is something else", here.Name, was.Name)
		}
		t.devices[id], t.names[here.ID] = here.ID, here.Name
		t.rows = append(t.rows, Row{show.KindDevice, id, was.Name, StandIn, here.Name})
		return nil
	}
	c := *was
	c.Secret, c.Position = "", len(t.d.Now().Devices())+1
	if t.now.Device(id) != nil {
		c.ID = t.newID()
	}
	c.Name = free(c.Name, func(name string) bool {
		return slices.ContainsFunc(t.d.Now().Devices(), func(o *show.Device) bool { return strings.EqualFold(o.Name, name) })
	})
	c.Aliases, c.Slug = nil, show.Slug(c.Name, t.d.Now().DeviceSlugTaken)
	t.devices[id], t.names[c.ID] = c.ID, c.Name
	t.d.Put(&c)
	t.rows = append(t.rows, Row{show.KindDevice, id, was.Name, Along, c.Name})
	return nil
}

// free gives a name that is not taken: it, or it with a number.
func free(name string, taken func(string) bool) string {
	out := name
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	return out
}

// StandIns lists the devices here that can stand in for each device of another show: those of its type.
func StandIns(now, other *show.Show) map[string][]string {
	out := map[string][]string{}
	for _, d := range other.Devices() {
		out[d.ID] = []string{}
		for _, here := range now.Devices() {
			if here.Type == d.Type {
				out[d.ID] = append(out[d.ID], here.ID)
			}
		}
	}
	return out
}

// Suggest proposes which device here stands in for each device of another show: the one with the same id or name, else the only
// one of its type. Where there is none, it comes along.
func Suggest(now, other *show.Show) map[string]string {
	out := map[string]string{}
	for id, can := range StandIns(now, other) {
		was := other.Device(id)
		same := slices.IndexFunc(can, func(o string) bool { return o == id || strings.EqualFold(now.Device(o).Name, was.Name) })
		switch {
		case same >= 0:
			out[id] = can[same]
		case len(can) == 1:
			out[id] = can[0]
		}
	}
	return out
}

// page takes a page itself.
func (t *taking) page(p *show.Page) error {
	profile := t.profileFor(p)
	if profile == "" {
		return fmt.Errorf("this show has no profile; add a controller first")
	}
	named := func(name string) *show.Page {
		for _, o := range t.d.Now().PagesFor(profile, p.Layout, p.Zone) {
			if strings.EqualFold(o.Name, name) {
				return o
			}
		}
		return nil
	}
	c, row := *p, Row{show.KindPage, p.ID, p.Name, New, p.Name}
	c.Profile = profile
	switch here := named(p.Name); {
	case here != nil && !t.wish.Beside:
		c.ID, c.Slug, c.Position, row.What = here.ID, here.Slug, here.Position, InPlace
		t.empty(here)
	default:
		c.ID, c.Position = t.newID(), len(t.d.Now().PagesFor(profile, p.Layout, p.Zone))
		c.Name = free(p.Name, func(name string) bool { return named(name) != nil })
		c.Slug = show.Slug(c.Name, func(s string) bool {
			return slices.ContainsFunc(t.d.Now().Pages(), func(o *show.Page) bool { return o.Slug == s })
		})
		if row.As = c.Name; here != nil {
			row.What = Beside
		}
	}
	t.pages[p.ID] = c.ID
	t.d.Put(&c)
	t.rows = append(t.rows, row)
	return nil
}

// profileFor is the profile here that has a page of another show: one of the same name, else the first.
func (t *taking) profileFor(p *show.Page) string {
	name := ""
	if was := t.other.Profile(p.Profile); was != nil {
		name = was.Name
	}
	all := t.now.Profiles()
	for _, o := range all {
		if strings.EqualFold(o.Name, name) {
			return o.ID
		}
	}
	if len(all) == 0 {
		return ""
	}
	return all[0].ID
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

// macroID decides under which id and name a macro is taken.
func (t *taking) macroID(m *show.Macro) {
	named := func(name string) *show.Macro {
		for _, o := range t.d.Now().Macros() {
			if strings.EqualFold(o.Name, name) {
				return o
			}
		}
		return nil
	}
	c, row := *m, Row{show.KindMacro, m.ID, m.Name, New, m.Name}
	if !slices.Contains(t.wish.Macros, m.ID) {
		row.What = Along
	}
	switch here := named(m.Name); {
	case here != nil && !t.wish.Beside:
		c.ID, c.Slug, c.Position, row.What = here.ID, here.Slug, here.Position, InPlace
		for _, st := range t.now.StepsOf(here.ID) {
			t.d.Delete(st.Ref())
		}
	default:
		c.ID, c.Position = t.newID(), len(t.d.Now().Macros())
		c.Name = free(m.Name, func(name string) bool { return named(name) != nil })
		c.Slug = show.Slug(c.Name, func(s string) bool {
			return slices.ContainsFunc(t.d.Now().Macros(), func(o *show.Macro) bool { return o.Slug == s })
		})
		if row.As = c.Name; here != nil {
			row.What = Beside
		}
	}
	t.macros[m.ID] = c.ID
	for _, st := range t.other.StepsOf(m.ID) {
		t.steps[st.ID] = t.newID()
	}
	t.d.Put(&c)
	t.rows = append(t.rows, row)
}

// macro takes the steps of a macro.
func (t *taking) macro(m *show.Macro) {
	for _, st := range t.other.StepsOf(m.ID) {
		c := *st
		c.ID, c.Macro, c.Parent = t.steps[st.ID], t.macros[m.ID], t.steps[st.Parent]
		c.When = t.text(st.When)
		if st.Action != nil {
			call := t.call(*st.Action)
			c.Action = &call
		}
		if id, has := t.macros[st.Run]; has {
			c.Run = id
		}
		t.d.Put(&c)
	}
}

// key takes a mapping to the pages that are taken.
func (t *taking) key(m *show.Mapping) {
	c := m.Clone()
	c.ID, c.Placements = t.newID(), nil
	for _, at := range m.Placements {
		if page, has := t.pages[at.Page]; has {
			c.Placements = append(c.Placements, show.Placement{Page: page, Control: at.Control, Covers: at.Covers})
		}
	}
	for i, r := range c.Responses {
		c.Responses[i].Action = t.call(r.Action)
	}
	c.Face.Label = t.text(c.Face.Label)
	if c.Face.Live != nil {
		live := *c.Face.Live
		live.Device = t.deviceOf(live.Device)
		c.Face.Live = &live
	}
	for i, l := range c.Lamps {
		c.Lamps[i].When, c.Lamps[i].Label = t.text(l.When), t.text(l.Label)
	}
	if c.Guard != nil {
		g := *c.Guard
		g.When = t.text(g.When)
		if id, has := t.steps[g.Branch]; has {
			g.Branch = id
		}
		c.Guard = &g
	}
	if len(c.Branches) > 0 {
		looks := map[string]show.Look{}
		for _, id := range slices.Sorted(maps.Keys(c.Branches)) {
			look := c.Branches[id]
			look.Label = t.text(look.Label)
			if here, has := t.steps[id]; has {
				id = here
			}
			looks[id] = look
		}
		c.Branches = looks
	}
	t.d.Put(c)
}

func (t *taking) deviceOf(id string) string {
	if here, has := t.devices[id]; has {
		return here
	}
	return id
}

// call has an action drive the devices here, and name the pages and macros here.
func (t *taking) call(c show.Call) show.Call {
	c.Params = maps.Clone(c.Params)
	if c.Device != self {
		c.Device = t.deviceOf(c.Device)
		if name := t.names[c.Device]; name != "" {
			c.DeviceName = name
		}
	} else {
		for name, ids := range map[string]map[string]string{"macro": t.macros, "page": t.pages, "device": t.devices} {
			if id, has := ids[c.Params[name]]; has {
				c.Params[name] = id
			}
		}
	}
	for name, v := range c.Params {
		if c.Device != self {
			c.Params[name] = t.text(v)
		}
	}
	return c
}

// text has the expressions of a text ask the devices here.
func (t *taking) text(s string) string {
	for id, here := range t.devices {
		for _, quote := range []string{"'", `"`} {
			s = strings.ReplaceAll(s, quote+id+":", quote+"\x00"+here+":")
		}
	}
	return strings.ReplaceAll(s, "\x00", "")
}
