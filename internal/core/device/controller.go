package device

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/show"
)

// ControllerFormat is the format of controller sheets this package reads.
const ControllerFormat = "synaptor.controller/1"

// ControllerSheet is the layout of a controller: a grid, or groups of controls
// placed on a drawing.
type ControllerSheet struct {
	Format string  `json:"sheet"`
	Type   string  `json:"type"`
	Title  string  `json:"title"`
	Zone   string  `json:"zone,omitempty"` // of the grid
	Grid   *Grid   `json:"grid,omitempty"`
	Groups []Group `json:"groups,omitempty"`
	// MIDI, Keys and Axes say for a kind of hardware which of these controls what is, so that plugging it in is all.
	MIDI *HardwareMap `json:"midi,omitempty"`
	Keys *HardwareMap `json:"keys,omitempty"`
	Axes *HardwareMap `json:"axes,omitempty"`
}

// HardwareMap says what of a kind of hardware is which control.
type HardwareMap struct {
	// Names are how such hardware begins to say it is called.
	Names    []string       `json:"names,omitempty"`
	Bindings []show.Binding `json:"bindings"`
}

// Grid is a field of like keys.
type Grid struct {
	Columns  int      `json:"columns"`
	Rows     int      `json:"rows"`
	Pictures bool     `json:"pictures"`
	Touch    bool     `json:"touch"`
	Gestures []string `json:"gestures,omitempty"` // default: what such keys can do
}

// Group is a field of like controls at a place of the drawing. Places and sizes
// count in keys.
type Group struct {
	ID       string   `json:"id"`   // its controls are called after it: d1, d2
	Kind     string   `json:"kind"` // key, touch, dial, button, pedal, slider, ribbon
	Zone     string   `json:"zone"`
	Columns  int      `json:"columns"`
	Rows     int      `json:"rows"`
	X        float64  `json:"x"`
	Y        float64  `json:"y"`
	Width    float64  `json:"width,omitempty"` // of each control; default 1
	Height   float64  `json:"height,omitempty"`
	Pictures bool     `json:"pictures,omitempty"`
	Gestures []string `json:"gestures,omitempty"`
}

// Control is one control of a layout. Column and row count from 0 within its
// group; place and size count in keys.
type Control struct {
	ID       string   `json:"id"`
	Kind     string   `json:"kind"`
	Zone     string   `json:"zone"`
	Group    string   `json:"group"`
	Column   int      `json:"column"`
	Row      int      `json:"row"`
	X        float64  `json:"x"`
	Y        float64  `json:"y"`
	Width    float64  `json:"width"`
	Height   float64  `json:"height"`
	Pictures bool     `json:"pictures"`
	Gestures []string `json:"gestures"`
}

// Unable lists those of some gestures that the control cannot make.
func (c Control) Unable(gestures []string) (out []string) {
	for _, g := range gestures {
		if !slices.Contains(c.Gestures, g) {
			out = append(out, g)
		}
	}
	return out
}

// Can are the gestures that a kind of control can make.
var Can = map[string][]string{
	"key":    {"press", "hold", "double", "release", "repeat", "talk"},
	"touch":  {"press", "hold", "double", "release", "repeat", "talk"},
	"button": {"press", "hold", "double", "release", "repeat", "talk"},
	"pedal":  {"press", "hold", "double", "release", "talk"},
	"dial":   {"press", "hold", "double", "release", "turn", "turn-left", "turn-right", "push-turn"},
	"slider": {"slide"},
	"ribbon": {"swipe-left", "swipe-right", "slide"},
}

// maps are those for a kind of link.
func (s *ControllerSheet) maps(kind string) (out []*HardwareMap) {
	var of []*HardwareMap
	switch kind {
	case show.LinkMIDIHere, show.LinkMIDIHost:
		of = []*HardwareMap{s.MIDI}
	case show.LinkKeysHere:
		of = []*HardwareMap{s.Keys}
	case show.LinkKeysHost:
		of = []*HardwareMap{s.Keys, s.Axes}
	case show.LinkGamepad:
		of = []*HardwareMap{s.Axes}
	}
	return slices.DeleteFunc(of, func(m *HardwareMap) bool { return m == nil })
}

