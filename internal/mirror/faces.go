package mirror

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"synaptor/internal/program"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
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
	// Picture is the id of one of the library; Fit is fill or fit.
	Picture string     `json:"picture,omitempty"`
	Fit     string     `json:"fit,omitempty"`
	Live    *show.Live `json:"live,omitempty"`
	// Position and Align say where the label stands: see show.Face.
	Position string `json:"position,omitempty"`
	Align    string `json:"align,omitempty"`
	Light    bool   `json:"light,omitempty"`
	Blink    bool   `json:"blink,omitempty"`
	// Forced says that a state is tried out: it is not what the device says.
	Forced bool `json:"forced,omitempty"`
	face.Lamps
	// Words say what it shows, for screen readers and traces: on air, at rest.
	Words string `json:"words"`
	// Away says that a device it needs is not connected.
	Away bool `json:"away,omitempty"`
	// Gone says that what it was given is not there any more; the label is the last
	// name it had.
	Gone bool `json:"gone,omitempty"`
	// Refusal is why the last press was refused, for a moment.
	Refusal string `json:"refusal,omitempty"`
	// Guard is armed or waits while a guard is in between; GuardMs is how long
	// that lasts.
	Guard   string `json:"guard,omitempty"`
	GuardMs int64  `json:"guardMs,omitempty"`
	// Marks are what the drawing shows small: guard, hold, double, standing …
	Marks []string `json:"marks"`
	// Run is how the macro of the key goes on; Unsent counts its steps that cannot be
	// sent now.
	Run    *RunFace `json:"run,omitempty"`
	Unsent int      `json:"unsent,omitempty"`
	// Branch names the branch of its turns that it shows.
	Branch string `json:"branch,omitempty"`
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

// textBox is the room of a mapping's label: one of a size of its own is set in
// just this size.
func textBox(f show.Face) face.Box {
	b := labelBox
	if f.Size > 0 {
		b.Min, b.Max = f.Size, f.Size
	}
	return b
}

// face works out how a mapping looks in a world.
func (m *Mirror) face(c *program.Mapping, w expr.World) Face {
	lamps := face.Evaluate(c.Lamps, w)
	return m.faceWith(c, w, lamps)
}

// faceWith works out how a mapping looks while its lamps show something.
func (m *Mirror) faceWith(c *program.Mapping, w expr.World, lamps face.Lamps) Face {
	own, look := c.Source.Face, lamps.Look
	mac := m.runOf(c)
	branch := m.branchFace(c, mac, w, &look)
	f := Face{Mapping: c.Source.ID, Glyph: cmp.Or(look.Glyph, c.Glyph), Role: c.Role, Lamps: lamps,
		Background: cmp.Or(look.Background, own.Background, face.Tint(c.Role)), Text: cmp.Or(look.Text, own.Text, face.DefaultText),
		Picture: cmp.Or(look.Picture, own.Picture), Fit: own.Fit, Live: own.Live, Position: own.Position, Align: own.Align, Light: own.Light, Blink: look.Blink}
	label := c.Label
	if look.Label != nil {
		label = look.Label
	}
	f.Label = labelText(label, c.Plain, w)
	if label != nil && len(f.Pending) == 0 && !label.Constant() && labelText(label, c.Plain, face.Expected(w)) != f.Label {
		f.Pending = []string{face.Set} // the label is about to change
	}
	if branch != nil {
		f.Branch = cmp.Or(branch.Name, branch.Kind)
	}
	if mac != nil {
		f.Run, f.Unsent = m.runFace(c, mac), m.unsent(mac)
	}
	if c.Where != nil {
		f.Where = shortened(c.Where.Text(w))
	}
	f.Marks = c.Marks()
	f.Dial = m.dialFace(c, w)
	if g, has := m.guards[c.Source.ID]; has {
		f.Guard, f.GuardMs = g.State, g.Until.Sub(g.From).Milliseconds()
		f.On = append(f.On, face.Armed)
	}
	for _, r := range c.Responses {
		f.Gone = f.Gone || r.Bound != nil && r.Bound.Gone(w)
		if r.Problem != "" {
			f.Away = true
		} else if r.Device != program.SelfID && m.links[r.Device].Phase != link.Up {
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
	if f.Label == "" && !own.Hidden && len(c.Responses) > 0 {
		f.Label = c.Source.Responses[0].Action.Action
	}
	fitted := m.fit(f.Label, textBox(own))
	if own.Hidden {
		fitted.Lines, fitted.Cut = []string{}, false
	}
	f.Lines, f.Size, f.Cut = fitted.Lines, fitted.Size, fitted.Cut
	f.Words = f.words()
	return f
}

// labelText works out a label. One that cannot be worked out is the action's own.
func labelText(label, plain *expr.Template, w expr.World) string {
	if label == nil {
		return ""
	}
	v, err := label.Eval(w)
	if err != nil && plain != nil {
		return plain.Text(w)
	}
	return expr.Text(v)
}

// fitKey is a label and the room it has.
type fitKey struct {
	label string
	box   face.Box
}

// fit sets a label; labels repeat, so what was set once is remembered.
func (m *Mirror) fit(label string, box face.Box) face.Fitted {
	key := fitKey{label, box}
	if f, ok := m.fits[key]; ok {
		return f
	}
	if len(m.fits) > 10_000 {
		clear(m.fits)
	}
	f := m.font.Fit(label, box)
	m.fits[key] = f
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
func (f Face) same(o Face) bool { return reflect.DeepEqual(f, o) }

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
	if f.Run != nil {
		parts = append(parts, f.Run.State)
	}
	if f.Unsent > 0 {
		parts = append(parts, fmt.Sprintf("%d of its steps cannot be sent", f.Unsent))
	}
	if f.Gone {
		parts = append(parts, "gone")
	}
	if len(parts) == 0 {
		parts = []string{"at rest"}
	}
	return strings.Join(parts, ", ")
}

// dialFace works out the value of what a turn or a slide of a mapping changes.
func (m *Mirror) dialFace(c *program.Mapping, w expr.World) *DialFace {
	for _, g := range []string{input.Turn, input.Slide} {
		r := c.Responses[g]
		if r == nil || r.Dial == nil || !r.Dial.HasKey {
			continue
		}
		now := w.Reading(r.Dial.Key)
		if now.Quality == reading.Unknown {
			return &DialFace{Text: "?"}
		}
		out := &DialFace{Text: m.program.Devices[r.Device].Type.Word(r.Dial.Key, now.Value, w)}
		var v float64
		switch n := now.Value.(type) {
		case float64:
			v = n
		case int:
			v = float64(n)
		}
		if span := r.Dial.Range.Max - r.Dial.Range.Min; span > 0 && !r.Dial.Relative {
			out.Share = min(max((v-r.Dial.Range.Min)/span, 0), 1)
			if g == input.Slide && r.Dial.Slider.Inverted {
				out.Share = 1 - out.Share // where the cap stands
			}
		}
		return out
	}
	return nil
}
