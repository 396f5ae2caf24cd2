package engine

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/link"
	"synaptor/internal/sheet"
)

// Snapshot is a compiled show. It is immutable: the engine, the mirror and
// anybody who asks may use it at the same time.
type Snapshot struct {
	Show        *show.Show
	Sheets      *sheet.Library
	Devices     map[string]*Device
	Controllers map[string]*Controller // by id
	BySlug      map[string]*Controller // older slugs too
	Mappings    map[string]*Mapping
	Macros      map[string]*Macro // by id
	pages       map[string]input.Layer
	standing    map[show.Standing]input.Layer
	// gone has the pages that keys lead to and the show no longer has, with the name
	// they were last known by.
	gone       map[string]string
	goneMacros map[string]string // likewise
}

// Device is a device with its compiled sheet; Type is nil when there is none.
type Device struct {
	*show.Device
	Type *device.Type
}

// Controller is a controller with its layout.
type Controller struct {
	*show.Controller
	Layout   *device.ControllerSheet
	Controls map[string]device.Control
}

// Mapping is a compiled mapping.
type Mapping struct {
	Source    *show.Mapping
	Responses map[string]*Response
	Label     *expr.Template
	Plain     *expr.Template // the action's own label, where the mapping's cannot be worked out
	Where     *expr.Template
	Lamps     []device.Lamp
	Glyph     string
	Role      string   // the role of the device it drives
	topics    []string // of the live feed, by page
	deps      []reading.Key
	uses      []*show.Device // what it was compiled against
	mapped    input.Mapped
	timing    input.Timing
}

// Response is a compiled response.
type Response struct {
	Gesture string
	Call    show.Call
	Device  string // id
	Name    string // the device's name
	Bound   *device.Bound
	// Dial is set for turns and slides.
	Dial *Dial
	// Opens and Closes are the two halves of a talk.
	Opens, Closes *Response
	// Payload is what to write when it is the same at every press.
	Payload []byte
	// Problem says why it can never be sent; nothing else is set then.
	Problem string
}

// Drivers are the protocols by name and transport, such as osc/udp.
type Drivers map[string]link.Driver

// For gives the driver that a device type needs.
func (d Drivers) For(t *device.Type) link.Driver {
	return d[t.Sheet.Link.Driver+"/"+t.Sheet.Link.Transport]
}

// Compile turns a show into a snapshot. Mappings that did not change since
// prev, which may be nil, are taken over from it.
func Compile(prev *Snapshot, s *show.Show, lib *sheet.Library, drivers Drivers) *Snapshot {
	n := &Snapshot{Show: s, Sheets: lib, Devices: map[string]*Device{}, Controllers: map[string]*Controller{}, BySlug: map[string]*Controller{},
		Mappings: map[string]*Mapping{}}
	for _, d := range s.Devices() {
		n.Devices[d.ID] = &Device{Device: d, Type: lib.Device(d.Type)}
	}
	n.Devices[SelfID] = &Device{Device: &self, Type: lib.Device(self.Type)}
	for _, c := range s.Controllers() {
		cc := &Controller{Controller: c, Layout: lib.Controller(c.Layout), Controls: map[string]device.Control{}}
		if cc.Layout != nil {
			for _, ctl := range cc.Layout.Controls() {
				cc.Controls[ctl.ID] = ctl
			}
		}
		n.Controllers[c.ID] = cc
		for _, slug := range append(c.Aliases, c.Slug) {
			n.BySlug[slug] = cc
		}
	}
	if prev == nil {
		n.pages, n.standing = input.Layers(s, nil, nil, nil)
	} else {
		n.pages, n.standing = input.Layers(s, prev.Show, prev.pages, prev.standing)
	}
	compile := func(m *show.Mapping) {
		c := prev.reuse(n, m)
		if c == nil {
			c = n.compileMapping(m, drivers)
		}
		n.Mappings[m.ID] = c
	}
	if prev != nil && prev.Sheets == lib {
		if touched, ok := s.Touched(prev.Show); ok {
			n.Mappings, n.Macros = maps.Clone(prev.Mappings), prev.Macros
			for _, id := range touched {
				if m := s.Mapping(id); m != nil {
					compile(m)
				} else {
					delete(n.Mappings, id)
				}
			}
			n.findGone(prev)
			return n
		}
	}
	n.compileMacros(prev, drivers)
	s.EachMapping(compile)
	n.findGone(prev)
	return n
}