// Bindings are those that the sheet brings for a kind of link.
func (s *ControllerSheet) Bindings(kind string) (out []show.Binding) {
	for _, m := range s.maps(kind) {
		out = append(out, m.Bindings...)
	}
	return out
}

// Bound are the bindings that count for a link: its own, or where it has none those of the sheet. Without a sheet they are its own.
func (s *ControllerSheet) Bound(l *show.Link) []show.Binding {
	if len(l.Bindings) > 0 || s == nil {
		return l.Bindings
	}
	return s.Bindings(l.Kind)
}

// Fits tells whether the sheet is made for hardware of a name.
func (s *ControllerSheet) Fits(kind, name string) bool {
	for _, m := range s.maps(kind) {
		for _, n := range m.Names {
			if len(name) >= len(n) && strings.EqualFold(name[:len(n)], n) {
				return true
			}
		}
	}
	return false
}

// Suits tells whether hardware of a sort, as a binding says it, can move a kind of control.
func Suits(as, kind string) bool {
	switch as {
	case show.AsDial:
		return kind == "dial"
	case show.AsSlider:
		return kind == "slider" || kind == "ribbon"
	}
	return kind != "slider" && kind != "ribbon"
}

// Binds says what is wrong with bindings to the controls of the layout, in a sentence; empty: nothing.
func (s *ControllerSheet) Binds(all []show.Binding) string {
	if text := show.CheckBindings(all); text != "" {
		return text
	}
	for _, b := range all {
		c, has := s.Control(b.Control)
		switch {
		case b.Control == "":
		case !has:
			return fmt.Sprintf("There is no control %q for %s.", b.Control, b.Source)
		case !Suits(b.As, c.Kind):
			return fmt.Sprintf("%s is a %s, and %s a %s: it cannot move it.", b.Source, b.As, b.Control, c.Kind)
		}
	}
	return ""
}

// groups gives the grid as a group too.
func (s *ControllerSheet) groups() []Group {
	if s.Grid == nil {
		return s.Groups
	}
	kind := "key"
	if s.Grid.Touch {
		kind = "touch"
	}
	g := Group{Kind: kind, Zone: s.Zone, Columns: s.Grid.Columns, Rows: s.Grid.Rows, Pictures: s.Grid.Pictures, Gestures: s.Grid.Gestures}
	return append([]Group{g}, s.Groups...)
}

// Controls lists the controls of the layout, group by group and row by row. Ids
// on a grid are a column letter and a row number, a1 at the top left; in a group
// its name and a number.
func (s *ControllerSheet) Controls() []Control {
	var out []Control
	for _, g := range s.groups() {
		out = append(out, g.controls()...)
	}
	return out
}

// controls lists those of a group.
func (g Group) controls() (out []Control) {
	w, h := g.Width, g.Height
	if w == 0 {
		w = 1
	}
	if h == 0 {
		h = 1
	}
	gestures := g.Gestures
	if len(gestures) == 0 {
		gestures = Can[g.Kind]
	}
	for r := range g.Rows {
		for c := range g.Columns {
			id := g.ID + strconv.Itoa(r*g.Columns+c+1)
			if g.ID == "" {
				id = CellID(c, r)
			}
			out = append(out, Control{ID: id, Kind: g.Kind, Zone: g.Zone, Group: g.ID, Column: c, Row: r, X: g.X + float64(c)*w, Y: g.Y + float64(r)*h,
				Width: w, Height: h, Pictures: g.Pictures, Gestures: gestures})
		}
	}
	return out
}

// Extent is how wide and how high a drawing of controls is, in keys.
func Extent(controls []Control) (width, height float64) {
	for _, c := range controls {
		width, height = max(width, c.X+c.Width), max(height, c.Y+c.Height)
	}
	return width, height
}

