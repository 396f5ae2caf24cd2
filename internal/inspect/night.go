package inspect

import (
	"context"
	"fmt"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// Live is what a rehearsal of the night rests on: what lives at a moment.
type Live interface {
	device.Known
	Away(device string) bool
	Rehearse(ctx context.Context, macro string, seed uint64) (*plan.Rehearsed, error)
}

// Night is what every macro, and every key of the pages in use, would do from a state.
type Night struct {
	Keys     int // gestures of keys that were tried
	Macros   int
	Unsent   int // of both, those that could not be sent as things stand
	Findings []preflight.Finding
}

// night is one that is being rehearsed.
type night struct {
	*Judged
	w     Live
	out   *Night
	tried map[*key]bool
	sets  map[reading.Key][]setting
}

// setting is a way in which something is set.
type setting struct {
	of    *key // nil: a macro, or a safe picture
	name  string
	ends  bool          // it ends by itself
	to    reading.Value // nil: it moves it from where it is
	again func(otherwise) reading.Value
}

// otherwise is a world in which one reading is otherwise.
type otherwise struct {
	Live
	key   reading.Key
	value reading.Value
}

// Reading implements expr.World.
func (w otherwise) Reading(k reading.Key) reading.Reading {
	if k == w.key {
		return reading.Reading{Value: w.value, Quality: reading.Confirmed}
	}
	return w.Live.Reading(k)
}

// Night rehearses every macro, and every key of the pages in use, from the present state; progress is told of after each. It fails with the context's error
// when that ends.
func (j *Judged) Night(ctx context.Context, w Live, profileOf func(controller string) string, progress func(done, of int)) (*Night, error) {
	n := &night{Judged: j, w: w, out: &Night{Findings: []preflight.Finding{}}, tried: map[*key]bool{}, sets: map[reading.Key][]setting{}}
	pages := j.inUse(profileOf)
	macros := j.Program.Show.Macros()
	done, of := 0, len(pages)+len(macros)
	step := func() { done++; progress(done, of) }
	for _, m := range macros {
		if err := n.macro(ctx, j.Program.Macros[m.ID]); err != nil {
			return nil, err
		}
		step()
	}
	for _, p := range pages {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		n.page(p)
		step()
	}
	for _, s := range j.Program.Safe {
		if s.Problem == "" {
			n.sends(nil, "the safe picture", s.Then)
		}
	}
	n.neverReturns()
	preflight.Sort(n.out.Findings)
	return n.out, nil
}

// inUse lists the pages of the profiles that are in force, for the controllers of the desk.
func (j *Judged) inUse(profileOf func(controller string) string) (out []*show.Page) {
	for _, p := range j.Program.Show.Pages() {
		for _, c := range j.Program.Show.Controllers() {
			if c.Layout == p.Layout && profileOf(c.ID) == p.Profile {
				out = append(out, p)
				break
			}
		}
	}
	return out
}

// macro rehearses a macro.
func (n *night) macro(ctx context.Context, mac *program.Macro) error {
	n.out.Macros++
	if mac.Tree == nil {
		n.out.Unsent++
		return nil // it is found by itself
	}
	r, err := n.w.Rehearse(ctx, mac.Source.ID, 0)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	away := slices.ContainsFunc(mac.Devices, n.w.Away)
	if away || err != nil || r.State == macro.Failed {
		n.out.Unsent++
	}
	if err == nil && r.State == macro.Failed && !away {
		n.out.Findings = append(n.out.Findings, preflight.StopsAs(mac.Source, r.Reason))
	}
	last := map[reading.Key]reading.Value{}
	mac.EachStep(func(_ *macro.Node, c *program.Response) {
		if c == nil || c.Bound == nil {
			return
		}
		for _, e := range c.Bound.Effects(n.w) {
			last[e.Key] = e.Value
		}
	})
	for k, v := range last {
		n.sets[k] = append(n.sets[k], setting{name: mac.Source.Name, to: v})
	}
	return nil
}

// page tries the keys of a page.
func (n *night) page(p *show.Page) {
	l := n.layouts[p.Layout]
	var alike []preflight.Alike
	for _, c := range l.controls {
		if c.Zone != p.Zone {
			continue
		}
		m := n.Program.On(p, c.ID)
		if m == nil {
			continue
		}
		k := n.keys[m.Source.ID]
		if c.Pictures || c.Kind == "touch" {
			if looks := n.looksNow(m); looks != "" && k.looks == "" {
				alike = append(alike, preflight.Alike{Key: m.Source, Name: func() string { return called(n.Program, m, n.w) }, Page: p.Name, Spot: c.ID, Looks: looks})
			}
		}
		if n.tried[k] {
			continue
		}
		n.tried[k] = true
		for _, r := range m.Source.Responses {
			n.gesture(k, m, r.Gesture)
		}
	}
	n.out.Findings = append(n.out.Findings, preflight.Alikes(alike)...)
}

// gesture tries one of a key.
func (n *night) gesture(k *key, m *program.Mapping, gesture string) {
	n.out.Keys++
	c := m.Responses[gesture]
	if c.Bound == nil || n.w.Away(c.Device) {
		n.out.Unsent++
		return
	}
	if why := c.Bound.Refusal(n.w); why != "" {
		n.out.Unsent++
		n.out.Findings = append(n.out.Findings, k.facts.Unmet(gesture, c.Bound.Title.Text(n.w), why))
	}
	n.sends(k, called(n.Program, m, n.w), c)
}

// sends notes what a response would set.
func (n *night) sends(of *key, name string, c *program.Response) {
	if c.Dial != nil {
		for _, k := range c.Bound.Affects() {
			n.sets[k] = append(n.sets[k], setting{of: of, name: name})
		}
		return
	}
	ends := c.Bound.Action.Plays != "" || c.Bound.Action.Busy != ""
	for _, e := range c.Bound.Effects(n.w) {
		s := setting{ends: ends, of: of, name: name, to: e.Value}
		if !c.Bound.Absolute() {
			s.again = func(w otherwise) reading.Value {
				for _, e := range c.Bound.Effects(w) {
					if e.Key == w.key {
						return e.Value
					}
				}
				return nil
			}
		}
		n.sets[e.Key] = append(n.sets[e.Key], s)
	}
}

// neverReturns finds what a key would change and no key, macro, reflex or safe picture would change back: of what is on or off, and of pictures.
func (n *night) neverReturns() {
	byReflex := map[reading.Key]bool{}
	for _, r := range n.Program.Reflexes.All {
		for _, k := range n.Program.Writes(r) {
			byReflex[k] = true
		}
	}
	for k, all := range n.sets {
		now := n.w.Reading(k).Value
		_, onOff := now.(bool)
		if _, settable := n.Program.Setter(k, nil, n.w); !settable {
			continue // nobody could bring it back
		}
		if now == nil || byReflex[k] || k.Device == program.SelfID || !onOff && !n.Program.IsPicture(k) {
			continue
		}
		for _, s := range all {
			if s.of == nil || s.to == nil || s.ends || same(s.to, now) || returns(all, otherwise{n.w, k, s.to}, now) {
				continue
			}
			n.out.Findings = append(n.out.Findings, s.of.facts.NeverReturns(k.String(), s.name, n.Program.Called(k, n.w), n.Program.Word(k, s.to, n.w), n.Program.Word(k, now, n.w)))
			break
		}
	}
}

func same(a, b reading.Value) bool { return fmt.Sprint(a) == fmt.Sprint(b) }

// returns reports whether one of several ways sets a reading to a value, in a world where it is otherwise.
func returns(all []setting, w otherwise, to reading.Value) bool {
	return slices.ContainsFunc(all, func(s setting) bool {
		return s.to == nil || same(s.to, to) || s.again != nil && same(s.again(w), to)
	})
}

// looksNow is all that is seen of a mapping at rest, with what its label says now.
func (n *night) looksNow(m *program.Mapping) string {
	r := m.Responses[input.Press]
	if m.Label == nil || m.Source.Face.Hidden || r == nil || n.Program.RunsMacro(r) != nil {
		return ""
	}
	at := ""
	if m.Where != nil {
		at = m.Where.Text(n.w)
	}
	return fmt.Sprint(m.Label.Text(n.w), "\x00", at, "\x00", m.Glyph, "\x00", m.Source.Face.Background, "\x00", m.Source.Face.Picture, "\x00", m.Role)
}

// Advice says which keys would be better placed, from how often each was used; used counts that by mapping.
func (j *Judged) Advice(used map[string]int) (moves []preflight.Advice, risks []preflight.Finding) {
	for _, p := range j.Program.Show.Profiles() {
		for _, m := range j.reach(p) {
			moves = append(moves, preflight.Placement(j.zoneOf(p, m), j.usesOn(m, used))...)
		}
	}
	for _, p := range j.Program.Show.Pages() {
		risks = append(risks, j.beside(p, used)...)
	}
	preflight.SortAdvice(moves)
	return moves, risks
}

// usesOn lists the keys of the pages of a zone with how often each was used.
func (j *Judged) usesOn(m preflight.ReachMap, used map[string]int) (out []preflight.Used) {
	for _, at := range m.Pages {
		p := j.Program.Show.Page(at.ID)
		for _, c := range j.layouts[m.Layout].controls {
			k := j.on(p, c)
			if k != nil && k.facts.PlacementOn(p.ID, c.ID) >= 0 {
				out = append(out, preflight.Used{Key: k.facts, Page: p, Control: c, Presses: at.Presses, Count: used[k.facts.ID]})
			}
		}
	}
	return out
}

// on is the key that answers on a control of a page, or nil.
func (j *Judged) on(p *show.Page, c device.Control) *key {
	if p == nil || c.Zone != p.Zone {
		return nil
	}
	m := j.Program.On(p, c.ID)
	if m == nil {
		return nil
	}
	return j.keys[m.Source.ID]
}

// beside finds the risky keys of a page that are beside ones which are used often.
func (j *Judged) beside(p *show.Page, used map[string]int) (out []preflight.Finding) {
	l, on := j.layouts[p.Layout]
	if !on {
		return nil
	}
	counts, free := map[string]int{}, []string{}
	var risky []preflight.Risk
	for _, c := range l.controls {
		k := j.on(p, c)
		switch {
		case k == nil && c.Zone == p.Zone && slices.Contains(c.Gestures, input.Press):
			free = append(free, c.ID)
		case k == nil:
		default:
			counts[c.ID] = used[k.facts.ID]
			if k.facts.Risky() {
				risky = append(risky, preflight.Risk{Key: k.facts, Control: c, Page: p})
			}
		}
	}
	for _, r := range risky {
		r.Free = free
		out = append(out, r.Beside(counts, l.controls, func(control string) string {
			return control + " (" + j.on(p, *l.byID[control]).facts.Called() + ")"
		})...)
	}
	return out
}
