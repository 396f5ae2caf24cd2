package edit

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
)

// Action is an action with its parameters, as it is put on a control.
type Action struct {
	Device string            `json:"device"`
	Action string            `json:"action"`
	Params map[string]string `json:"params"`
	// Gesture is what starts it; empty: what suits the control.
	Gesture string `json:"gesture,omitempty"`
}

// usual is the gesture that a kind of control makes first of all.
func usual(c device.Control) string {
	switch c.Kind {
	case "dial":
		return input.Turn
	case "slider":
		return input.Slide
	case "ribbon":
		return input.SwipeRight
	}
	return input.Press
}

// bind checks an action and returns its title as things stand.
func (s *Service) bind(sh *show.Show, a Action) (title string, call show.Call, err error) {
	dev := s.device(sh, a.Device)
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

// device finds a device of the rig, or the built-in one.
func (s *Service) device(sh *show.Show, id string) *show.Device {
	if d := sh.Device(id); d != nil {
		return d
	}
	if d := s.Snapshot().Devices[id]; d != nil && id == engine.SelfID {
		return d.Device
	}
	return nil
}

// onPage fails unless a control exists on a page's layout.
func (s *Service) onPage(sh *show.Show, page, control string) (*show.Page, *device.ControllerSheet, error) {
	p := sh.Page(page)
	if p == nil {
		return nil, nil, notFound("page")
	}
	l := s.sheets.Controller(p.Layout)
	if l == nil {
		return nil, nil, notFound("layout " + p.Layout)
	}
	if c, ok := l.Control(control); !ok || c.Zone != p.Zone {
		return nil, nil, notFound("control " + control)
	}
	return p, l, nil
}

// standing refuses an edit of a control that has a mapping which stands on every
// page.
func standing(sh *show.Show, p *show.Page, controls ...string) error {
	for _, c := range controls {
		if sh.Stands(p, c) {
			return FieldErrors{{Field: "control", Text: c + " has a key that stands on every page. Keep it on one page only first."}}
		}
	}
	return nil
}

// nextFree is the free control that comes after one, as the draft stands.
func nextFree(d *show.Draft, sh *show.Show, l *device.ControllerSheet, page, control string) string {
	p := sh.Page(page)
	return layout.NextFree(l.Controls(), control, func(c string) bool { return d.MappingAt(page, c) != nil || sh.Stands(p, c) })
}

// newMapping makes a mapping of an action for a gesture.
func newMapping(page, control, gesture string, call show.Call) *show.Mapping {
	return &show.Mapping{ID: newID(), Placements: []show.Placement{{Page: page, Control: control}},
		Responses: []show.Response{{Gesture: gesture, Action: call}}}
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
		if err := standing(sh, p, control); err != nil {
			return "", err
		}
		title, call, err := s.bind(sh, a)
		if err != nil {
			return "", err
		}
		c, _ := l.Control(control)
		gesture := a.Gesture
		if gesture == "" {
			gesture = usual(c)
		}
		if !slices.Contains(c.Gestures, gesture) {
			return "", FieldErrors{{Field: "gesture", Text: fmt.Sprintf("%s cannot make the gesture %s.", control, gesture)}}
		}
		m := newMapping(page, control, gesture, call)
		if there := sh.MappingAt(page, control); there != nil && a.Gesture != "" {
			// One more gesture of a mapping that is there.
			m = there.Clone()
			if r := m.Response(gesture); r != nil {
				r.Action, r.Dial = call, nil
			} else {
				m.Responses = append(m.Responses, show.Response{Gesture: gesture, Action: call})
			}
			title += " on " + gesture
		} else {
			d.ClearPlacement(page, control)
		}
		d.Put(m)
		put = Put{m.ID, nextFree(d, sh, l, page, control)}
		return fmt.Sprintf("%s on %s of %s", title, control, p.Name), checkMapping(m)
	})
}

// MappingFields are what can be changed of a mapping in place.
type MappingFields struct {
	Name   string    `json:"name"`
	Face   show.Face `json:"face"`
	Action *Action   `json:"action,omitempty"` // nil keeps what it does
	// Guard, HoldMs and DoubleMs replace what is set; Guard without a kind takes
	// it away. Missing ones stay as they are.
	Guard    *show.Guard `json:"guard,omitempty"`
	HoldMs   *int        `json:"holdMs,omitempty"`
	DoubleMs *int        `json:"doubleMs,omitempty"`
	// Dial is how the turn or the slide of the action's gesture changes it.
	Dial *show.Dial `json:"dial,omitempty"`
	// Drop takes the response to a gesture away.
	Drop string `json:"drop,omitempty"`
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
			r := &m.Responses[0]
			if f.Action.Gesture != "" {
				if r = m.Response(f.Action.Gesture); r == nil {
					return "", FieldErrors{{Field: "gesture", Text: "Nothing is mapped to this gesture."}}
				}
			}
			if f.Dial != nil {
				r.Dial = f.Dial
			}
			was := r.Action
			if was.Action != call.Action || was.Device != call.Device || !maps.Equal(was.Params, call.Params) {
				name = fmt.Sprintf("%s: %s", m.Title(), title)
			}
			r.Action = call
		}
		if f.settings(m) {
			name = "Change the gestures of " + m.Title()
		}
		d.Put(m)
		if err := checkFace(m); err != nil {
			return "", err
		}
		return name, checkMapping(m)
	})
	return s.Snapshot().Show.Rev(show.Ref{Kind: show.KindMapping, ID: id}), err
}

