package inspect

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// key is a mapping that was looked through.
type key struct {
	of    *program.Mapping
	facts preflight.Key
	found []preflight.Finding
	uses  []string // devices
	safe  []string // the outputs that it makes safe; "" is all
	gone  bool     // what it was given may be gone
	looks string   // all that is seen of it; empty: that rests on what lives
	turns bool     // it leads to another page
}

// use notes that the mapping uses a device.
func (k *key) use(device string) {
	if device != program.SelfID && !slices.Contains(k.uses, device) {
		k.uses = append(k.uses, device)
	}
}

// judgeKeys looks those mappings through that are not as they were, or stand on pages that are not, and gives the pages that this touches.
func (j *Judged) judgeKeys(prev *Judged) (touched map[string]bool) {
	pages := j.pagesSince(prev)
	touched = maps.Clone(pages.changed)
	touch := func(k *key, by int) {
		for _, at := range k.facts.Placements {
			for _, p := range pagesOf(j.Program.Show, at) {
				touched[p.ID] = true
			}
		}
		for _, id := range k.uses {
			j.used[id] += by
		}
	}
	j.used, j.keys = map[string]int{}, make(map[string]*key, len(j.Program.Mappings))
	if prev != nil {
		j.used = maps.Clone(prev.used)
	}
	look := func(id string) {
		if was := j.keys[id]; was != nil {
			touch(was, -1)
			delete(j.keys, id)
		}
		if m := j.Program.Mappings[id]; m != nil {
			j.keys[id] = j.judgeKey(m)
			touch(j.keys[id], 1)
		}
	}
	if prev == nil {
		for id := range j.Program.Mappings {
			look(id)
		}
		return touched
	}
	j.keys = maps.Clone(prev.keys)
	for _, id := range j.Program.Changed(prev.Program) {
		look(id)
	}
	for id := range j.Program.Mappings {
		if was := j.keys[id]; was == nil || pages.matter(was) {
			look(id)
		}
	}
	return touched
}

// since are the pages that are not as they were.
type since struct {
	changed map[string]bool        // by id; those that came and went too
	zones   map[show.Standing]bool // theirs
	moved   bool                   // some came or went
}

// pagesSince finds the pages that are not as they were.
func (j *Judged) pagesSince(prev *Judged) since {
	out := since{changed: map[string]bool{}, zones: map[show.Standing]bool{}}
	if prev == nil || j.Program.Show.Alike(prev.Program.Show, show.KindPage) {
		return out
	}
	note := func(p *show.Page) {
		out.changed[p.ID] = true
		out.zones[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}] = true
	}
	for _, p := range j.inOrder {
		if was := prev.Program.Show.Page(p.ID); was != p {
			note(p)
			out.moved = out.moved || was == nil
		}
	}
	for _, p := range prev.inOrder {
		if j.Program.Show.Page(p.ID) == nil {
			note(p)
			out.moved = true
		}
	}
	return out
}

// matter reports whether the pages that have changed matter to a key.
func (s since) matter(k *key) bool {
	if len(s.changed) == 0 {
		return false
	}
	return s.moved && k.turns || slices.ContainsFunc(k.facts.Placements, func(at show.Placement) bool {
		return s.changed[at.Page] || at.Standing != nil && s.zones[*at.Standing]
	})
}

// pagesOf lists the pages on which a placement shows.
func pagesOf(sh *show.Show, at show.Placement) []*show.Page {
	if at.Standing != nil {
		return sh.PagesFor(at.Standing.Profile, at.Standing.Layout, at.Standing.Zone)
	}
	if p := sh.Page(at.Page); p != nil {
		return []*show.Page{p}
	}
	return nil
}

