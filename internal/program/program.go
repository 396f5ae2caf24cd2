// Package program compiles a show for running. Compile makes a Program of a show
// and its sheets; the engine, the mirror and whoever asks read it at the same
// time, because it never changes. An edit makes the next one, which shares with
// the one before it whatever the edit did not touch.
package program

import (
	"cmp"
	"maps"
	"sync/atomic"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/sheet"
)

// Program is a compiled show. It is immutable.
type Program struct {
	Show        *show.Show
	TimeZone    *time.Location // of the show
	Sheets      *sheet.Library
	Devices     map[string]*Device
	Controllers map[string]*Controller // by id
	BySlug      map[string]*Controller // older slugs too
	Mappings    map[string]*Mapping
	Macros      map[string]*Macro // by id
	Reflexes    Reflexes
	Safe        []*SafePicture // in the order of their outputs' ids
	// GonePages are the pages that keys lead to and the show no longer has, with
	// the name they were last known by; GoneMacros likewise.
	GonePages  map[string]string
	GoneMacros map[string]string

	sources Sources
	// serial tells programs apart; changed are the mappings of the one with the serial since that are
	// not as they were.
	serial, since int64
	changed       []string

	pages    map[string]input.Layer
	standing map[show.Standing]input.Layer
}

// Sources give a program what neither the show nor its sheets hold. They are asked
// while it is compiled, never while it runs.
type Sources struct {
	// Encode gives the bytes of messages in the protocol of a device type.
	Encode func(t *device.Type, messages ...device.Message) ([]byte, error)
	// Password opens a password by its id; nil: there are none.
	Password func(id string) (string, error)
	// Known gives the readings that were last heard of a device, so that its names
	// are there before it answers; nil: none are.
	Known func(device string) []device.Report
}

// Device is a device with its compiled sheet; Type is nil when there is none.
type Device struct {
	*show.Device
	Type *device.Type
	// Known are the readings that were last heard of it, else its model's defaults.
	Known []device.Report
	// PasswordErr says why its password cannot be opened; nil: it can, or it has none.
	PasswordErr error

	password string
}

// Password opens the device, or is empty.
func (d *Device) Password() string { return d.password }

// Controller is a controller with its layout; Layout is nil when there is no sheet.
type Controller struct {
	*show.Controller
	Layout   *device.ControllerSheet
	Controls map[string]device.Control
}

// Compile turns a show into a program. What did not change since prev, which may
// be nil, is taken over from it.
func Compile(prev *Program, s *show.Show, lib *sheet.Library, sources Sources) *Program {
	n := &Program{serial: serials.Add(1), Show: s, Sheets: lib, sources: sources, Devices: map[string]*Device{}, Controllers: map[string]*Controller{},
		BySlug: map[string]*Controller{}, Mappings: map[string]*Mapping{}}
	n.TimeZone = zoneOf(s, prev)
	for _, d := range s.Devices() {
		n.Devices[d.ID] = n.compileDevice(prev, d)
	}
	n.Devices[SelfID] = &Device{Device: &Self, Type: lib.Device(Self.Type)}
	n.compileControllers()
	if prev == nil {
		n.pages, n.standing = input.Layers(s, nil, nil, nil)
	} else {
		n.pages, n.standing = input.Layers(s, prev.Show, prev.pages, prev.standing)
	}
	if !n.compileTouched(prev) {
		n.compileMacros(prev)
		s.EachMapping(func(m *show.Mapping) { n.takeMapping(prev, m) })
		if prev != nil {
			n.since, n.changed = prev.serial, n.otherThan(prev)
		}
	}
	n.compileReflexes(prev)
	n.compileSafe()
	n.findGone(prev)
	return n
}

// zoneOf is the time zone of a show; the computer's where it has none, or none that is known here.
func zoneOf(s *show.Show, prev *Program) *time.Location {
	name := s.Settings().TimeZone
	if prev != nil && prev.Show.Settings().TimeZone == name {
		return prev.TimeZone
	}
	if z, err := time.LoadLocation(name); err == nil && name != "" {
		return z
	}
	return time.Local
}

// serials counts the programs of this process.
var serials atomic.Int64

// Changed gives the mappings of another program, mostly the one before, that are not as they were:
// compiled anew, or gone.
func (n *Program) Changed(old *Program) []string {
	if n.since == old.serial {
		return n.changed
	}
	return n.otherThan(old)
}

func (n *Program) otherThan(old *Program) (ids []string) {
	for id, c := range old.Mappings {
		if n.Mappings[id] != c {
			ids = append(ids, id)
		}
	}
	return ids
}

