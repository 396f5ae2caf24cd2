package preflight

import (
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
)

// Key is a mapping as far as findings rest on it.
type Key struct {
	*show.Mapping
	Name   string         // what it is called; empty: Title says it
	Title  *expr.Template // of what it does
	World  expr.World     // in which Title is said
	Mapped input.Mapped   // its gestures
	Does   []Does         // one for each of its responses
	Lamps  []Lamp         // those that it shows, in their order
	Places []Place
	Face   Face
}

// Called is what a key is called in a sentence: its name, else what it does.
func (k Key) Called() string {
	if k.Name != "" || k.Title == nil {
		return k.Name
	}
	return k.Title.Text(k.World)
}

// Does is what a gesture of a key starts.
type Does struct {
	Gesture string
	Title   string
	// Problem says why it can never be sent; ID is which finding that is.
	Problem, ID string
	Risky       bool
	Picture     bool // it changes what everybody sees
	Moves       bool // what it brings about rests on what is, so that no lamp can tell that it is so
	Macro       bool // it runs one
	Dial        *Dial
}

// Dial is what a turn or a slide moves.
type Dial struct {
	Min, Max, Step float64
	Own            float64 // the step that the device itself suggests
	Fast           bool    // it goes faster when it is turned fast
	Steps          bool    // it goes through choices, or moves by so much: it has no range to cross
}

// Lamp is a lamp as far as it can be judged without anything that lives.
type Lamp struct {
	Never string // why it can never light; empty: it can
	Tells bool   // it rests on what the key changes
}

// Place is a control on which a key stands.
type Place struct {
	Page    string          // its name; empty: it stands on every page
	ID      string          // of the control
	Control *device.Control // nil: the layout has no such control
	Timing  input.Timing
}

// At is how a place is told: a1 on Cut.
func (p Place) At() string {
	if p.Page == "" {
		return p.ID + " on every page"
	}
	return p.ID + " on " + p.Page
}

// A turn of a dial has about so many detents, and nobody turns further than that for what is wanted.
const (
	detents   = 24
	manyTurns = 6
	fewSteps  = 20
)

// Keys finds what is wrong with a mapping by itself, wherever it stands.
func (k Key) Find() []Finding {
	f := finder{subject: k.Ref()}
	if len(k.Does) == 0 {
		f.add("response-missing", Caution, "", "%s has a face and nothing behind it.", k.Called()).Fix = k.fix("Take "+k.Called()+" away", nil)
	}
	for i, d := range k.Does {
		k.does(&f, i, d)
	}
	for i, l := range k.Lamps {
		if l.Never != "" {
			f.add("lamp-never", Caution, lampAt(i), "Lamp %d of %s can never light: %s", i+1, k.Called(), l.Never).Fix = k.withoutLamp(i)
		}
	}
	if i := slices.IndexFunc(k.Does, func(d Does) bool { return d.Picture && !d.Moves && !d.Macro && d.Problem == "" && d.Dial == nil }); i >= 0 && !slices.ContainsFunc(k.Lamps, func(l Lamp) bool { return l.Tells }) {
		g := f.add("lamp-missing", Note, "", "%s changes what everybody sees, and no lamp tells whether it did.", k.Called())
		if k.Mapping.Lamps != nil {
			g.Fix = k.fix("Give "+k.Called()+" the lamps of its action", func(m *show.Mapping) { m.Lamps = nil })
		}
	}
	k.placed(&f)
	k.Face.find(&f, k)
	return f.out
}

func lampAt(i int) string { return "lamp " + string(rune('1'+i)) }

// does finds what is wrong with one response.
func (k Key) does(f *finder, i int, d Does) {
	if d.Problem != "" {
		f.add(d.ID, Stops, d.Gesture, "%s: %s", k.Called(), sentence(d.Problem)).Fix = k.without(d.Gesture)
		if d.ID == "option-unsupported" {
			f.out[len(f.out)-1].Severity = Caution
		}
		return
	}
	if d.Dial == nil || d.Dial.Steps {
		return
	}
	span := d.Dial.Max - d.Dial.Min
	if d.Gesture == input.Slide || span <= 0 || d.Dial.Step <= 0 {
		return
	}
	steps := span / d.Dial.Step
	use := func(step float64) *Fix {
		return k.fix("Turn "+k.Called()+" by the device's own steps", func(m *show.Mapping) {
			own := *m.Responses[i].Dial
			own.Step = step
			m.Responses[i].Dial = &own
		})
	}
	switch {
	case steps > detents*manyTurns && !d.Dial.Fast:
		g := f.add("dial-endless", Note, d.Gesture, "%s takes %.0f turns from one end to the other.", k.Called(), steps/detents)
		if d.Dial.Own > d.Dial.Step && k.Responses[i].Dial != nil {
			g.Fix = use(0)
		}
	case d.Dial.Step > d.Dial.Own && steps < fewSteps:
		g := f.add("dial-coarse", Note, d.Gesture, "One step of %s is %g, and the device takes steps of %g: what is between them cannot be reached.", k.Called(), d.Dial.Step, d.Dial.Own)
		if k.Responses[i].Dial != nil {
			g.Fix = use(0)
		}
	}
}