// judgeKey gathers what is known of a mapping, and looks it through.
func (j *Judged) judgeKey(m *program.Mapping) *key {
	k := &key{of: m}
	k.facts = preflight.Key{Mapping: m.Source, World: j.known, Mapped: m.Mapped, Face: j.face(m), Does: make([]preflight.Does, 0, len(m.Source.Responses))}
	k.facts.Name, k.facts.Title = naming(j.Program, m)
	for _, r := range m.Source.Responses {
		k.facts.Does = append(k.facts.Does, j.does(k, m, r))
	}
	k.facts.Lamps = j.lamps(m)
	for _, at := range m.Source.Placements {
		k.facts.Places = append(k.facts.Places, j.place(m, at)...)
	}
	k.looks = j.looks(m)
	if j.Program.Show.OnScratch(m.Source) {
		k.uses, k.gone = nil, false
		return k
	}
	k.found = append(k.facts.Find(), k.facts.Risks()...)
	return k
}

// place is a control on which a mapping stands; nothing for a page that no controller of the desk has.
func (j *Judged) place(m *program.Mapping, at show.Placement) []preflight.Place {
	typ, where := "", ""
	if at.Standing != nil {
		typ = at.Standing.Layout
	} else if p := j.Program.Show.Page(at.Page); p != nil {
		typ, where = p.Layout, p.Name
	}
	l, on := j.layouts[typ]
	if !on {
		return nil
	}
	c, has := l.byID[at.Control]
	return []preflight.Place{{Page: where, ID: at.Control, Control: c, Has: has, Timing: m.Timing(c.Kind)}}
}

// naming gives what a mapping is called in a sentence: a name, else the title of what it does.
func naming(p *program.Program, m *program.Mapping) (name string, title *expr.Template) {
	if m == nil {
		return "a key", nil
	}
	if m.Source.Name != "" || len(m.Source.Responses) == 0 {
		return m.Source.Title(), nil
	}
	first := &m.Source.Responses[0]
	c := m.Responses[first.Gesture]
	if mac := p.RunsMacro(c); mac != nil {
		return mac.Source.Name, nil
	}
	if c.Bound != nil {
		return "", c.Bound.Title
	}
	return strings.TrimPrefix(first.Action.DeviceName+": ", ": ") + first.Action.Action, nil
}

// called is what a mapping is called in a world.
func called(p *program.Program, m *program.Mapping, w device.Known) string {
	k := preflight.Key{World: w}
	k.Name, k.Title = naming(p, m)
	return k.Called()
}

// where tells on which control of which page a mapping stands, the first of several.
func where(sh *show.Show, m *show.Mapping) string {
	if len(m.Placements) == 0 {
		return "no page"
	}
	at := m.Placements[0]
	if p := sh.Page(at.Page); p != nil {
		return at.Control + " of " + p.Name
	}
	return at.Control + " of every page"
}

// does is what is known of a response.
func (j *Judged) does(k *key, m *program.Mapping, r show.Response) preflight.Does {
	p, c := j.Program, m.Responses[r.Gesture]
	d := preflight.Does{Gesture: r.Gesture, Problem: c.Problem}
	k.use(c.Device)
	if c.Bound == nil {
		d.ID = problemID(p, r.Action)
		if d.ID == "" {
			d.Problem = "" // it is told of the device
		}
		return d
	}
	dev := p.Devices[c.Device]
	if model := dev.Type.Model(dev.Model, ""); model != nil && slices.Contains(model.Lacks, r.Action.Action) {
		d.ID, d.Problem = "option-unsupported", unsupported(dev, model)
	}
	d.Risky = c.Bound.Action.Risky
	if d.Risky {
		d.Title = c.Bound.Title.Text(j.known)
	}
	k.gone = k.gone || len(c.Bound.GoneKeys()) > 0
	d.Picture = slices.ContainsFunc(c.Bound.Affects(), j.isPicture)
	d.Moves = d.Picture && !c.Bound.Absolute()
	j.makesSafe(k, c)
	if c.Dial != nil {
		dial := c.Dial
		d.Dial = &preflight.Dial{Min: dial.Range.Min, Max: dial.Range.Max, Step: dial.Range.Step, Own: program.OwnStep(dev, c.Bound), Fast: dial.Range.Acceleration > 0, Steps: dial.Choice || dial.Relative}
	}
	if mac := p.RunsMacro(c); mac != nil {
		d.Macro, d.Title = true, mac.Source.Name
		mac.EachStep(func(_ *macro.Node, s *program.Response) {
			if s == nil || s.Bound == nil {
				return
			}
			k.use(s.Device)
			d.Risky = d.Risky || s.Bound.Action.Risky
			d.Picture = d.Picture || slices.ContainsFunc(s.Bound.Affects(), j.isPicture)
			j.makesSafe(k, s)
		})
	}
	if id := r.Action.Params["page"]; c.Device == program.SelfID && id != "" && p.Show.Page(id) == nil {
		d.ID, d.Problem = "option-gone", "it leads to a page that is not there any more."
	}
	if id := r.Action.Params["macro"]; c.Device == program.SelfID && id != "" && p.Show.Macro(id) == nil {
		d.ID, d.Problem = "option-gone", "it runs a macro that is not there any more."
	}
	k.turns = k.turns || c.Device == program.SelfID && strings.HasPrefix(r.Action.Action, "page")
	return d
}

