package edit

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
)

// Action is an action with its parameters, as it is put on a control.
type Action struct {
	Device string            `json:"device"`
	Action string            `json:"action"`
	Params map[string]string `json:"params"`
}

// bind checks an action and returns its title as things stand.
func (s *Service) bind(sh *show.Show, a Action) (title string, call show.Call, err error) {
	dev := sh.Device(a.Device)
	if dev == nil {
		return "", call, FieldErrors{{Field: "device", Text: "This device is not in the rig."}}
	}
	typ := s.sheets.Device(dev.Type)
	if typ == nil || typ.Action(a.Action) == nil {
		return "", call, FieldErrors{{Field: "action", Text: fmt.Sprintf("%s has no action %q.", dev.Name, a.Action)}}
	}
	b, err := typ.Bind(dev.ID, a.Action, a.Params, sh.Settings().FrameRate)
	var bad *device.ParamError
	if errors.As(err, &bad) {
		return "", call, FieldErrors{{Field: "params." + bad.Param, Text: bad.Text}}
	}
	if err != nil {
		return "", call, err
	}
	s.engine.View(func(v *engine.View) { title = b.Title.Text(v) })
	return title, show.Call{Device: dev.ID, DeviceName: dev.Name, Action: a.Action, Params: b.Params}, nil
}

// onPage fails unless a control exists on a page's layout.
func (s *Service) onPage(sh *show.Show, page, control string) (*show.Page, *device.ControllerSheet, error) {
	p := sh.Page(page)
	if p == nil {
		return nil, nil, notFound("page")
	}
	l := s.sheets.Controller(p.Layout)
	if l == nil || !slices.ContainsFunc(l.Controls(), func(c device.Control) bool { return c.ID == control }) {
		return nil, nil, notFound("control " + control)
	}
	return p, l, nil
}

// nextFree is the free control that comes after one, as the draft stands.
func nextFree(d *show.Draft, l *device.ControllerSheet, page, control string) string {
	return layout.NextFree(l.Controls(), control, func(c string) bool { return d.MappingAt(page, c) != nil })
}

// newMapping makes a mapping of an action for a press.
func newMapping(page, control string, call show.Call) *show.Mapping {
	return &show.Mapping{ID: newID(), Placements: []show.Placement{{Page: page, Control: control}},
		Responses: []show.Response{{Gesture: "press", Action: call}}}
}

// Put is what was put on a control, and which free control comes next.
type Put struct {
	ID   string `json:"id"`
	Next string `json:"next"` // empty: all are used
}

// PutAction puts an action on a control of a page, in place of what is there.
func (s *Service) PutAction(who Who, page, control string, a Action) (put Put, err error) {
	return put, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p, l, err := s.onPage(sh, page, control)
		if err != nil {
			return "", err
		}
		title, call, err := s.bind(sh, a)
		if err != nil {
			return "", err
		}
		d.ClearPlacement(page, control)
		m := newMapping(page, control, call)
		d.Put(m)
		put = Put{m.ID, nextFree(d, l, page, control)}
		return fmt.Sprintf("%s on %s of %s", title, control, p.Name), nil
	})
}

// MappingFields are what can be changed of a mapping in place.
type MappingFields struct {
	Name   string    `json:"name"`
	Face   show.Face `json:"face"`
	Action *Action   `json:"action,omitempty"` // nil keeps what it does
}

// EditMapping changes a mapping that was read at a revision, and returns the
// revision it has then.
func (s *Service) EditMapping(who Who, id string, rev int64, f MappingFields) (int64, error) {
	err := s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Mapping(id)
		if old == nil {
			return "", notFound("mapping")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		m := old.Clone()
		m.Name, m.Face = f.Name, f.Face
		name := "Change the face of " + m.Title()
		if f.Action != nil {
			title, call, err := s.bind(sh, *f.Action)
			if err != nil {
				return "", err
			}
			if len(m.Responses) == 0 {
				m.Responses = []show.Response{{Gesture: "press"}}
			}
			was := m.Responses[0].Action
			if was.Action != call.Action || was.Device != call.Device || !maps.Equal(was.Params, call.Params) {
				name = fmt.Sprintf("%s: %s", m.Title(), title)
			}
			m.Responses[0].Action = call
		}
		d.Put(m)
		return name, checkFace(m)
	})
	return s.Snapshot().Show.Rev(show.Ref{Kind: show.KindMapping, ID: id}), err
}

func checkFace(m *show.Mapping) error {
	errs := FieldErrors(show.CheckFace(m.Face))
	if len(m.Name) > 4*show.MaxName {
		errs = append(errs, &show.FieldError{Field: "name", Text: "A name has at most 60 characters."})
	}
	scope := expr.Scope{}
	if len(m.Responses) > 0 {
		scope = expr.Scope{Device: m.Responses[0].Action.Device, Bind: m.Responses[0].Action.Params}
	}
	if _, err := expr.CompileTemplate(m.Face.Label, scope); err != nil {
		errs = append(errs, &show.FieldError{Field: "label", Text: fmt.Sprintf("This label cannot be worked out: %v.", err)})
	}
	if m.Face.Background != "" && m.Face.Text != "" && len(errs) == 0 {
		if c := face.Contrast(m.Face.Background, m.Face.Text); c < 1.5 {
			errs = append(errs, &show.FieldError{Field: "text", Text: fmt.Sprintf("Nobody could read this: the contrast is %.1f, and 4.5 is wanted.", c)})
		}
	}
	if len(errs) > 0 {
		return errs
	}
	return nil
}

