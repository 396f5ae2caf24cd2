package edit

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
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
		return "", call, errNoDevice
	}
	b, call, err := boundCall(sh, &program.Device{Device: dev, Type: s.sheets.Device(dev.Type)}, a)
	if err != nil {
		return "", call, err
	}
	v := s.mirror.View()
	title = b.Title.Text(v)
	return title, call, nil
}

var errNoDevice = FieldErrors{{Field: "device", Text: "This device is not in the rig."}}

// boundCall checks an action of a device, nil where there is none, and binds it.
func boundCall(sh *show.Show, dev *program.Device, a Action) (*device.Bound, show.Call, error) {
	if dev == nil {
		return nil, show.Call{}, errNoDevice
	}
	if dev.Type == nil || dev.Type.Action(a.Action) == nil {
		return nil, show.Call{}, FieldErrors{{Field: "action", Text: fmt.Sprintf("%s has no action %q.", dev.Name, a.Action)}}
	}
	b, err := dev.Type.Bind(dev.ID, a.Action, a.Params, sh.Settings().FrameRate)
	var bad *device.ParamError
	if errors.As(err, &bad) {
		return nil, show.Call{}, FieldErrors{{Field: "params." + bad.Param, Text: bad.Text}}
	}
	if err != nil {
		return nil, show.Call{}, err
	}
	return b, show.Call{Device: dev.ID, DeviceName: dev.Name, Action: a.Action, Params: b.Params}, nil
}

// called is what a mapping is known by: its own name, else what it does.
func (s *Service) called(m *show.Mapping) string {
	name := m.Title()
	c := s.Program().Mappings[m.ID]
	if m.Name != "" || c == nil || len(m.Responses) == 0 {
		return name
	}
	if r := c.Responses[m.Responses[0].Gesture]; r != nil && r.Bound != nil {
		v := s.mirror.View()
		name = r.Bound.Title.Text(v)
	}
	return name
}

// device finds a device of the rig, or the built-in one.
func (s *Service) device(sh *show.Show, id string) *show.Device {
	if d := sh.Device(id); d != nil {
		return d
	}
	if d := s.Program().Devices[id]; d != nil && id == program.SelfID {
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
		clearPlanned(d, page, control)
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
	// Fires says when a press fires: touch, lift, or "" for as usual.
	Fires *string `json:"fires,omitempty"`
	// Dial is how the turn or the slide of the action's gesture changes it.
	Dial *show.Dial `json:"dial,omitempty"`
	// Drop takes the response to a gesture away.
	Drop string `json:"drop,omitempty"`
	// Lamps replace the lamps; missing keeps them. ActionLamps goes back to those
	// that the action proposes.
	// Branches, Next and Quiet replace what a key that runs a macro shows of it.
	Branches    *map[string]show.Look `json:"branches,omitempty"`
	Next        *bool                 `json:"next,omitempty"`
	Quiet       *bool                 `json:"quiet,omitempty"`
	Lamps       *[]LampFields         `json:"lamps,omitempty"`
	ActionLamps bool                  `json:"actionLamps,omitempty"`
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
		name := "Change the face of " + s.called(old)
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
				name = fmt.Sprintf("%s: %s", s.called(old), title)
			}
			r.Action = call
		}
		if f.settings(m) {
			name = "Change the gestures of " + s.called(old)
		}
		if f.ActionLamps || f.Lamps != nil {
			name = "Change the lamps of " + s.called(old)
			if err := f.lamps(m); err != nil {
				return "", err
			}
		}
		d.Put(m)
		if err := s.checkFace(m); err != nil {
			return "", err
		}
		return name, checkMapping(m)
	})
	return s.Program().Show.Rev(show.Ref{Kind: show.KindMapping, ID: id}), err
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
	if f.Fires != nil {
		changed = changed || m.Fires != *f.Fires
		m.Fires = *f.Fires
	}
	if f.Branches != nil {
		changed, m.Branches = true, *f.Branches
	}
	if f.Next != nil {
		changed, m.Next = changed || m.Next != *f.Next, *f.Next
	}
	if f.Quiet != nil {
		changed, m.Quiet = changed || m.Quiet != *f.Quiet, *f.Quiet
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
