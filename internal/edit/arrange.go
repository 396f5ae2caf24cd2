package edit

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
)

// Move says which mappings go where.
type Move struct {
	From string `json:"from"`
	// Controls are further ones that go along; they keep their places beside it.
	Controls []string `json:"controls,omitempty"`
	To       string   `json:"to"`
	// Page is where they go to; empty: they stay on their page.
	Page string `json:"page,omitempty"`
	Swap bool   `json:"swap"` // what is there goes the other way
	Copy bool   `json:"copy,omitempty"`
	// Linked puts the same mapping there too, instead of a copy of it: an edit of
	// one is an edit of both.
	Linked bool `json:"linked,omitempty"`
	// Plan only says what would happen.
	Plan bool `json:"plan,omitempty"`
}

// Moved says what a move or a copy left behind.
type Moved struct {
	// Left are the gestures that the new controls cannot make.
	Left []string `json:"left"`
	// Off are the controls for which there was no place.
	Off []string `json:"off"`
	// To are the controls that the mappings are on now.
	To []string `json:"to"`
}

// moving is a mapping on its way.
type moving struct {
	layout.Step
	m *show.Mapping
}

// Move moves or copies the mappings of controls of a page to others, maybe of
// another page and controller. What is there is replaced, or goes the other way
// where swap is set. Gestures that a new control cannot make are left out. It is
// refused where nothing of the first mapping would be left.
func (s *Service) Move(who Who, page string, mv Move) (out Moved, err error) {
	if mv.Page == "" {
		mv.Page = page
	}
	out = Moved{Left: []string{}, Off: []string{}, To: []string{}}
	do := s.do
	if mv.Plan {
		do = s.try
	}
	err = do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := &move{Move: mv, service: s, page: page, draft: d, show: sh, out: &out}
		name, err := m.plan()
		if err != nil || page == mv.Page && mv.From == mv.To {
			return name, err
		}
		return name, m.carryOut()
	})
	return out, err
}

// move is a Move while it is worked out.
type move struct {
	Move
	service        *Service
	page           string
	draft          *show.Draft
	show           *show.Show
	out            *Moved
	source, target *device.ControllerSheet // their layouts
	list, back     []moving                // what goes there, and what comes back for it
}

// takes tells whether the mappings leave where they are.
func (m *move) takes() bool { return !m.Copy && !m.Linked }

// plan finds out what goes where, and names the edit.
func (m *move) plan() (name string, err error) {
	from, source, err := m.service.onPage(m.show, m.page, m.From)
	if err != nil {
		return "", err
	}
	target, l, err := m.service.onPage(m.show, m.Page, m.To)
	if err != nil {
		return "", err
	}
	m.source, m.target = source, l
	steps, off := layout.Shift(source.Controls(), m.Controls, m.From, l.Controls(), m.To, source == l)
	m.out.Off = append(m.out.Off, off...)
	for _, step := range steps {
		if o := m.show.MappingAt(m.page, step.From); o != nil {
			m.list = append(m.list, moving{step, o})
		}
		if err := errors.Join(standing(m.show, from, step.From), standing(m.show, target, step.To)); err != nil {
			return "", err
		}
	}
	if len(m.list) == 0 {
		return "", notFound("mapping on " + m.From)
	}
	verb := "Copy "
	if m.takes() {
		verb = "Move "
	}
	name = verb + what(m.list, target, m.Page != m.page)
	if !m.Swap || !m.takes() {
		return name, nil
	}
	used := func(c string) bool { return m.show.MappingAt(m.Page, c) != nil }
	for _, step := range layout.Displaced(steps, used) {
		m.back = append(m.back, moving{step, m.show.MappingAt(m.Page, step.From)})
	}
	if len(m.list) == 1 && len(m.back) == 1 {
		name = strings.Replace(strings.Replace(name, "Move", "Swap", 1), " to ", " and ", 1)
	}
	return name, nil
}

