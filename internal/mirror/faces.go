package mirror

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// face works out how a mapping looks now.
func (v *View) face(c *program.Mapping) face.Face {
	return v.faceWith(c, face.Evaluate(c.Lamps, v))
}

// FaceIn works out a face in one of its states, as if nothing stood in its way.
// ok is false when it has no such state.
func (v *View) FaceIn(c *program.Mapping, state string) (f face.Face, ok bool) {
	lamps, ok := c.LampsIn(state)
	if !ok {
		return f, false
	}
	f = v.faceWith(c, lamps)
	f.Away, f.Missing, f.Refusal, f.Guard = state == "away", nil, "", ""
	f.Lamps = lamps
	f.Words = f.InWords()
	return f, true
}

// faceWith gathers what a face is put together from while its lamps show something.
func (v *View) faceWith(c *program.Mapping, lamps face.Lamps) face.Face {
	p := face.Parts{Mapping: c.Source, Label: c.Label, Plain: c.Plain, Where: c.Where, Lamps: lamps, Glyph: c.Glyph, Role: c.Role, Marks: c.Marks(), Dial: v.dial(c)}
	if mac := v.macroOf(c); mac != nil {
		p.Branch, p.Run, p.Unsent = v.branch(c, mac), v.runFace(c, mac), v.Unsent(mac)
	}
	if g, has := v.guards.all[c.Source.ID]; has {
		p.Guard, p.GuardFor = g.State, g.Until.Sub(g.From)
	}
	for _, r := range c.Responses {
		p.Gone = p.Gone || r.Bound != nil && r.Bound.Gone(v)
		p.Away = p.Away || r.Problem != "" || v.Away(r.Device)
	}
	if c.GlyphOf != nil {
		if name := c.GlyphOf.Text(v); face.IsGlyph(name) {
			p.Glyph = name
		}
	}
	if len(c.Source.Responses) > 0 {
		p.Silent = v.Program.Silent(c.Responses[c.Source.Responses[0].Gesture], v) != ""
	}
	p.Missing, p.Asks = v.missing(c), v.Program.Asks(c.Responses[input.Press])
	if r := c.Responses[input.Press]; r != nil && r.Bound != nil {
		p.Title = r.Bound.Title.Text(v)
	}
	return face.Compose(p, v, v.font)
}

// missing gives the names of the devices that a mapping or its macro's steps need and
// that are away, in their order.
func (v *View) missing(c *program.Mapping) (names []string) {
	away := map[string]bool{}
	note := func(_ *macro.Node, r *program.Response) {
		if r != nil && r.Device != "" && v.Away(r.Device) {
			away[r.Device] = true
		}
	}
	for _, r := range c.Responses {
		note(nil, r)
		if mac := v.Program.RunsMacro(r); mac != nil {
			mac.EachStep(note)
		}
	}
	if len(away) == 0 {
		return nil
	}
	for _, d := range v.Program.Show.Devices() {
		if away[d.ID] {
			names = append(names, d.Name)
		}
	}
	return names
}

// dial works out the value of what a turn or a slide of a mapping changes.
func (v *View) dial(c *program.Mapping) *face.Dial {
	for _, g := range []string{input.Turn, input.Slide} {
		r := c.Responses[g]
		if r == nil || r.Dial == nil || !r.Dial.HasKey {
			continue
		}
		now := v.Reading(r.Dial.Key)
		if now.Quality == reading.Unknown {
			return &face.Dial{Text: "?"}
		}
		return &face.Dial{Text: v.Word(r.Dial.Key, now.Value), Share: r.Dial.Share(now.Value, g == input.Slide)}
	}
	return nil
}

// macroOf gives the macro that the press of a mapping runs, else the one that another
// gesture does; nil where none does.
func (v *View) macroOf(c *program.Mapping) *program.Macro {
	if mac := v.Program.RunsMacro(c.Responses[input.Press]); mac != nil {
		return mac
	}
	for _, r := range c.Source.Responses {
		if mac := v.Program.RunsMacro(c.Responses[r.Gesture]); mac != nil {
			return mac
		}
	}
	return nil
}

// branch gives the branch of its macro's turns that a mapping shows, with its look:
// what a branch does not set is as the mapping has it, and its name is its label.
func (v *View) branch(c *program.Mapping, mac *program.Macro) *face.Branch {
	b := v.branchOf(mac, c.Source.Next)
	if b == nil {
		return nil
	}
	own := c.Source.Branches[b.ID]
	if own.Label == "" && b.Name != "" && c.Source.Face.Label == "" {
		own.Label = strings.NewReplacer("{", "{{", "}", "}}").Replace(b.Name)
	}
	return &face.Branch{Name: cmp.Or(b.Name, b.Kind), Look: program.CompileLook(own, program.FaceScope(c.Source))}
}

// branchOf gives the branch of a macro's turns that is in force, or where next is set
// the one that a press takes; nil where there is none or nobody knows.
func (v *View) branchOf(mac *program.Macro, next bool) *macro.Node {
	if mac.Turns == nil {
		return nil
	}
	taken := v.turns.get(mac.Turns.ID)
	last := slices.IndexFunc(mac.Turns.Children, func(b *macro.Node) bool { return b.ID == taken })
	holds := macro.InWorld(face.Expected(v))
	i, ok := macro.InForce(mac.Turns, last, holds)
	if next {
		i, _, ok = macro.NextBranch(mac.Turns, last, holds)
	}
	if !ok || i < 0 || i >= len(mac.Turns.Children) {
		return nil
	}
	return mac.Turns.Children[i]
}

// runFace works out what a key shows of its macro's run: the one that began last.
func (v *View) runFace(c *program.Mapping, mac *program.Macro) *face.Run {
	if c.Source.Quiet {
		return nil
	}
	from := time.Duration(v.Program.Show.Settings().ProgressFromMs) * time.Millisecond
	r, any := v.latest.all[mac.Source.ID]
	if !any || !r.Open && time.Duration(r.LengthMs)*time.Millisecond < from {
		return nil
	}
	f := &face.Run{ID: r.ID, LengthMs: r.LengthMs, Open: r.Open, State: "running", Started: r.Started}
	if r.State == macro.Going && !r.Ended {
		return f
	}
	if r.Ended && time.Since(r.EndedAt()) >= markShown {
		return nil
	}
	f.LengthMs = 0
	if f.State = r.State; r.State == macro.Ended {
		f.State = "done"
	}
	return f
}

// Unsent counts the steps of a macro that cannot be sent now.
func (v *View) Unsent(mac *program.Macro) (n int) {
	mac.EachStep(func(_ *macro.Node, r *program.Response) {
		if r != nil && (r.Problem != "" || v.Away(r.Device)) {
			n++
		}
	})
	return n
}

// unsentOn counts the steps of a macro that cannot be sent because one device is away.
func (v *View) unsentOn(mac *program.Macro, device string) (n int) {
	if v.links.get(device).Phase == link.Up {
		return 0
	}
	mac.EachStep(func(_ *macro.Node, r *program.Response) {
		if r != nil && r.Problem == "" && r.Device == device {
			n++
		}
	})
	return n
}