func unsupported(d *program.Device, m *device.ModelSpec) string {
	return fmt.Sprintf("%s cannot do this, for it is a %s.", d.Name, strings.ToLower(m.Title[:1])+m.Title[1:])
}

// problemID is which finding it is that an action cannot be sent; empty: that its device has no sheet, which is one of the device.
func problemID(p *program.Program, c show.Call) string {
	d := p.Devices[c.Device]
	switch {
	case d == nil:
		return "device-gone"
	case d.Type == nil:
		return ""
	case d.Type.Action(c.Action) == nil:
		return "action-unknown"
	}
	return "option-gone"
}

// makesSafe notes which outputs a response makes safe.
func (j *Judged) makesSafe(k *key, c *program.Response) {
	if c.Device == program.SelfID {
		switch c.Call.Action {
		case "safe":
			k.safe = append(k.safe, "")
		case "safe-output":
			k.safe = append(k.safe, c.Bound.Params["output"])
		}
		return
	}
	for _, s := range j.Program.Safe {
		if then := s.Source.Then; then.Device == c.Device && then.Action == c.Call.Action && maps.Equal(then.Params, c.Call.Params) {
			k.safe = append(k.safe, s.Source.ID)
		}
	}
}

// lamps judges the lamps of a mapping. Only its own are: those of its action are the sheet's.
func (j *Judged) lamps(m *program.Mapping) (out []preflight.Lamp) {
	own := m.Source.Lamps != nil && len(m.Source.Lamps) == len(m.Lamps)
	for _, l := range m.Lamps {
		lamp := preflight.Lamp{Tells: !own}
		if own {
			lamp.Never = j.never(l.When)
			for _, r := range m.Responses {
				lamp.Tells = lamp.Tells || r.Bound != nil && slices.ContainsFunc(r.Bound.Affects(), func(k reading.Key) bool { return slices.Contains(l.When.Deps, k) })
			}
		}
		out = append(out, lamp)
	}
	return out
}

// never says why a condition holds at no time; empty: it may.
func (j *Judged) never(when *expr.Program) string {
	if when.Constant() && !when.Holds(expr.Nothing{}) {
		return "its condition holds at no time."
	}
	for _, k := range when.Deps {
		d := j.Program.Devices[k.Device]
		switch {
		case d == nil:
			return "the device that it reads is gone."
		case d.Type != nil && d.Type.Reading(k.Path) == nil:
			return d.Name + " has no reading " + k.Path + "."
		}
	}
	return ""
}

