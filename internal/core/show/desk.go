package show

import (
	"fmt"
	"slices"
	"time"
)

// Desk is how somebody has arranged the Desk. It is theirs, and no part of the show.
type Desk struct {
	// Controllers are those that are drawn, by id, in their order.
	Controllers []string `json:"controllers"`
	// Parts are those beside the controllers, from above, of DeskParts.
	Parts []string `json:"parts"`
	// Side is where the parts are: see DeskSides.
	Side string `json:"side"`
	// CountTo is the time of day that is counted down to, as HH:MM in the show's time zone; empty: none is.
	CountTo string `json:"countTo,omitempty"`
}

// DeskParts lists what can stand beside the controllers.
func DeskParts() []string { return []string{"clocks", "now", "presses", "markers"} }

// DeskSides lists where the parts can be.
func DeskSides() []string { return []string{"right", "left", "below"} }

// maxDesk is how many controllers a Desk has.
//
//limit:count controllers on a Desk | at the edit
const maxDesk = 24

// DeskOf gives an arrangement as it can be drawn: without controllers and parts that are gone. Nil is that of somebody who
// has arranged nothing: all controllers on which something is mapped, and all parts.
func (s *Show) DeskOf(d *Desk) Desk {
	if d == nil {
		return Desk{Controllers: s.usedControllers(), Parts: DeskParts(), Side: DeskSides()[0]}
	}
	out := *d
	out.Controllers = slices.DeleteFunc(append([]string{}, d.Controllers...), func(id string) bool { return s.Controller(id) == nil })
	out.Parts = slices.DeleteFunc(append([]string{}, d.Parts...), func(p string) bool { return !slices.Contains(DeskParts(), p) })
	if !slices.Contains(DeskSides(), out.Side) {
		out.Side = DeskSides()[0]
	}
	return out
}

// usedControllers are those for whose layout something is mapped, in their order; all where there are none.
func (s *Show) usedControllers() []string {
	layouts := map[string]bool{}
	for _, m := range s.Mappings() {
		for _, p := range m.Placements {
			if p.Standing != nil {
				layouts[p.Standing.Layout] = true
			} else if page := s.Page(p.Page); page != nil {
				layouts[page.Layout] = true
			}
		}
	}
	used, all := []string{}, []string{}
	for _, c := range s.Controllers() {
		all = append(all, c.ID)
		if layouts[c.Layout] {
			used = append(used, c.ID)
		}
	}
	if len(used) == 0 {
		used = all
	}
	return used[:min(len(used), maxDesk)]
}

// CheckDesk says what is wrong with an arrangement, one error a field.
func (s *Show) CheckDesk(d Desk) (errs []*FieldError) {
	add := func(field, text string) { errs = append(errs, &FieldError{field, text}) }
	if len(d.Controllers) > maxDesk {
		add("controllers", fmt.Sprintf("A Desk has at most %d controllers.", maxDesk))
	}
	for i, id := range d.Controllers {
		switch {
		case s.Controller(id) == nil:
			add("controllers", "One of these controllers is no longer in the show.")
		case slices.Contains(d.Controllers[:i], id):
			add("controllers", s.Controller(id).Name+" is there twice.")
		}
	}
	for i, p := range d.Parts {
		if !slices.Contains(DeskParts(), p) || slices.Contains(d.Parts[:i], p) {
			add("parts", fmt.Sprintf("%q is no part of the Desk, or it is there twice.", p))
		}
	}
	if !slices.Contains(DeskSides(), d.Side) {
		add("side", "The parts are at the right, at the left or below.")
	}
	if _, err := time.Parse("15:04", d.CountTo); d.CountTo != "" && err != nil {
		add("countTo", "A time of day is written as 22:30.")
	}
	return errs
}