// carryOut changes the draft.
func (m *move) carryOut() error {
	if m.takes() {
		for _, o := range m.list {
			unplace(m.draft, o.m, m.page, o.From)
		}
	}
	for _, o := range m.back {
		unplace(m.draft, o.m, m.Page, o.From)
	}
	for _, o := range m.list {
		if err := m.put(o); err != nil {
			return err
		}
	}
	for _, o := range m.back {
		if _, err := m.service.place(m.draft, o, m.page, m.source, Move{}); err != nil {
			return err
		}
	}
	if len(m.out.To) == 0 {
		return FieldErrors{{Field: "to", Text: "None of these can be there: the controls cannot make their gestures."}}
	}
	return nil
}

// put puts one mapping where it goes; of several, one that cannot be there stays.
func (m *move) put(o moving) error {
	left, err := m.service.place(m.draft, o, m.Page, m.target, m.Move)
	if err != nil && len(m.list) > 1 {
		m.out.Off = append(m.out.Off, o.From)
		if m.takes() {
			put(m.draft, o.m, show.Placement{Page: m.page, Control: o.From})
		}
		return nil
	}
	if err != nil {
		return err
	}
	m.out.To = append(m.out.To, o.To)
	for _, g := range left {
		if !slices.Contains(m.out.Left, g) {
			m.out.Left = append(m.out.Left, g)
		}
	}
	return nil
}

// what says in words which mappings go where.
func what(list []moving, target *show.Page, otherPage bool) string {
	where := " on " + target.Name
	if otherPage {
		where = " of " + target.Name
	}
	if len(list) == 1 {
		return list[0].From + " to " + list[0].To + where
	}
	return fmt.Sprintf("%d keys to %s%s", len(list), list[0].To, where)
}

// current is a mapping as the draft stands, to be changed.
func current(d *show.Draft, m *show.Mapping) *show.Mapping {
	if now := d.Mapping(m.ID); now != nil {
		return now.Clone()
	}
	c := m.Clone()
	c.Placements = nil
	return c
}

// unplace takes a mapping off a control without forgetting it: it is about to land
// elsewhere. Its other placements stay.
func unplace(d *show.Draft, m *show.Mapping, page, control string) {
	c := current(d, m)
	if i := c.PlacementOn(page, control); i >= 0 {
		c.Placements = slices.Delete(c.Placements, i, i+1)
	}
	d.Put(c)
}

// put adds a placement to a mapping as the draft stands, in place of what is
// there.
func put(d *show.Draft, m *show.Mapping, at show.Placement) {
	d.ClearPlacement(at.Page, at.Control)
	c := current(d, m)
	c.Placements = append(c.Placements, at)
	d.Put(c)
}

// place puts a mapping on a control, without the gestures it cannot make there.
func (s *Service) place(d *show.Draft, o moving, page string, l *device.ControllerSheet, mv Move) (left []string, err error) {
	c, left, err := fitted(o.m.Clone(), l, o.To)
	if err != nil {
		return nil, err
	}
	at := show.Placement{Page: page, Control: o.To}
	switch {
	case mv.Copy && !mv.Linked:
		clearPlanned(d, page, o.To)
		d.ClearPlacement(page, o.To)
		c.ID, c.Placements = newID(), []show.Placement{at}
		d.Put(c)
	case len(left) > 0 && mv.Linked:
		return nil, FieldErrors{{Field: "to", Text: fmt.Sprintf("%s cannot make the gesture %s, so it cannot be the same mapping. Copy it instead.", o.To, strings.Join(left, ", "))}}
	default:
		clearPlanned(d, page, o.To)
		if len(left) > 0 {
			now := current(d, o.m)
			now.Responses = c.Responses
			d.Put(now)
		}
		put(d, o.m, at)
	}
	return left, nil
}

// fitted leaves out the responses whose gestures a control cannot make, and names
// them; it fails where nothing would be left.
func fitted(m *show.Mapping, l *device.ControllerSheet, control string) (*show.Mapping, []string, error) {
	c, ok := l.Control(control)
	if !ok {
		return nil, nil, notFound("control " + control)
	}
	left := c.Unable(m.Gestures())
	m.Responses = slices.DeleteFunc(m.Responses, func(r show.Response) bool { return slices.Contains(left, r.Gesture) })
	if len(m.Responses) == 0 {
		return nil, nil, FieldErrors{{Field: "to", Text: fmt.Sprintf("%s cannot make the gesture %s.", control, strings.Join(left, ", "))}}
	}
	return m, left, nil
}