// compileDevice compiles a device, or takes it over where it did not change.
func (n *Program) compileDevice(prev *Program, d *show.Device) *Device {
	typ := n.Sheets.Device(d.Type)
	if prev != nil {
		if old := prev.Devices[d.ID]; old != nil && old.Device == d && old.Type == typ {
			return old
		}
	}
	c := &Device{Device: d, Type: typ}
	if typ == nil {
		return c
	}
	if d.Secret != "" && n.sources.Password != nil {
		c.password, c.PasswordErr = n.sources.Password(d.Secret)
	}
	if n.sources.Known != nil {
		c.Known = n.sources.Known(d.ID)
	}
	if len(c.Known) == 0 {
		if m := typ.Model(d.Model, ""); m != nil {
			c.Known = typ.Defaults(m)
		}
	}
	return c
}

func (n *Program) compileControllers() {
	for _, c := range n.Show.Controllers() {
		cc := &Controller{Controller: c, Layout: n.Sheets.Controller(c.Layout), Controls: map[string]device.Control{}}
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
}

// compileTouched compiles only the mappings that an edit touched; false where the
// edit touched more than mappings, or there is nothing to start from.
func (n *Program) compileTouched(prev *Program) bool {
	if prev == nil || prev.Sheets != n.Sheets {
		return false
	}
	touched, only := n.Show.Touched(prev.Show)
	if !only {
		return false
	}
	n.Mappings, n.Macros = maps.Clone(prev.Mappings), prev.Macros
	n.since, n.changed = prev.serial, touched
	for _, id := range touched {
		if m := n.Show.Mapping(id); m != nil {
			n.takeMapping(prev, m)
		} else {
			delete(n.Mappings, id)
		}
	}
	return true
}

// takeMapping takes a mapping over as it was compiled before, or compiles it.
func (n *Program) takeMapping(prev *Program, m *show.Mapping) {
	c := prev.reusable(n, m)
	if c == nil {
		c = n.compileMapping(m)
	}
	n.Mappings[m.ID] = c
}

// findGone finds the pages and macros that keys lead to and that do not exist.
func (n *Program) findGone(prev *Program) {
	if prev != nil && n.Show.SamePages(prev.Show) && maps.EqualFunc(n.Macros, prev.Macros, func(*Macro, *Macro) bool { return true }) {
		n.GonePages, n.GoneMacros = prev.GonePages, prev.GoneMacros
		return
	}
	n.GonePages, n.GoneMacros = map[string]string{}, map[string]string{}
	n.Show.EachMapping(func(m *show.Mapping) {
		for _, r := range m.Responses {
			if r.Action.Device != SelfID {
				continue
			}
			if id := r.Action.Params["page"]; id != "" && n.Show.Page(id) == nil {
				n.GonePages[id] = lastName(prev, show.Ref{Kind: show.KindPage, ID: id}, "a page that is gone")
			}
			if id := r.Action.Params["macro"]; id != "" && n.Show.Macro(id) == nil {
				n.GoneMacros[id] = lastName(prev, show.Ref{Kind: show.KindMacro, ID: id}, "a macro that is gone")
			}
		}
	})
}

// lastName is what a page or a macro was called when it was there last.
func lastName(prev *Program, r show.Ref, otherwise string) string {
	if prev == nil {
		return otherwise
	}
	if was := prev.Show.Get(r); was != nil {
		return was.Title()
	}
	return cmp.Or(prev.GonePages[r.ID], prev.GoneMacros[r.ID], otherwise)
}

// reusable returns the mapping as it was compiled before, if it and the devices
// it uses are still the same.
func (prev *Program) reusable(n *Program, m *show.Mapping) *Mapping {
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

// HasZones reports whether a controller is there that can have a profile in force.
func (n *Program) HasZones(controller, profile string) bool {
	return n.Controllers[controller] != nil && n.Show.Profile(profile) != nil
}

// HasStep reports whether a step of a macro is there.
func (n *Program) HasStep(id string) bool {
	return n.Show.Get(show.Ref{Kind: show.KindStep, ID: id}) != nil
}

// Owns reports whether a response is one of a mapping's, and not made for once, as for a value of a
// dial.
func (n *Program) Owns(mapping string, r *Response) bool {
	m := n.Mappings[mapping]
	if m == nil {
		return false
	}
	for _, own := range m.Responses {
		if own == r {
			return true
		}
	}
	return false
}

// With compiles another state of the show, with the same sheets.
func (n *Program) With(s *show.Show) *Program { return Compile(n, s, n.Sheets, n.sources) }