// findGone finds the pages and macros that keys lead to and that do not exist.
func (n *Snapshot) findGone(prev *Snapshot) {
	if prev != nil && n.Show.SamePages(prev.Show) && maps.EqualFunc(n.Macros, prev.Macros, func(*Macro, *Macro) bool { return true }) {
		n.gone, n.goneMacros = prev.gone, prev.goneMacros
		return
	}
	n.gone, n.goneMacros = map[string]string{}, map[string]string{}
	n.Show.EachMapping(func(m *show.Mapping) {
		for _, r := range m.Responses {
			if r.Action.Device != SelfID {
				continue
			}
			if id := r.Action.Params["page"]; id != "" && n.Show.Page(id) == nil {
				n.gone[id] = lastName(prev, show.Ref{Kind: show.KindPage, ID: id}, "a page that is gone")
			}
			if id := r.Action.Params["macro"]; id != "" && n.Show.Macro(id) == nil {
				n.goneMacros[id] = lastName(prev, show.Ref{Kind: show.KindMacro, ID: id}, "a macro that is gone")
			}
		}
	})
}

// lastName is what a page or a macro was called when it was there last.
func lastName(prev *Snapshot, r show.Ref, otherwise string) string {
	if prev == nil {
		return otherwise
	}
	if was := prev.Show.Get(r); was != nil {
		return was.Title()
	}
	return cmp.Or(prev.gone[r.ID], prev.goneMacros[r.ID], otherwise)
}

// reuse returns the mapping as it was compiled before, if it and the devices
// it uses are still the same.
func (prev *Snapshot) reuse(n *Snapshot, m *show.Mapping) *Mapping {
	if prev == nil || prev.Sheets != n.Sheets {
		return nil
	}
	old := prev.Mappings[m.ID]
	if old == nil || old.Source != m {
		return nil
	}
	for i, r := range m.Responses {
		if n.Show.Device(r.Action.Device) != old.uses[i] {
			return nil
		}
		if c := old.Responses[r.Gesture]; n.RunsMacro(c) != prev.RunsMacro(c) {
			return nil
		}
	}
	return old
}

