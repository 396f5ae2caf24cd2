package parts

import (
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// named finds what has a name among some, without regard to case.
func named[T show.Entity](all []T, name string) (found T, ok bool) {
	i := slices.IndexFunc(all, func(o T) bool { return strings.EqualFold(o.Title(), name) })
	if i < 0 {
		return found, false
	}
	return all[i], true
}

// placed decides whether a part takes the place of what has its name among some here, and what it is called otherwise.
func placed[T show.Entity](t *taking, part T, among []T) (row Row, here T) {
	r := part.Ref()
	row = Row{Kind: r.Kind, ID: r.ID, Title: part.Title(), What: New, As: part.Title()}
	if here, row.Clash = named(among, row.Title); !row.Clash {
		return row, here
	}
	if slices.Contains(t.wish.InPlace, r.ID) {
		row.What = InPlace
		return row, here
	}
	row.What, row.As = Beside, free(row.Title, func(name string) bool { _, taken := named(among, name); return taken })
	return row, here
}

// macroID decides under which id and name a macro is taken.
func (t *taking) macroID(m *show.Macro) {
	c := *m
	row, here := placed(t, m, t.d.Now().Macros())
	if row.What == New && !slices.Contains(t.wish.Macros, m.ID) {
		row.What = Along
	}
	if row.What == InPlace {
		c.ID, c.Slug, c.Position = here.ID, here.Slug, here.Position
		for _, st := range t.now.StepsOf(here.ID) {
			t.d.Delete(st.Ref())
		}
	} else {
		c.ID, c.Name, c.Position = t.newID(), row.As, len(t.d.Now().Macros())
		c.Slug = show.Slug(c.Name, func(s string) bool {
			return slices.ContainsFunc(t.d.Now().Macros(), func(o *show.Macro) bool { return o.Slug == s })
		})
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
	if c.Placements = t.placements(m); len(c.Placements) == 0 {
		return // it found no room
	}
	c.ID = t.newID()
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

func (t *taking) deviceOf(id string) string { return either(t.devices, id) }

// call has an action drive the devices here, and name what is here.
func (t *taking) call(c show.Call) show.Call {
	c.Params = maps.Clone(c.Params)
	if c.Device != self {
		c.Device = t.deviceOf(c.Device)
		if name := t.names[c.Device]; name != "" {
			c.DeviceName = name
		}
	} else {
		for name, ids := range t.own() {
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

// text has the expressions of a text ask what is here.
func (t *taking) text(s string) string {
	for id, here := range t.devices {
		for _, quote := range []string{"'", `"`} {
			s = strings.ReplaceAll(s, quote+id+":", quote+"\x00"+here+":")
		}
	}
	for kind, ids := range t.own() {
		for id, here := range ids {
			for _, quote := range []string{"'", `"`} {
				s = strings.ReplaceAll(s, quote+self+":"+kind+"/"+id+"/", quote+"\x00"+self+":"+kind+"/"+here+"/")
			}
		}
	}
	return strings.ReplaceAll(s, "\x00", "")
}
