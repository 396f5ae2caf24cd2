package show

import (
	"cmp"
	"slices"
	"strings"

	"synaptor/internal/core/reflex"
)

// Timer is a named timer of Synaptor: up, down, or to a time of day. Where it stands is live, and no part of the show.
type Timer struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Position int    `json:"position"`
	Kind     string `json:"kind"`              // see reflex.TimerKinds
	Seconds  int    `json:"seconds,omitempty"` // that it counts down from
	At       string `json:"at,omitempty"`      // the time of day that it counts to, in the show's time zone
	// Coarse has it shown in minutes, until its last one.
	Coarse bool `json:"coarse,omitempty"`
}

// maxTimerSeconds is how long a timer can be.
//
//limit:count seconds of a timer: four days | at the edit
const maxTimerSeconds = 4 * 24 * 3600

// Ref implements Entity.
func (e *Timer) Ref() Ref { return Ref{KindTimer, e.ID} }

// Title implements Entity.
func (e *Timer) Title() string { return e.Name }

// Timer returns a timer by id, or nil.
func (s *Show) Timer(id string) *Timer {
	t, _ := s.entities[KindTimer][id].(*Timer)
	return t
}

// Timers returns all timers in order.
func (s *Show) Timers() []*Timer {
	return sorted(s, KindTimer, func(a, b *Timer) int { return cmp.Or(a.Position-b.Position, strings.Compare(a.ID, b.ID)) })
}

// CheckTimer says what is wrong with a timer, one error a field.
func (s *Show) CheckTimer(t *Timer) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	if text := CheckName(t.Name); text != "" {
		add("name", text)
	}
	for _, o := range s.Timers() {
		if o.ID != t.ID && strings.EqualFold(o.Name, t.Name) {
			add("name", "There is a timer of this name.")
		}
	}
	switch {
	case !slices.Contains(reflex.TimerKinds, t.Kind):
		add("kind", "A timer counts up, down, or to a time of day.")
	case t.Kind == reflex.Down && (t.Seconds < 1 || t.Seconds > maxTimerSeconds):
		add("seconds", "A timer counts down from a second to four days.")
	case t.Kind == reflex.To:
		if _, why := (reflex.Schedule{At: t.At}).Check(); why != "" {
			add("at", why)
		}
	}
	return errs
}
