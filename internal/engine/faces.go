package engine

import (
	"slices"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
)

// Face is how a mapping looks, as the interface draws it.
type Face struct {
	Mapping    string   `json:"mapping"`
	Name       string   `json:"name"`  // for screen readers and lists
	Label      string   `json:"label"` // the whole text
	Lines      []string `json:"lines"` // the label as it is set
	Size       float64  `json:"size"`  // of the text, in hundredths of the face's side
	Cut        bool     `json:"cut,omitempty"`
	Glyph      string   `json:"glyph"`
	Where      string   `json:"where,omitempty"`
	Role       string   `json:"role"`
	Background string   `json:"background"` // #rrggbb
	Text       string   `json:"text"`       // #rrggbb
	face.Lamps
	// Words say what it shows, for screen readers and traces: on air, at rest.
	Words string `json:"words"`
	// Away says that a device it needs is not connected.
	Away bool `json:"away,omitempty"`
	// Refusal is why the last press was refused, for a moment.
	Refusal string `json:"refusal,omitempty"`
	// Guard is armed or waits while a guard is in between; GuardMs is how long
	// that lasts.
	Guard   string `json:"guard,omitempty"`
	GuardMs int64  `json:"guardMs,omitempty"`
	// Marks are what the drawing shows small: guard, hold, double, standing …
	Marks []string `json:"marks"`
	// Dial is the value of what a turn or a slide changes.
	Dial *DialFace `json:"dial,omitempty"`
}

// DialFace is the value of a dial or a slider.
type DialFace struct {
	Text  string  `json:"text"`
	Share float64 `json:"share"` // from 0 to 1
}

// The room of a label on a face whose side is 100: inside the frame of the
// preview state, below the glyph and above the band of the on air state. The
// interface draws it there.
var labelBox = face.Box{Width: 66, Height: 38, Min: 11, Max: 18}

// face works out how a mapping looks in a world.
func (m *mirror) face(c *Mapping, w expr.World) Face {
	f := Face{Mapping: c.Source.ID, Glyph: c.Glyph, Role: c.Role, Lamps: face.Evaluate(c.Lamps, w),
		Background: nameOr(c.Source.Face.Background, face.Tint(c.Role)), Text: nameOr(c.Source.Face.Text, face.DefaultText)}
	if c.Label != nil {
		f.Label = c.Label.Text(w)
		if len(f.Pending) == 0 && !c.Label.Constant() && c.Label.Text(face.Expected(w)) != f.Label {
			f.Pending = []string{face.Set} // the label is about to change
		}
	}
	if c.Where != nil {
		f.Where = shortened(c.Where.Text(w))
	}
	f.Marks = c.marks()
	f.Dial = m.dialFace(c, w)
	if g, has := m.guards[c.Source.ID]; has {
		f.Guard, f.GuardMs = g.state, g.until.Sub(g.from).Milliseconds()
		f.On = append(f.On, face.Armed)
	}
	for _, r := range c.Responses {
		if r.Problem != "" {
			f.Away = true
		} else if r.Device != SelfID && m.links[r.Device].Phase != link.Up {
			f.Away = true
		}
	}
	f.Name = c.Source.Name
	if f.Name == "" {
		if r := c.Responses["press"]; r != nil && r.Bound != nil {
			f.Name = r.Bound.Title.Text(w)
		} else {
			f.Name = f.Label
		}
	}
	if f.Label == "" && !c.Source.Face.Hidden && len(c.Responses) > 0 {
		f.Label = c.Source.Responses[0].Action.Action
	}
	fitted := m.fit(f.Label)
	if c.Source.Face.Hidden {
		fitted.Lines = []string{}
	}
	f.Lines, f.Size, f.Cut = fitted.Lines, fitted.Size, fitted.Cut
	f.Words = f.words()
	return f
}

// fit sets a label; labels repeat, so what was set once is remembered.
func (m *mirror) fit(label string) face.Fitted {
	if f, ok := m.fits[label]; ok {
		return f
	}
	if len(m.fits) > 10_000 {
		clear(m.fits)
	}
	f := m.font.Fit(label, labelBox)
	m.fits[label] = f
	return f
}

// shortened keeps the mark at the upper right to eight characters.
func shortened(s string) string {
	r := []rune(s)
	if len(r) > 8 {
		return string(r[:7]) + "…"
	}
	return s
}

// same tells whether two faces look alike.
func (f Face) same(o Face) bool {
	return f.Label == o.Label && f.Where == o.Where && f.Words == o.Words && f.Refusal == o.Refusal &&
		f.Guard == o.Guard && (f.Dial == nil) == (o.Dial == nil) && (f.Dial == nil || *f.Dial == *o.Dial) && f.Background == o.Background && f.Text == o.Text && f.Glyph == o.Glyph
}

// words says what a face shows.
func (f Face) words() string {
	var parts []string
	for _, r := range f.On {
		if !slices.Contains(f.Pending, r) {
			parts = append(parts, strings.ReplaceAll(r, "-", " "))
		}
	}
	for _, r := range f.Pending {
		parts = append(parts, strings.ReplaceAll(r, "-", " ")+" pending")
	}
	if f.Unknown {
		parts = append(parts, "unknown")
	}
	if f.Away {
		parts = append(parts, "device away")
	}
	if len(parts) == 0 {
		parts = []string{"at rest"}
	}
	return strings.Join(parts, ", ")
}

// marks lists what of a mapping does not show in its face: everything but a
// press.
func (c *Mapping) marks() []string {
	out := []string{}
	if c.Source.Guard != nil {
		out = append(out, "guard")
	}
	for _, g := range input.Gestures {
		if g != input.Press && c.mapped[g] {
			out = append(out, g)
		}
	}
	if c.Source.Stands() {
		out = append(out, "standing")
	}
	return out
}

// dialFace works out the value of what a turn or a slide of a mapping changes.
func (m *mirror) dialFace(c *Mapping, w expr.World) *DialFace {
	for _, g := range []string{input.Turn, input.Slide} {
		r := c.Responses[g]
		if r == nil || r.Dial == nil || !r.Dial.hasKey {
			continue
		}
		now := w.Reading(r.Dial.key)
		if now.Quality == reading.Unknown {
			return &DialFace{Text: "?"}
		}
		out := &DialFace{Text: m.snap.Devices[r.Device].Type.Word(r.Dial.key, now.Value, w)}
		var v float64
		switch n := now.Value.(type) {
		case float64:
			v = n
		case int:
			v = float64(n)
		}
		if span := r.Dial.dial.Max - r.Dial.dial.Min; span > 0 && !r.Dial.by {
			out.Share = min(max((v-r.Dial.dial.Min)/span, 0), 1)
		}
		return out
	}
	return nil
}
