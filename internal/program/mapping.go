package program

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Mapping is a compiled mapping.
type Mapping struct {
	Source    *show.Mapping
	Responses map[string]*Response
	Label     *expr.Template
	Plain     *expr.Template // the action's own label, where the mapping's cannot be worked out
	Where     *expr.Template
	GlyphOf   *expr.Template // the glyph that its device gives, where the mapping has none of its own
	Lamps     []device.Lamp
	Glyph     string
	Role      string   // the role of the device it drives
	Topics    []string // of the live feed, by page
	Deps      []reading.Key
	uses      []*show.Device // what it was compiled against
	Mapped    input.Mapped
	timing    input.Timing
}

func (n *Program) compileMapping(m *show.Mapping) *Mapping {
	c := &Mapping{Source: m, Responses: map[string]*Response{}, Glyph: m.Face.Glyph, Mapped: input.Mapped{}, timing: input.Usual}
	if m.HoldMs > 0 {
		c.timing.Hold = time.Duration(m.HoldMs) * time.Millisecond
	}
	if m.DoubleMs > 0 {
		c.timing.Double = time.Duration(m.DoubleMs) * time.Millisecond
	}
	for i, r := range m.Responses {
		c.uses = append(c.uses, n.Show.Device(r.Action.Device))
		resp := n.compileResponse(r)
		c.Responses[r.Gesture] = resp
		c.Mapped[r.Gesture] = true
		if resp.Bound == nil {
			continue
		}
		if i > 0 {
			// What is turned has no state; what it does besides may have one.
			if Continuous(m.Responses[0].Gesture) && c.Lamps == nil {
				c.Lamps = resp.Bound.Lamps
			}
			continue
		}
		c.Label, c.Where, c.Lamps = resp.Bound.Label, resp.Bound.Where, resp.Bound.Lamps
		c.Role = n.Devices[resp.Device].Type.Sheet.Role
		if resp.Dial != nil {
			c.Label, c.Lamps = n.Devices[resp.Device].Type.LabelWithout(resp.Bound, resp.Dial.Param.ID), nil
		}
		if c.Glyph == "" {
			c.Glyph, c.GlyphOf = resp.Bound.Action.Face.Glyph, resp.Bound.Glyph
		}
	}
	c.Plain = c.Label
	scope := FaceScope(m)
	if m.Face.Label != "" {
		if t, err := expr.CompileTemplate(m.Face.Label, scope); err == nil {
			c.Label = t
		}
	}
	if m.Lamps != nil {
		c.Lamps = compileLamps(m.Lamps, scope)
	}
	c.Deps = c.dependencies()
	for _, r := range c.Responses {
		if mac := n.RunsMacro(r); mac != nil {
			c.Deps = append(append(c.Deps, mac.deps...), reading.Key{Device: SelfID, Path: "macro/" + mac.Source.ID + "/branch"})
		}
	}
	for _, p := range m.Placements {
		if p.Standing != nil {
			c.Topics = append(c.Topics, "standing:"+p.Standing.Profile)
		} else {
			c.Topics = append(c.Topics, "page:"+p.Page)
		}
	}
	return c
}

// FaceScope is how the expressions of a mapping's face and lamps are understood:
// they may use the parameters and readings of what the control does.
func FaceScope(m *show.Mapping) expr.Scope {
	if len(m.Responses) == 0 {
		return expr.Scope{}
	}
	return expr.Scope{Device: m.Responses[0].Action.Device, Bind: m.Responses[0].Action.Params}
}

// compileLamps compiles a mapping's own lamps. One that cannot be understood is
// left out; it was refused when it was entered.
func compileLamps(lamps []show.Lamp, scope expr.Scope) []device.Lamp {
	out := []device.Lamp{}
	for _, l := range lamps {
		when, err := expr.Compile(l.When, scope)
		if err != nil {
			continue
		}
		made := device.Lamp{When: when, Role: l.Role}
		if l.Look != (show.Look{}) {
			look := CompileLook(l.Look, scope)
			made.Look = &look
		}
		out = append(out, made)
	}
	return out
}

// CompileLook compiles a look. A label that cannot be understood is left out; it was
// refused when it was entered.
func CompileLook(l show.Look, scope expr.Scope) device.Look {
	out := device.Look{Glyph: l.Glyph, Background: l.Background, Text: l.Text, Picture: l.Picture, Blink: l.Blink}
	if l.Label != "" {
		if t, err := expr.CompileTemplate(l.Label, scope); err == nil {
			out.Label = t
		}
	}
	return out
}

// AddedDelay is how long a gesture waits on purpose on a kind of control;
// untilRelease is true when it fires when the control is let go.
func (c *Mapping) AddedDelay(gesture, kind string) (wait time.Duration, untilRelease bool) {
	return c.Mapped.AddedDelay(gesture, c.Timing(kind))
}

func (c *Mapping) dependencies() []reading.Key {
	all := map[reading.Key]bool{}
	templates := []*expr.Template{c.Label, c.Plain, c.Where, c.GlyphOf}
	for _, l := range c.Lamps {
		if l.Look != nil {
			templates = append(templates, l.Look.Label)
		}
	}
	for _, t := range templates {
		if t == nil {
			continue
		}
		for _, k := range t.Deps() {
			all[k] = true
		}
	}
	for _, l := range c.Lamps {
		for _, k := range l.When.Deps {
			all[k] = true
		}
	}
	for _, r := range c.Responses {
		if r.Bound != nil {
			for _, k := range r.Bound.GoneKeys() {
				all[k] = true
			}
		}
		for _, k := range r.silencers {
			all[k.by] = true
		}
		if r.Dial != nil && r.Dial.HasKey {
			all[r.Dial.Key] = true
		}
	}
	return slices.Collect(maps.Keys(all))
}

// Gestures are those a mapping responds to; without one, only a press is looked
// for, so that it can be said that nothing is there.
func (m *Mapping) Gestures() input.Mapped {
	if m == nil {
		return input.Mapped{}
	}
	return m.Mapped
}

// Urgent reports whether a press of a mapping must always work; a mapping may be nil.
func (m *Mapping) Urgent() bool {
	if m == nil {
		return false
	}
	r := m.Responses[input.Press]
	return r != nil && r.Bound != nil && r.Bound.Action.Urgent
}

// Timing is the timing of a mapping on a kind of control.
func (m *Mapping) Timing(kind string) input.Timing {
	if m == nil {
		return input.Usual
	}
	t := m.timing
	r := m.Responses[input.Press]
	t.Lift = input.Lifts(m.Source, kind, r != nil && r.Bound != nil && r.Bound.Action.Risky)
	t.Urgent = m.Urgent()
	return t
}