// Move moves the mapping of one control to another of the same page. What is
// there is replaced, or goes the other way when swap is set.
func (s *Service) Move(who Who, page, from, to string, swap bool) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p, _, err := s.onPage(sh, page, to)
		if err != nil {
			return "", err
		}
		m := sh.MappingAt(page, from)
		if m == nil {
			return "", notFound("mapping on " + from)
		}
		other := sh.MappingAt(page, to)
		name := fmt.Sprintf("Move %s to %s on %s", from, to, p.Name)
		if other == m || from == to {
			return name, nil
		}
		if other != nil && swap {
			name = fmt.Sprintf("Swap %s and %s on %s", from, to, p.Name)
			o := other.Clone()
			o.Placements[o.PlacementOn(page, to)].Control = from
			d.Put(o)
		} else if other != nil {
			d.ClearPlacement(page, to)
		}
		c := m.Clone()
		c.Placements[c.PlacementOn(page, from)].Control = to
		d.Put(c)
		return name, nil
	})
}

// Clear takes the mappings off controls of a page.
func (s *Service) Clear(who Who, page string, controls []string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(page)
		if p == nil {
			return "", notFound("page")
		}
		n := 0
		for _, c := range controls {
			if d.ClearPlacement(page, c) {
				n++
			}
		}
		if n == 0 {
			return "", notFound("mapping")
		}
		if n == 1 {
			return fmt.Sprintf("Clear %s on %s", controls[0], p.Name), nil
		}
		return fmt.Sprintf("Clear %d keys on %s", n, p.Name), nil
	})
}

// Kit says which kit goes where.
type Kit struct {
	Device  string            `json:"device"`
	Kit     string            `json:"kit"`
	Params  map[string]string `json:"params"`
	At      string            `json:"at"`
	Replace bool              `json:"replace"`
}

// KitPlan says where the keys of a kit land.
type KitPlan struct {
	layout.Plan
	Titles []string `json:"titles"` // of the keys, in the order of the cells
	Title  string   `json:"title"`
	Next   string   `json:"next"` // once it is put: the free control that comes next
}

// PlanKit works out where the keys of a kit would land.
func (s *Service) PlanKit(page string, k Kit) (KitPlan, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	plan, _, err := s.planKit(s.show, page, k)
	return plan, err
}

func (s *Service) planKit(sh *show.Show, page string, k Kit) (plan KitPlan, calls []show.Call, err error) {
	_, l, err := s.onPage(sh, page, k.At)
	if err != nil {
		return plan, nil, err
	}
	dev := sh.Device(k.Device)
	if dev == nil {
		return plan, nil, FieldErrors{{Field: "device", Text: "This device is not in the rig."}}
	}
	typ := s.sheets.Device(dev.Type)
	if typ == nil || typ.Kit(k.Kit) == nil {
		return plan, nil, FieldErrors{{Field: "kit", Text: fmt.Sprintf("%s has no kit %q.", dev.Name, k.Kit)}}
	}
	spec := typ.Kit(k.Kit)
	var items []map[string]string
	s.engine.View(func(v *engine.View) {
		items = typ.KitItems(spec, k.Params[spec.Each], dev.ID, v)
		if t, err := expr.CompileTemplate(spec.Title, expr.Scope{Device: dev.ID, Bind: k.Params}); err == nil {
			plan.Title = t.Text(v)
		}
	})
	if len(items) == 0 {
		return plan, nil, FieldErrors{{Field: "device", Text: dev.Name + " has not said yet what it has. Connect it once, then put the kit."}}
	}
	plan.Plan, err = layout.Row(l.Grid, k.At, len(items), func(c string) bool { return sh.MappingAt(page, c) != nil }, k.Replace)
	if err != nil {
		return plan, nil, err
	}
	for i := range plan.Cells {
		title, call, err := s.bind(sh, Action{Device: dev.ID, Action: spec.Action, Params: items[i]})
		if err != nil {
			return plan, nil, err
		}
		plan.Titles = append(plan.Titles, title)
		calls = append(calls, call)
	}
	return plan, calls, nil
}

// PutKit puts a kit on a page, as one edit, and says where it landed.
func (s *Service) PutKit(who Who, page string, k Kit) (plan KitPlan, err error) {
	return plan, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		var calls []show.Call
		if plan, calls, err = s.planKit(sh, page, k); err != nil {
			return "", err
		}
		if len(calls) == 0 {
			return "", FieldErrors{{Field: "at", Text: "There is no free key from here on. Clear some, or drop the kit elsewhere."}}
		}
		for i, call := range calls {
			d.ClearPlacement(page, plan.Cells[i])
			d.Put(newMapping(page, plan.Cells[i], call))
		}
		_, l, err := s.onPage(sh, page, k.At)
		if err != nil {
			return "", err
		}
		plan.Next = nextFree(d, l, page, plan.Cells[len(plan.Cells)-1])
		return fmt.Sprintf("%s on %s", plan.Title, sh.Page(page).Name), nil
	})
}
