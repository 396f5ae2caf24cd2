// Package attach brings inputs to the engine: from panels over the live
// socket, from other programs by HTTP and by OSC.
package attach

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// Programs gives the compiled show in force.
type Programs interface{ Program() *program.Program }

// NoSuch says which part of an input's address does not exist.
type NoSuch struct {
	Field string // controller, control, gesture or page
	Text  string
}

// Error implements error.
func (e *NoSuch) Error() string { return e.Text }

// Address names a control from outside: slugs and ids as they stand in an
// address. Gesture is a gesture, or down or up, which a control makes its gestures of. Page is a page's
// id or slug; empty means the page in force.
type Address struct {
	Controller, Control, Gesture, Page string
}

// OfMapping is the address of a mapping, wherever it is placed: on the first of its places that a controller has. It fails with a *NoSuch
// where the mapping is on none.
func OfMapping(id, gesture string, s *program.Program) (Address, error) {
	m := s.Show.Mapping(id)
	if m == nil {
		return Address{}, &NoSuch{"mapping", fmt.Sprintf("There is no mapping %q in this show.", id)}
	}
	for _, at := range m.Placements {
		page := s.Show.Page(at.Page)
		if st := at.Standing; st != nil {
			if pages := s.Show.PagesFor(st.Profile, st.Layout, st.Zone); len(pages) > 0 {
				page = pages[0]
			}
		}
		for _, c := range s.Show.Controllers() {
			if page != nil && c.Layout == page.Layout {
				return Address{Controller: c.Slug, Control: at.Control, Gesture: gesture, Page: page.ID}, nil
			}
		}
	}
	return Address{}, &NoSuch{"mapping", "This mapping is on no page of a controller."}
}

// Resolve turns an address into an input without its time and origin. It fails
// with a *NoSuch when the control does not exist or cannot make the gesture.
func (a Address) Resolve(s *program.Program) (engine.Input, error) {
	c := s.BySlug[a.Controller]
	if c == nil {
		return engine.Input{}, &NoSuch{"controller", fmt.Sprintf("There is no controller %q in this show.", a.Controller)}
	}
	ctl, ok := c.Controls[a.Control]
	if !ok {
		return engine.Input{}, &NoSuch{"control", fmt.Sprintf("%s has no control %q.", c.Name, a.Control)}
	}
	in := engine.Input{Controller: c.ID, Control: a.Control, Gesture: a.Gesture}
	switch edge := input.Edge(a.Gesture); {
	case a.Gesture == "" || slices.Contains(ctl.Gestures, a.Gesture):
	case (edge == input.Down || edge == input.Up) && slices.Contains(ctl.Gestures, input.Press):
		in.Gesture, in.Edge, in.Lease = "", edge, edge == input.Down
	default:
		return engine.Input{}, &NoSuch{"gesture", fmt.Sprintf("%s of %s cannot make the gesture %q; it can: %v.", a.Control, c.Name, a.Gesture, ctl.Gestures)}
	}
	if a.Page != "" {
		for _, p := range s.Show.Pages() {
			if (p.ID == a.Page || p.Slug == a.Page && p.Profile == c.Profile) && c.Layout != nil && p.Layout == c.Layout.Type && p.Zone == ctl.Zone {
				in.Page = p.ID
			}
		}
		if in.Page == "" {
			return engine.Input{}, &NoSuch{"page", fmt.Sprintf("%s has no page %q.", c.Name, a.Page)}
		}
	}
	return in, nil
}

// TakesAmount tells whether a gesture comes with a number.
func TakesAmount(gesture string) bool {
	switch gesture {
	case input.Turn, input.PushTurn, input.Slide:
		return true
	}
	return false
}

// MaxAmount is the most that one input turns or slides by, in either direction.
//
//limit:count detents of one turn | in the answer
const MaxAmount = 1000

// GoodAmount tells whether a number can be the amount of a turn, a slide or a swipe.
func GoodAmount(n float64) bool { return !math.IsNaN(n) && math.Abs(n) <= MaxAmount }

// maxTyped is how many characters can be typed at a press.
//
//limit:count characters that are typed at a press | in the answer
const maxTyped = 2000

// ValueError says why an input does not take a value.
type ValueError struct{ Text string }

// Error implements error.
func (e *ValueError) Error() string { return e.Text }

// Valued gives an input the value that came with it: the number of a turn, a push-turn or a slide, or the text that was typed at a press; nil is none.
// It fails with a *ValueError.
func Valued(in engine.Input, value any) (engine.Input, error) {
	switch v := value.(type) {
	case nil:
		return in, nil
	case int:
		return Valued(in, float64(v))
	case float64:
		if TakesAmount(in.Gesture) && GoodAmount(v) {
			in.Amount = v
			return in, nil
		}
	case string:
		if in.Gesture == input.Press {
			if utf8.RuneCountInString(v) > maxTyped {
				return in, &ValueError{fmt.Sprintf("A text that is typed has at most %d characters.", maxTyped)}
			}
			in.Fields = map[string]any{expr.TypedField: v}
			return in, nil
		}
	}
	return in, &ValueError{fmt.Sprintf("A turn and a slide take a number up to %d, and a press a text.", MaxAmount)}
}

// Stamp gives an input its entry and origin.
func Stamp(in engine.Input, at time.Time, via, link, actor string) engine.Input {
	in.Entry, in.At, in.Via, in.Link, in.Actor = journal.NextID(), at, via, link, actor
	return in
}

// NotGiven says that a controller may not be pressed by somebody.
type NotGiven struct{ Controller string }

// Error implements error.
func (e *NotGiven) Error() string {
	return e.Controller + " is not given to you."
}

// errNoSignals says that somebody presses what is given to them, and nothing else.
var errNoSignals = errors.New("signals are not given to who sends this")

// TooMany says that a program sends more inputs a second than it may.
type TooMany struct{ Program string }

// Error implements error.
func (e *TooMany) Error() string { return e.Program + " sends more inputs a second than it may." }

// By has an input be somebody's. It fails with a *NotGiven where they may not press its controller, and with a *TooMany where they press too
// often; what ends a touch is always let through.
func By(in engine.Input, from Sender, p *program.Program) (engine.Input, error) {
	if in.Signal != "" && from.Rights != nil && from.Rights.Controllers != nil {
		return in, errNoSignals
	}
	if in.Signal == "" && !from.Rights.MayPress(in.Controller) {
		return in, &NotGiven{p.Controllers[in.Controller].Name}
	}
	if ends := in.Edge == input.Up || in.Edge == input.Cancel; !ends && from.Spend != nil && !from.Spend() {
		return in, &TooMany{from.String()}
	}
	in.By, in.Unguarded = from.ID, from.SkipsGuards
	if from.Touch != nil && in.Signal == "" {
		from.Touch(in.Controller, in.Control, time.Now())
	}
	return in, nil
}