// slow is what a press may wait before somebody finds it slow.
const slow = 200 * time.Millisecond

// placed finds what the controls on which it stands make of it.
func (k Key) placed(f *finder) {
	slowTold := false
	for _, p := range k.Places {
		if p.Control == nil {
			f.add("control-missing", Caution, p.At(), "%s stands on %s, which the layout does not have.", k.Called(), p.At())
			continue
		}
		for _, g := range p.Control.Unable(k.Gestures()) {
			f.add("gesture-missing", Caution, p.At()+" "+g, "%s of %s cannot happen: %s is a %s.", Spoken(g), k.Called(), p.At(), p.Control.Kind).Fix = k.without(g)
		}
		wait, release := k.Mapped.AddedDelay(input.Press, p.Timing)
		if k.Response(input.Press) == nil || slowTold || !slices.ContainsFunc(k.Does, func(d Does) bool { return d.Gesture == input.Press && d.Picture }) {
			continue
		}
		switch {
		case wait >= slow:
			slowTold = true
			f.add("gesture-slow", Note, "", "A press of %s waits %d ms, to see whether a second one follows.", k.Called(), wait.Milliseconds())
		case release && k.Response(input.Hold) != nil:
			slowTold = true
			f.add("gesture-slow", Note, "", "A press of %s waits until it is let go, to see whether it is held.", k.Called())
		}
	}
}

// Spoken is a gesture as a sentence begins with it.
func Spoken(gesture string) string {
	s := strings.ReplaceAll(gesture, "-", " ")
	return "A " + s
}

// fix changes the mapping, or takes it away where change is nil.
func (k Key) fix(title string, change func(*show.Mapping)) *Fix {
	id := k.ID
	return &Fix{title, func(d *show.Draft, _ func() string) error {
		m := d.Mapping(id)
		switch {
		case m == nil:
			return ErrChanged
		case change == nil:
			d.Delete(m.Ref())
			return nil
		}
		c := m.Clone()
		change(c)
		d.Put(c)
		return nil
	}}
}

// without takes the response to a gesture away, and the mapping with its last one.
func (k Key) without(gesture string) *Fix {
	if len(k.Responses) == 1 {
		return k.fix("Take "+k.Called()+" away", nil)
	}
	return k.fix("Take the "+strings.ToLower(strings.TrimPrefix(Spoken(gesture), "A "))+" off "+k.Called(), func(m *show.Mapping) {
		m.Responses = slices.DeleteFunc(m.Responses, func(r show.Response) bool { return r.Gesture == gesture })
	})
}

// withoutLamp takes a lamp of its own away; those of its action cannot be.
func (k Key) withoutLamp(i int) *Fix {
	if k.Mapping.Lamps == nil || i >= len(k.Mapping.Lamps) {
		return nil
	}
	return k.fix("Take a lamp off "+k.Called(), func(m *show.Mapping) { m.Lamps = slices.Delete(m.Lamps, i, i+1) })
}

// Gone says that what a gesture of a key is about is not there any more.
func (k Key) Gone(gesture, title string) Finding {
	f := finder{subject: k.Ref()}
	g := f.add("option-gone", Stops, gesture, "What “%s” is about is not there any more.", title)
	g.Sure, g.Fix = Measured, k.without(gesture)
	return *g
}

// Unsupported says that a device has turned out not to do what a gesture of a key asks of it.
func (k Key) Unsupported(gesture, why string) Finding {
	f := finder{subject: k.Ref()}
	g := f.add("option-unsupported", Caution, gesture, "%s: %s", k.Called(), why)
	g.Sure, g.Fix = Measured, k.without(gesture)
	return *g
}

// Unmet says that what a gesture of a key needs is not so now.
func (k Key) Unmet(gesture, title, why string) Finding {
	f := finder{subject: k.Ref()}
	g := f.add("precondition-unmet", Note, gesture, "%s cannot be sent as things stand: %s", title, why)
	g.Sure = Measured
	return *g
}

// NeverReturns says that a key changes a reading, and nothing that is at hand changes it back.
func (k Key) NeverReturns(reading, name, called, to, from string) Finding {
	f := finder{subject: k.Ref()}
	g := f.add("never-returns", Note, reading, "%s sets %s to %s; nothing on the pages in use sets it back to %s.", name, called, to, from)
	g.Sure = Measured
	return *g
}
