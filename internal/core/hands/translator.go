package hands

import (
	"math"
	"slices"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
)

// Move is what is done to a control.
type Move struct {
	Control string
	Edge    input.Edge
	Amount  float64
}

const (
	// An axis that is a key is down above the one, and up again below the other.
	downAbove, upBelow = 0.6, 0.4
	// finest is the least move of a slider that counts; turnedBack the least one against its last direction: hands and potentiometers tremble.
	finest, turnedBack = 0.004, 0.012
	// detentsOfRange is how many detents a dial with ends has from one to the other.
	detentsOfRange = 24
	// fullScale is the highest value of a controller that is said in two halves.
	fullScale = 1<<14 - 1
)

// Translator makes events into moves, by the bindings of a link. It is not safe for concurrent use.
type Translator struct {
	bound   map[string]*bound // by source
	keys    map[string]*bound // that are down, by the key without its modifiers
	held    map[string]int    // by control: how many sources hold it
	ignored Mods              // modifiers that are controls themselves
	touched map[string]string // source that says that a hand is on something, to that
}

// bound is a binding with where its source stands.
type bound struct {
	show.Binding
	down   bool
	seen   bool    // its first place is known
	stuck  bool    // it was down when it was first seen, and does nothing until it was up
	share  float64 // where it stood last
	toward float64 // in which direction it went last
	rest   float64 // part of a detent
	upper  float64
	halves bool // the lower half was seen
	hand   bool // a hand is on it
	sent   float64
	told   bool // its level was sent
}

// NewTranslator makes a translator. Of two bindings of one source the last counts.
func NewTranslator(bindings []show.Binding) *Translator {
	t := &Translator{bound: map[string]*bound{}, keys: map[string]*bound{}, held: map[string]int{}, touched: map[string]string{}}
	for _, b := range bindings {
		t.bound[b.Source] = &bound{Binding: b}
		t.ignored |= modifiers[b.Source]
		if b.Touched != "" {
			t.touched[b.Touched] = b.Source
		}
		if b.Encoding == show.Pair {
			if low := lowerHalf(b.Source); low != "" {
				t.bound[low] = t.bound[b.Source]
			}
		}
	}
	return t
}

// Keep takes over what of another translator is still so: what is down, and where things stand. It gives the controls that are not held any more.
func (t *Translator) Keep(old *Translator) (released []Move) {
	for source, was := range old.bound {
		if now := t.bound[source]; now != nil && now.As == was.As && now.Control == was.Control {
			b := now.Binding
			*now = *was
			now.Binding = b
		}
	}
	for key, was := range old.keys {
		if now := t.bound[was.Source]; now != nil && now.down {
			t.keys[key] = now
		}
	}
	seen := map[*bound]bool{}
	for _, b := range t.bound {
		if b.down && b.Control != "" && !seen[b] {
			seen[b] = true
			t.held[b.Control]++
		}
	}
	for control := range old.held {
		if t.held[control] == 0 {
			released = append(released, Move{Control: control, Edge: input.Up})
		}
	}
	return released
}

// Take makes the moves of an event. known says that a binding has it, also where nothing comes of it.
func (t *Translator) Take(e Event) (moves []Move, known bool) {
	if on := t.touched[e.Source]; on != "" && (e.Sort == On || e.Sort == Off) {
		if b := t.bound[on]; b != nil {
			b.hand = e.Sort == On
		}
		return nil, true
	}
	if e.Sort == On || e.Sort == Off {
		return t.key(e)
	}
	b := t.bound[e.Source]
	if b == nil {
		return nil, false
	}
	if !finite(e.Value) {
		return nil, true
	}
	switch b.As {
	case show.AsKey:
		return t.axisAsKey(b, e), true
	case show.AsDial:
		return b.turn(e), true
	}
	return b.slide(e), true
}

// key takes a key that goes down or up.
func (t *Translator) key(e Event) ([]Move, bool) {
	if b := t.bound[e.Source]; b != nil {
		b.stuck = false // it was let go by now
	}
	if e.Sort == Off {
		b := t.keys[e.Source]
		if b == nil {
			_, known := t.bound[e.Source]
			return nil, known
		}
		delete(t.keys, e.Source)
		return t.release(b), true
	}
	b := t.bound[Combination(e.Mods&^t.ignored, e.Source)]
	if b == nil {
		return nil, false
	}
	if b.down || b.As != show.AsKey || t.keys[e.Source] != nil {
		return nil, true
	}
	t.keys[e.Source] = b
	return t.press(b), true
}