// Zones lists the zones of the layout, in order.
func (s *ControllerSheet) Zones() []string {
	var out []string
	for _, g := range s.groups() {
		if !slices.Contains(out, g.Zone) {
			out = append(out, g.Zone)
		}
	}
	return out
}

// Control finds a control by its id.
func (s *ControllerSheet) Control(id string) (Control, bool) {
	for _, c := range s.Controls() {
		if c.ID == id {
			return c, true
		}
	}
	return Control{}, false
}

// maxControls is how many controls a controller can have.
//
//limit:count controls of a controller | at the sheet's line
const maxControls = 500

// Check says what is wrong with a layout: Problems, or nil.
func (s *ControllerSheet) Check() error {
	m := &mistakes{}
	count := 0
	for i, g := range s.groups() {
		where := s.groupAt(i)
		count += min(max(0, g.Columns), maxControls+1) * min(max(0, g.Rows), maxControls+1)
		can := Can[g.Kind]
		if can == nil {
			m.at(where+"/kind", "%q is no kind of control", g.Kind)
			continue
		}
		for j, gesture := range g.Gestures {
			if !slices.Contains(can, gesture) {
				m.at(fmt.Sprintf("%s/gestures/%d", where, j), "a %s cannot make the gesture %s", g.Kind, gesture)
			}
		}
	}
	if count < 1 || count > maxControls {
		m.at("", "a controller has 1 to %d controls, this one has %d", maxControls, count)
	} else {
		s.checkPlaces(m)
	}
	for where, of := range map[string]*HardwareMap{"/midi": s.MIDI, "/keys": s.Keys, "/axes": s.Axes} {
		if of == nil {
			continue
		}
		if text := s.Binds(of.Bindings); text != "" {
			m.at(where+"/bindings", "%s", text)
		}
	}
	if len(m.found) > 0 {
		return m.found
	}
	return nil
}

// groupAt is the place of a group in the sheet, by its number among groups.
func (s *ControllerSheet) groupAt(i int) string {
	if s.Grid != nil {
		if i == 0 {
			return "/grid"
		}
		i--
	}
	return fmt.Sprintf("/groups/%d", i)
}

// touching is how far, in keys, controls may lie over each other: drawings by hand
// are not exact.
const touching = 0.05

// checkPlaces notes groups with a control that is called as another, or lies on top of
// one; the first of each group.
func (s *ControllerSheet) checkPlaces(m *mistakes) {
	seen := map[string]bool{}
	var before []Control
	for i, g := range s.groups() {
		where, told := s.groupAt(i), false
		for _, c := range g.controls() {
			switch on := overlap(c, before); {
			case told:
			case seen[c.ID]:
				m.at(where, "two controls are called %s", c.ID)
				told = true
			case on != "":
				m.at(where, "%s and %s lie on top of each other", on, c.ID)
				told = true
			}
			seen[c.ID] = true
			before = append(before, c)
		}
	}
}

// overlap names a control that another one lies on top of, or gives "".
func overlap(a Control, others []Control) string {
	for _, b := range others {
		if a.X+touching < b.X+b.Width && b.X+touching < a.X+a.Width && a.Y+touching < b.Y+b.Height && b.Y+touching < a.Y+a.Height {
			return b.ID
		}
	}
	return ""
}

// CellID names a cell of a grid: column letter and row number.
func CellID(column, row int) string {
	return string(rune('a'+column)) + strconv.Itoa(row+1)
}

var cellID = regexp.MustCompile(`^([a-z])([1-9][0-9]?)$`)

// Cell reads a cell's name; column and row count from 0.
func Cell(id string) (column, row int, err error) {
	m := cellID.FindStringSubmatch(id)
	if m == nil {
		return 0, 0, fmt.Errorf("%q is not a control of a grid, such as a1", id)
	}
	row, err = strconv.Atoi(m[2])
	return int(m[1][0] - 'a'), row - 1, err
}