// settings takes over guard, times and dropped gestures; it reports whether it
// changed any.
func (f MappingFields) settings(m *show.Mapping) (changed bool) {
	if f.Guard != nil {
		changed = true
		if m.Guard = f.Guard; f.Guard.Kind == "" {
			m.Guard = nil
		}
	}
	if f.HoldMs != nil {
		changed = changed || m.HoldMs != *f.HoldMs
		m.HoldMs = *f.HoldMs
	}
	if f.DoubleMs != nil {
		changed = changed || m.DoubleMs != *f.DoubleMs
		m.DoubleMs = *f.DoubleMs
	}
	if f.Drop != "" {
		n := len(m.Responses)
		m.Responses = slices.DeleteFunc(m.Responses, func(r show.Response) bool { return r.Gesture == f.Drop })
		changed = changed || len(m.Responses) != n
	}
	return changed
}

// checkMapping says what is wrong with the gestures of a mapping.
func checkMapping(m *show.Mapping) error {
	if errs := FieldErrors(input.Check(m)); len(errs) > 0 {
		return errs
	}
	return nil
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

// Move says which mapping goes where.
type Move struct {
	From string `json:"from"`
	To   string `json:"to"`
	// Page is where it goes to; empty: it stays on its page.
	Page string `json:"page,omitempty"`
	Swap bool   `json:"swap"` // what is there goes the other way
	Copy bool   `json:"copy,omitempty"`
}

// Move moves or copies the mapping of a control of a page to another control,
// maybe of another page and controller. What is there is replaced, or goes the
// other way where swap is set. Gestures that the new control cannot make are left
// out; their names are returned. It is refused where none would be left.
func (s *Service) Move(who Who, page string, mv Move) (left []string, err error) {
	if mv.Page == "" {
		mv.Page = page
	}
	err = s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p, l, err := s.onPage(sh, mv.Page, mv.To)
		if err != nil {
			return "", err
		}
		from, m := sh.Page(page), sh.MappingAt(page, mv.From)
		if from != nil {
			if err := errors.Join(standing(sh, from, mv.From), standing(sh, p, mv.To)); err != nil {
				return "", err
			}
		}
		if from == nil || m == nil {
			return "", notFound("mapping on " + mv.From)
		}
		where := " on " + p.Name
		if mv.Page != page {
			where = " of " + p.Name
		}
		name := fmt.Sprintf("Move %s to %s%s", mv.From, mv.To, where)
		other := sh.MappingAt(mv.Page, mv.To)
		if other == m {
			return name, nil
		}
		at := show.Placement{Page: mv.Page, Control: mv.To}
		c := m.Clone()
		if c, left, err = fitted(c, l, mv.To); err != nil {
			return "", err
		}
		switch {
		case other != nil && mv.Swap && !mv.Copy:
			name = fmt.Sprintf("Swap %s and %s%s", mv.From, mv.To, where)
			back, _, err := fitted(other.Clone(), s.sheets.Controller(from.Layout), mv.From)
			if err != nil {
				return "", err
			}
			back.Placements[back.PlacementOn(mv.Page, mv.To)] = show.Placement{Page: page, Control: mv.From}
			d.Put(back)
		case other != nil:
			d.ClearPlacement(mv.Page, mv.To)
		}
		if mv.Copy {
			name = fmt.Sprintf("Copy %s to %s%s", mv.From, mv.To, where)
			c.ID, c.Placements = newID(), []show.Placement{at}
		} else {
			c.Placements[c.PlacementOn(page, mv.From)] = at
		}
		d.Put(c)
		return name, nil
	})
	return left, err
}

// fitted leaves out the responses whose gestures a control cannot make, and names
// them; it fails where nothing would be left.
func fitted(m *show.Mapping, l *device.ControllerSheet, control string) (*show.Mapping, []string, error) {
	c, ok := l.Control(control)
	if !ok {
		return nil, nil, notFound("control " + control)
	}
	var left []string
	m.Responses = slices.DeleteFunc(m.Responses, func(r show.Response) bool {
		out := !slices.Contains(c.Gestures, r.Gesture)
		if out {
			left = append(left, r.Gesture)
		}
		return out
	})
	if len(m.Responses) == 0 {
		return nil, nil, FieldErrors{{Field: "to", Text: fmt.Sprintf("%s cannot make the gesture %s.", control, strings.Join(left, ", "))}}
	}
	return m, left, nil
}

// Clear takes the mappings off controls of a page.
func (s *Service) Clear(who Who, page string, controls []string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(page)
		if p == nil {
			return "", notFound("page")
		}
		if err := standing(sh, p, controls...); err != nil {
			return "", err
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
	on, l, err := s.onPage(sh, page, k.At)
	if err != nil {
		return plan, nil, err
	}
	dev := s.device(sh, k.Device)
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
	// What stands on every page would hide what lands beneath it.
	free := slices.DeleteFunc(l.Controls(), func(c device.Control) bool { return sh.Stands(on, c.ID) })
	plan.Plan, err = layout.Row(free, k.At, len(items), func(c string) bool { return sh.MappingAt(page, c) != nil }, k.Replace)
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
		_, l, err := s.onPage(sh, page, k.At)
		if err != nil {
			return "", err
		}
		for i, call := range calls {
			d.ClearPlacement(page, plan.Cells[i])
			c, _ := l.Control(plan.Cells[i])
			d.Put(newMapping(page, plan.Cells[i], usual(c), call))
		}
		plan.Next = nextFree(d, sh, l, page, plan.Cells[len(plan.Cells)-1])
		return fmt.Sprintf("%s on %s", plan.Title, sh.Page(page).Name), nil
	})
}