func (n *Snapshot) compileMapping(m *show.Mapping, drivers Drivers) *Mapping {
	c := &Mapping{Source: m, Responses: map[string]*Response{}, Glyph: m.Face.Glyph, mapped: input.Mapped{}, timing: input.Usual}
	if m.HoldMs > 0 {
		c.timing.Hold = time.Duration(m.HoldMs) * time.Millisecond
	}
	if m.DoubleMs > 0 {
		c.timing.Double = time.Duration(m.DoubleMs) * time.Millisecond
	}
	for i, r := range m.Responses {
		c.uses = append(c.uses, n.Show.Device(r.Action.Device))
		resp := n.compileResponse(r, drivers)
		c.Responses[r.Gesture] = resp
		c.mapped[r.Gesture] = true
		if resp.Bound == nil {
			continue
		}
		if i > 0 {
			// What is turned has no state; what it does besides may have one.
			if needsDial(m.Responses[0].Gesture) && c.Lamps == nil {
				c.Lamps = resp.Bound.Lamps
			}
			continue
		}
		c.Label, c.Where, c.Lamps = resp.Bound.Label, resp.Bound.Where, resp.Bound.Lamps
		c.Role = n.Devices[resp.Device].Type.Sheet.Role
		if resp.Dial != nil {
			c.Label, c.Lamps = n.Devices[resp.Device].Type.LabelWithout(resp.Bound, resp.Dial.param.ID), nil
		}
		if c.Glyph == "" {
			c.Glyph = resp.Bound.Action.Face.Glyph
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
	c.deps = c.dependencies()
	for _, r := range c.Responses {
		if mac := n.RunsMacro(r); mac != nil {
			c.deps = append(append(c.deps, mac.deps...), reading.Key{Device: SelfID, Path: "macro/" + mac.Source.ID + "/branch"})
		}
	}
	for _, p := range m.Placements {
		if p.Standing != nil {
			c.topics = append(c.topics, "standing:"+p.Standing.Profile)
		} else {
			c.topics = append(c.topics, "page:"+p.Page)
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
			made.Look = &device.Look{Glyph: l.Glyph, Background: l.Background, Text: l.Text, Picture: l.Picture, Blink: l.Blink}
			if l.Label != "" {
				made.Look.Label, _ = expr.CompileTemplate(l.Label, scope)
			}
		}
		out = append(out, made)
	}
	return out
}

// AddedDelay is how long a gesture waits on purpose on a kind of control;
// untilRelease is true when it fires when the control is let go.
func (c *Mapping) AddedDelay(gesture, kind string) (wait time.Duration, untilRelease bool) {
	return c.mapped.AddedDelay(gesture, c.times(kind))
}

func (c *Mapping) dependencies() []reading.Key {
	all := map[reading.Key]bool{}
	templates := []*expr.Template{c.Label, c.Plain, c.Where}
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
		if r.Dial != nil && r.Dial.hasKey {
			all[r.Dial.key] = true
		}
	}
	return slices.Collect(maps.Keys(all))
}

func (n *Snapshot) compileResponse(r show.Response, drivers Drivers) *Response {
	resp := &Response{Gesture: r.Gesture, Call: r.Action, Device: r.Action.Device}
	d := n.Devices[r.Action.Device]
	switch {
	case d == nil:
		resp.Problem = fmt.Sprintf("%s is no longer in the rig.", nameOr(r.Action.DeviceName, "The device"))
		return resp
	case d.Type == nil:
		resp.Problem = fmt.Sprintf("There is no device sheet for %s (%s).", d.Name, d.Device.Type)
		return resp
	}
	resp.Name = d.Name
	b, err := d.Type.Bind(d.ID, r.Action.Action, r.Action.Params, n.FrameRate(d))
	if err != nil {
		resp.Problem = err.Error()
		return resp
	}
	resp.Bound = b
	if needsDial(r.Gesture) && (d.ID != SelfID || r.Action.Action != "run") {
		resp.Dial = compileDial(d, b, r.Dial)
		return resp
	}
	if r.Gesture == input.Talk {
		n.compileTalk(resp, d, drivers)
	}
	if b.Constant() && d.ID != SelfID {
		resp.Payload, err = Encode(b, drivers.For(d.Type), expr.Nothing{})
		if err != nil {
			resp.Problem = fmt.Sprintf("This cannot be sent to %s: %v.", d.Name, err)
		}
	}
	return resp
}

// Try compiles an action that no mapping holds.
func (n *Snapshot) Try(c show.Call, drivers Drivers) *Response {
	return n.compileResponse(show.Response{Gesture: "try", Action: c}, drivers)
}

func nameOr(name, other string) string {
	if name == "" {
		return other
	}
	return name
}

// FrameRate is the device's own frame rate, else the show's.
func (n *Snapshot) FrameRate(d *Device) float64 {
	if d.Device.FrameRate > 0 {
		return d.Device.FrameRate
	}
	return n.Show.Settings().FrameRate
}

// Encode gives the bytes of an action's messages as things stand.
func Encode(b *device.Bound, d link.Driver, w expr.World) ([]byte, error) {
	msgs, err := b.Messages(w)
	if err != nil {
		return nil, err
	}
	return d.Encode(msgs...)
}

// Zone lists the ids of the pages of a zone of a layout in a profile, in order.
func (n *Snapshot) Zone(profile, layout, zone string) []string {
	var out []string
	for _, p := range n.Show.PagesFor(profile, layout, zone) {
		out = append(out, p.ID)
	}
	return out
}

// Answering finds the mapping that answers for a control while pages are shown;
// the first of them is asked first.
func (n *Snapshot) Answering(profile, layout, zone, control string, pages []string) *Mapping {
	layers := make([]input.Layer, len(pages))
	for i, p := range pages {
		layers[i] = n.pages[p]
	}
	id, ok := input.Answers(control, n.standing[show.Standing{Profile: profile, Layout: layout, Zone: zone}], layers...)
	if !ok {
		return nil
	}
	return n.Mappings[id]
}

// On finds the mapping that answers for a control of one page.
func (n *Snapshot) On(page *show.Page, control string) *Mapping {
	if page == nil {
		return nil
	}
	return n.Answering(page.Profile, page.Layout, page.Zone, control, []string{page.ID})
}

// AllOn gives the ids of the mappings that answer on a page, by control: its own
// and those that stand.
func (n *Snapshot) AllOn(p *show.Page) map[string]string {
	out := map[string]string{}
	standing := n.standing[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}]
	for _, layer := range []input.Layer{n.pages[p.ID], standing} {
		for control := range layer {
			if m := n.On(p, control); m != nil {
				out[control] = m.Source.ID
			}
		}
	}
	return out
}
