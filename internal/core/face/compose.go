package face

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/show"
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
	Lamps
	// Words say what it shows, for screen readers and traces: on air, at rest.
	Words string `json:"words"`
	// Away says that a device it needs is not connected.
	Away bool `json:"away,omitempty"`
	// Missing are the names of the devices it needs that are not connected, those of
	// its macro's steps too.
	Missing []string `json:"missing,omitempty"`
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
	// Asks is what is to be typed when the key is pressed; empty: nothing is.
	Asks string `json:"asks,omitempty"`
	// Run is how the macro of the key goes on; Unsent counts its steps that cannot be
	// sent now.
	Run    *Run `json:"run,omitempty"`
	Unsent int  `json:"unsent,omitempty"`
	// Branch names the branch of its turns that it shows.
	Branch string `json:"branch,omitempty"`
	// Dial is the value of what a turn or a slide changes.
	Dial *Dial `json:"dial,omitempty"`
}

// Dial is the value of a dial or a slider.
type Dial struct {
	Text  string  `json:"text"`
	Share float64 `json:"share"` // from 0 to 1
}

// Run is what a key shows of the run of its macro: a bar along the top that
// empties while it goes on, and how it ended for a moment.
type Run struct {
	State    string    `json:"state"` // running, done, failed, halted
	ID       string    `json:"id"`
	LengthMs int64     `json:"lengthMs"`
	Started  time.Time `json:"started"`
	Open     bool      `json:"open,omitempty"` // nobody knows how long it takes
}

// Parts are what a face is put together from.
type Parts struct {
	Mapping *show.Mapping
	// Label and Where are templates of the action or the mapping; Plain is the action's
	// own label, for a label that cannot be worked out. Each may be nil.
	Label, Plain, Where *expr.Template
	// Lamps are what the lamps show, with what they change of the look.
	Lamps Lamps
	Glyph string // of the action
	Role  string // of the device it drives
	Title string // of what a press does
	Marks []string
	// Branch is the branch of the macro's turns that is shown; nil: none is.
	Branch *Branch
	Run    *Run
	Unsent int
	Asks   string
	Silent bool // nobody hears what it sets
	Dial   *Dial
	Guard  string
	// GuardFor is how long the guard is armed or fills.
	GuardFor   time.Duration
	Away, Gone bool
	// Missing are the names of devices, in their order.
	Missing []string
}

// Branch is a branch of turns with the look that the mapping gives it.
type Branch struct {
	Name string
	Look device.Look
}

// Room is the room of a mapping's label: one of a size of its own is set in just
// this size. The room is that of a face whose side is 100: inside the frame of the
// preview state, below the glyph and above the band of the on air state. The interface
// draws it there.
func Room(f show.Face) Box {
	b := Box{Width: 66, Height: 38, Min: 11, Max: 18}
	if f.Size > 0 {
		b.Min, b.Max = f.Size, f.Size
	}
	return b
}

// Compose puts a face together as things stand in a world. A lamp that holds goes
// before the branch that is shown, that before the mapping's own face, and that before
// what the action brings along.
func Compose(p Parts, w expr.World, font *Font) Face {
	own, look := p.Mapping.Face, p.Lamps.Look
	f := Face{Mapping: p.Mapping.ID, Role: p.Role, Lamps: p.Lamps, Fit: own.Fit, Live: own.Live, Position: own.Position, Align: own.Align,
		Light: own.Light, Blink: look.Blink, Run: p.Run, Unsent: p.Unsent, Asks: p.Asks, Dial: p.Dial, Away: p.Away, Missing: p.Missing, Gone: p.Gone, Marks: p.Marks}
	if p.Branch != nil {
		f.Branch = p.Branch.Name
		look = over(look, p.Branch.Look)
	}
	f.Glyph = cmp.Or(look.Glyph, p.Glyph)
	f.Background = cmp.Or(look.Background, own.Background, Tint(p.Role))
	f.Text = cmp.Or(look.Text, own.Text, DefaultText)
	f.Picture = cmp.Or(look.Picture, own.Picture)
	label := p.Label
	if look.Label != nil {
		label = look.Label
	}
	f.Label = labelText(label, p.Plain, w)
	if label != nil && len(f.Pending) == 0 && !label.Constant() && labelText(label, p.Plain, Expected(w)) != f.Label {
		f.Pending = []string{Set} // the label is about to change
	}
	if p.Where != nil {
		f.Where = shortened(p.Where.Text(w))
	}
	if p.Silent {
		f.Where = "MUTED"
	}
	if p.Guard != "" {
		f.Guard, f.GuardMs = p.Guard, p.GuardFor.Milliseconds()
		f.On = append(slices.Clip(f.On), Armed)
	}
	if f.Asks != "" && own.Label == "" && look.Label == nil {
		f.Label = f.Asks + " …" // its words are not there before they are typed
	}
	f.Name = cmp.Or(p.Mapping.Name, p.Title, f.Label)
	if f.Label == "" && !own.Hidden && len(p.Mapping.Responses) > 0 {
		f.Label = p.Mapping.Responses[0].Action.Action
	}
	fitted := font.Fit(f.Label, Room(own))
	if own.Hidden {
		fitted.Lines, fitted.Cut = []string{}, false
	}
	f.Label, _ = cutLabel(f.Label)
	f.Lines, f.Size, f.Cut = fitted.Lines, fitted.Size, fitted.Cut
	f.Words = f.InWords()
	return f
}

// over is a look with what another one sets and it does not.
func over(look, below device.Look) device.Look {
	take(&look, &below)
	return look
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

// shortened keeps the mark at the upper right to eight characters.
func shortened(s string) string {
	r := []rune(s)
	if len(r) > 8 {
		return string(r[:7]) + "…"
	}
	return s
}

// Equal tells whether two faces look alike.
func (f Face) Equal(o Face) bool { return reflect.DeepEqual(f, o) }

// InWords says what a face shows.
func (f Face) InWords() string {
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
	switch {
	case len(f.Missing) > 0:
		parts = append(parts, strings.Join(f.Missing, " and ")+" away")
	case f.Away:
		parts = append(parts, "device away")
	}
	if f.Run != nil {
		parts = append(parts, f.Run.State)
	}
	if f.Asks != "" {
		parts = append(parts, "asks for "+f.Asks)
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