// face is how a mapping looks, as far as that rests on nothing that lives.
func (j *Judged) face(m *program.Mapping) (out preflight.Face) {
	own := m.Source.Face
	if own == (show.Face{}) && (m.Label == nil || !m.Label.Constant()) && !slices.ContainsFunc(m.Lamps, func(l device.Lamp) bool { return l.Look != nil }) {
		return out // all of it is its action's, and what its label says is not known
	}
	look := func(state string, lamp int, l device.Look) {
		label := m.Label
		if l.Label != nil {
			label = l.Label
		}
		at := preflight.Look{State: state, Lamp: lamp, Picture: first(l.Picture, own.Picture) != "" || own.Live != nil}
		if l.Background+own.Background+l.Text+own.Text != "" { // Synaptor's own colours can be read
			at.Background, at.Text = first(l.Background, own.Background, face.Tint(m.Role)), first(l.Text, own.Text, face.DefaultText)
		}
		if label != nil && label.Constant() && !own.Hidden {
			text := label.Text(expr.Nothing{})
			if j.inspector.font.Fit(text, face.Room(own)).Cut {
				at.Cut = strings.Join(strings.Fields(text), " ")
			}
		}
		out.Looks = append(out.Looks, at)
		picture := own.Picture
		if lamp >= 0 {
			picture = l.Picture
		}
		if picture != "" {
			if out.Pictures == nil {
				out.Pictures = map[string]string{}
			}
			out.Pictures[preflight.PictureAt(lamp)] = picture
		}
	}
	look("at rest", -1, device.Look{})
	for i, l := range m.Lamps {
		if l.Look != nil {
			look("while lamp "+fmt.Sprint(i+1)+" is lit", i, *l.Look)
		}
	}
	return out
}

func first(all ...string) string {
	for _, s := range all {
		if s != "" {
			return s
		}
	}
	return ""
}

// looks is all that is seen of a mapping at rest; empty where that rests on what lives, or it is turned.
func (j *Judged) looks(m *program.Mapping) string {
	own := m.Source.Face
	if len(m.Source.Responses) == 0 || program.Continuous(m.Source.Responses[0].Gesture) || own.Live != nil || m.Label == nil || !m.Label.Constant() {
		return ""
	}
	label, at := m.Label.Text(expr.Nothing{}), ""
	if own.Hidden {
		label = ""
	}
	if m.Where != nil {
		if !m.Where.Constant() {
			return ""
		}
		at = m.Where.Text(expr.Nothing{})
	}
	if slices.ContainsFunc(m.Source.Responses, func(r show.Response) bool { return r.Gesture == input.Press && r.Action.IsRun() }) && own.Label == "" {
		return "" // its macro's turns say what it shows
	}
	return strings.Join([]string{label, at, m.Glyph, first(own.Background, face.Tint(m.Role)), own.Text, own.Picture}, "\x00")
}

// Gone finds the keys whose choices are not there any more, as things stand.
func (j *Judged) Gone(w device.Known) (out []preflight.Finding) {
	for _, k := range j.gone {
		for _, r := range k.facts.Responses {
			if b := k.of.Responses[r.Gesture].Bound; b != nil && b.Gone(w) {
				out = append(out, k.facts.Gone(r.Gesture, b.Title.Text(w)))
			}
		}
	}
	return out
}

// Unsupported finds the keys whose device has said that it is a model which cannot do what they ask.
func (j *Judged) Unsupported(w device.Known) (out []preflight.Finding) {
	lacks := map[string]*device.ModelSpec{}
	for _, d := range j.Program.Show.Devices() {
		t := j.Program.Devices[d.ID].Type
		if t == nil || d.Model != "" || t.Sheet.Link.Identify == nil {
			continue
		}
		said := expr.Text(w.Reading(reading.Key{Device: d.ID, Path: t.Sheet.Link.Identify.Reading}).Value)
		if m := t.Model("", said); m != nil && len(m.Lacks) > 0 {
			lacks[d.ID] = m
		}
	}
	if len(lacks) == 0 {
		return nil
	}
	for _, k := range j.keys {
		for _, r := range k.facts.Responses {
			if m := lacks[r.Action.Device]; m != nil && slices.Contains(m.Lacks, r.Action.Action) {
				out = append(out, k.facts.Unsupported(r.Gesture, unsupported(j.Program.Devices[r.Action.Device], m)))
			}
		}
	}
	return out
}

// isPicture is whether a reading is what an output shows; it is remembered, since keys are much alike.
func (j *Judged) isPicture(k reading.Key) bool {
	is, known := j.shown[k]
	if !known {
		is = j.Program.IsPicture(k)
		j.shown[k] = is
	}
	return is
}
