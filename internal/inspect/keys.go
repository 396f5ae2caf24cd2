package inspect

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
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
	mic   string   // the role of the device whose microphone it silences
	reads string   // what its label says then
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
	k.facts.Places = make([]preflight.Place, 0, len(m.Source.Placements))
	for _, at := range m.Source.Placements {
		if place, on := j.place(m, at); on {
			k.facts.Places = append(k.facts.Places, place)
		}
	}
	k.looks = j.looks(m)
	k.mic, k.reads = microphone(m)
	if j.Program.Show.OnScratch(m.Source) {
		k.uses, k.gone = nil, false
		return k
	}
	k.found = append(k.facts.Find(), k.facts.Risks()...)
	return k
}

// place is a control on which a mapping stands; none for a page that no controller of the desk has.
func (j *Judged) place(m *program.Mapping, at show.Placement) (place preflight.Place, on bool) {
	typ, where := "", ""
	if at.Standing != nil {
		typ = at.Standing.Layout
	} else if p := j.Program.Show.Page(at.Page); p != nil {
		typ, where = p.Layout, p.Name
	}
	l, on := j.layouts[typ]
	if !on {
		return place, false
	}
	place = preflight.Place{Page: where, ID: at.Control, Control: l.byID[at.Control]}
	if place.Control != nil {
		place.Timing = m.Timing(place.Control.Kind)
	}
	return place, true
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
		if then := &s.Source.Then; then.Device == c.Device && then.Action == c.Call.Action && maps.Equal(then.Params, c.Call.Params) {
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

// isPicture is whether a reading is what an output shows; it is remembered, since keys are much alike.
func (j *Judged) isPicture(k reading.Key) bool {
	is, known := j.shown[k]
	if !known {
		is = j.Program.IsPicture(k)
		j.shown[k] = is
	}
	return is
}
