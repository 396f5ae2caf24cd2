package preflight

import (
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
)

// guarded are the gestures that nobody makes without meaning to.
var guarded = []string{input.Hold, input.Double}

// guardMs is how long a key has to be held that gets a guard.
const guardMs = 800

// unguarded gives what of a key is risky and happens at once; empty: nothing.
func (k Key) unguarded() string {
	if k.Guard != nil {
		return ""
	}
	for _, d := range k.Does {
		if d.Risky && d.Problem == "" && !slices.Contains(guarded, d.Gesture) {
			return d.Title
		}
	}
	return ""
}

// Risks finds what is done too easily by a key, wherever it stands.
func (k Key) Risks() []Finding {
	what := k.unguarded()
	if what == "" {
		return nil
	}
	f := finder{subject: k.Ref()}
	fix := k.fix("Have "+k.Called()+" held before it fires", func(m *show.Mapping) { m.Guard = &show.Guard{Kind: input.GuardHold, Ms: guardMs} })
	f.add("risk-unguarded", Caution, "", "%s happens at the first touch of %s, with nothing in between.", what, strings.Join(places(k.Places), " and ")).Fix = fix
	return f.out
}

func places(all []Place) (out []string) {
	for _, p := range all {
		out = append(out, p.At())
	}
	return out
}

// Risk is a risky key on one control of a page.
type Risk struct {
	Key     Key
	Control device.Control
	Page    *show.Page // nil: it stands
	// Free are the controls of the same page that have nothing to do.
	Free []string
	// Felt is a control that can be felt and has nothing to do, on a page of another controller; nil: there is none.
	Felt *FreeSpot
}

// FreeSpot is a control of a page that has nothing to do.
type FreeSpot struct{ Page, Control, Called string }

// Risky reports whether anything that a key does is risky.
func (k Key) Risky() bool {
	return slices.ContainsFunc(k.Does, func(d Does) bool { return d.Risky && d.Problem == "" })
}

// OnTouch finds a risky key on a control that cannot be felt while ones that can are free.
func (r Risk) OnTouch() []Finding {
	if r.Control.Kind != "touch" || r.Felt == nil || !r.Key.Risky() {
		return nil
	}
	f := finder{subject: r.Key.Ref()}
	g := f.add("risk-on-touch", Note, r.Control.ID, "%s is on %s, which cannot be felt, while %s is free.", r.Key.Called(), r.Control.ID, r.Felt.Called)
	g.Sure = Guessed
	if r.Page != nil {
		g.Fix = r.moveTo(r.Felt.Page, r.Felt.Control)
	}
	return f.out
}

// move puts the key on another control of its page.
func (r Risk) move(to string) *Fix {
	if r.Page == nil {
		return nil
	}
	return r.moveTo(r.Page.ID, to)
}

// moveTo puts the key on a control of a page.
func (r Risk) moveTo(onto, to string) *Fix {
	page, from, id := r.Page.ID, r.Control.ID, r.Key.ID
	return &Fix{"Move " + r.Key.Called() + " from " + from + " to " + to, func(d *show.Draft, _ func() string) error {
		m := d.Mapping(id)
		if m == nil || m.PlacementOn(page, from) < 0 || d.Page(onto) == nil || d.MappingAt(onto, to) != nil {
			return ErrChanged
		}
		c := m.Clone()
		at := &c.Placements[c.PlacementOn(page, from)]
		at.Page, at.Control = onto, to
		d.Put(c)
		return nil
	}}
}

// Beside finds a risky key beside one that is used often: a hand that is a little off does what it must not. used counts the presses of the keys of the
// page, by control; controls are those of the layout.
func (r Risk) Beside(used map[string]int, controls []device.Control, called func(control string) string) []Finding {
	if !r.Key.Risky() {
		return nil
	}
	often, at := usedOften, ""
	for _, c := range controls {
		if n := used[c.ID]; n >= often && c.ID != r.Control.ID && touches(c, r.Control) && n > used[r.Control.ID] {
			often, at = n, c.ID
		}
	}
	if at == "" {
		return nil
	}
	f := finder{subject: r.Key.Ref()}
	g := f.add("risk-neighbour", Caution, r.Control.ID, "%s on %s is beside %s, which was used %d times.", r.Key.Called(), r.Control.ID, called(at), often)
	g.Sure = Measured
	for _, free := range r.Free {
		i := slices.IndexFunc(controls, func(c device.Control) bool { return c.ID == free })
		if i >= 0 && !slices.ContainsFunc(controls, func(c device.Control) bool { return used[c.ID] >= usedOften && touches(c, controls[i]) }) {
			g.Fix = r.move(free)
			break
		}
	}
	return f.out
}

// usedOften is how many presses in the record make a key one that is used often.
const usedOften = 20

// touches reports whether two controls are neighbours: side by side, one above the other, or corner to corner.
func touches(a, b device.Control) bool {
	const gap = 0.6
	return a.Zone == b.Zone && a.X-gap < b.X+b.Width && b.X-gap < a.X+a.Width && a.Y-gap < b.Y+b.Height && b.Y-gap < a.Y+a.Height
}
