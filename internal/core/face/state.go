package face

import (
	"cmp"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Lamp roles.
const (
	OnAir   = "on-air"
	Preview = "preview"
	Armed   = "armed"
	Running = "running"
	Set     = "set"
)

// Roles lists the lamp roles.
var Roles = []string{OnAir, Preview, Armed, Running, Set}

// Lamps is what the lamps of a face show.
type Lamps struct {
	On      []string `json:"on"`      // roles that hold
	Pending []string `json:"pending"` // roles that would change if what was sent comes true
	Unknown bool     `json:"unknown"` // a lamp depends on a reading nobody knows
	Assumed bool     `json:"assumed"` // a lamp rests on what was sent, not on a report
	// Look is what the lamps that hold change besides.
	Look device.Look `json:"-"`
}

// take takes over what a lamp sets and no lamp before it has set.
func take(c, l *device.Look) {
	if l == nil {
		return
	}
	if c.Label == nil {
		c.Label = l.Label
	}
	for _, f := range []struct {
		mine   *string
		theirs string
	}{{&c.Glyph, l.Glyph}, {&c.Background, l.Background}, {&c.Text, l.Text}, {&c.Picture, l.Picture}} {
		if *f.mine == "" {
			*f.mine = f.theirs
		}
	}
	c.Blink = c.Blink || l.Blink
}

// Showing is what a lamp shows when it is the only one that holds.
func Showing(l device.Lamp) Lamps {
	out := Lamps{On: []string{}, Pending: []string{}}
	out.add(&out.On, l.Role)
	take(&out.Look, l.Look)
	return out
}

// Expected is a world in which what was sent has come true.
func Expected(w expr.World) expr.World { return expectedWorld{w} }

// expectedWorld answers with the expected values where there are some.
type expectedWorld struct{ expr.World }

// Reading implements expr.World.
func (w expectedWorld) Reading(k reading.Key) reading.Reading {
	r := w.World.Reading(k)
	if r.Quality == reading.Pending {
		r.Value = r.Expected
	}
	return r
}

// Event implements expr.Eventful.
func (w expectedWorld) Event() map[string]any { return expr.EventOf(w.World) }

// Evaluate works out what lamps show. A lamp that depends on an unknown reading
// does not hold, and the face is unknown; only what was on air when it was last
// heard stays so, because it may still be.
func Evaluate(lamps []device.Lamp, w expr.World) Lamps {
	out := Lamps{On: []string{}, Pending: []string{}}
	for _, l := range lamps {
		known := true
		pending := false
		for _, k := range l.When.Deps {
			switch w.Reading(k).Quality {
			case reading.Unknown:
				known = false
			case reading.Pending:
				pending = true
			case reading.Assumed:
				out.Assumed = true
			}
		}
		holds := l.When.Holds(w)
		switch {
		case !known:
			out.Unknown = true
			if holds && l.Role == OnAir {
				out.add(&out.On, l.Role)
			}
			continue
		case holds:
			out.add(&out.On, l.Role)
			take(&out.Look, l.Look)
		}
		if pending && l.When.Holds(Expected(w)) != holds {
			out.add(&out.Pending, cmp.Or(l.Role, Set))
		}
	}
	return out
}

func (Lamps) add(list *[]string, role string) {
	if role != "" && !slices.Contains(*list, role) {
		*list = append(*list, role)
	}
}