// press has a source hold its control; only the first one presses it.
func (t *Translator) press(b *bound) []Move {
	b.down = true
	if b.Control == "" {
		return nil
	}
	if t.held[b.Control]++; t.held[b.Control] > 1 {
		return nil
	}
	return []Move{{Control: b.Control, Edge: input.Down}}
}

// release lets go; only the last source that holds a control does.
func (t *Translator) release(b *bound) []Move {
	b.down = false
	if b.Control == "" || t.held[b.Control] == 0 {
		return nil
	}
	if t.held[b.Control]--; t.held[b.Control] > 0 {
		return nil
	}
	delete(t.held, b.Control)
	return []Move{{Control: b.Control, Edge: input.Up}}
}

// axisAsKey makes a key of an axis, such as that of a pedal, or presses it once at each step of a wheel.
func (t *Translator) axisAsKey(b *bound, e Event) []Move {
	if e.Sort == By {
		if e.Value == 0 || b.down {
			return nil
		}
		return append(t.press(b), t.release(b)...)
	}
	at := b.place(e)
	switch {
	case b.stuck:
		b.stuck = at >= upBelow
	case !b.down && at > downAbove:
		return t.press(b)
	case b.down && at < upBelow:
		return t.release(b)
	}
	return nil
}

// Stuck lists what was down when it was first seen, and does nothing until it was let go.
func (t *Translator) Stuck() (sources []string) {
	for source, b := range t.bound {
		if b.stuck {
			sources = append(sources, source)
		}
	}
	slices.Sort(sources)
	return sources
}

// Stand takes where something stands before anybody touches it: nothing is done. down: it is a key, and is pressed.
func (t *Translator) Stand(e Event, down bool) {
	b := t.bound[e.Source]
	if b == nil {
		return
	}
	b.seen = true
	if e.Sort == On {
		b.stuck = down
		return
	}
	b.share = b.place(e)
	b.stuck = b.As == show.AsKey && b.share > downAbove
}

// turn makes detents of what a dial says.
func (b *bound) turn(e Event) []Move {
	by := e.Value
	if e.Sort == At {
		switch v := int(e.Value); b.Encoding {
		case show.Twos:
			if by = float64(v); v > 63 {
				by = float64(v - 128)
			}
		case show.Offset:
			by = float64(v - 64)
		case show.Sign:
			if by = float64(v); v > 63 {
				by = float64(64 - v)
			}
		default:
			at := b.place(e)
			if !b.seen {
				b.seen, b.share = true, at
				return nil
			}
			b.rest += (at - b.share) * detentsOfRange
			by = math.Trunc(b.rest + math.Copysign(1e-9, b.rest))
			b.share, b.rest = at, b.rest-by
		}
	}
	if by == 0 || b.Control == "" {
		return nil
	}
	return []Move{{Control: b.Control, Edge: input.Turns, Amount: by}}
}

// slide makes a place of what a slider says.
func (b *bound) slide(e Event) []Move {
	if e.Sort != At {
		return nil
	}
	if b.Encoding == show.Pair {
		if e.Source == b.Source {
			b.upper = e.Value
			if b.halves {
				return nil // the lower half comes
			}
			e.Value *= 128
		} else {
			b.halves = true
			e.Value += b.upper * 128
		}
		e.Low, e.High = 0, fullScale
	}
	at := b.place(e)
	if b.told && math.Abs(at-b.sent) < finest {
		return nil // it has done what it was told
	}
	moved := at - b.share
	switch end := at == 0 || at == 1; {
	case !b.seen:
	case moved == 0, !end && math.Abs(moved) < finest, !end && moved*b.toward < 0 && math.Abs(moved) < turnedBack:
		return nil
	}
	b.toward, b.share, b.seen, b.told = math.Copysign(1, moved), at, true, false
	if b.Control == "" {
		return nil
	}
	return []Move{{Control: b.Control, Edge: input.Moves, Amount: at}}
}

// place is where something stands between its ends, from 0 to 1.
func (b *bound) place(e Event) float64 {
	low, high := e.Low, e.High
	if b.Low != 0 || b.High != 0 {
		low, high = b.Low, b.High
	}
	if low == high {
		low, high = 0, 127
	}
	at := (e.Value - low) / (high - low)
	return min(1, max(0, (at-b.Dead)/(1-2*b.Dead)))
}

// Follows tells whether a level can be sent to the fader of a source now, and notes that it is: a hand on it has it alone.
func (t *Translator) Follows(source string, share float64) bool {
	b := t.bound[source]
	if b == nil || b.hand || b.down {
		return false
	}
	b.told, b.sent, b.share, b.seen = true, share, share, true
	return true
}

// Hand tells whether a hand is on the fader of a source.
func (t *Translator) Hand(source string) bool {
	b := t.bound[source]
	return b != nil && b.hand
}
