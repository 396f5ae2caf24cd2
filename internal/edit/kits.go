package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
)

// Kit says which kit goes where.
type Kit struct {
	Device  string            `json:"device"`
	Kit     string            `json:"kit"`
	Params  map[string]string `json:"params"`
	At      string            `json:"at"`
	Replace bool              `json:"replace"`
	// Continue puts what does not fit on new pages, with keys that lead there and
	// back.
	Continue bool `json:"continue,omitempty"`
}

// KitPlan says where the keys of a kit land.
type KitPlan struct {
	layout.Plan
	Titles []string `json:"titles"` // of the keys, in the order of the cells
	Title  string   `json:"title"`
	Next   string   `json:"next"`  // once it is put: the free control that comes next
	Pages  []string `json:"pages"` // once it is put: the names of the pages that were made
}

// PlanKit works out where the keys of a kit would land.
func (s *Service) PlanKit(page string, k Kit) (KitPlan, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	plan, _, err := s.planKit(s.show, page, k)
	return plan, err
}

// kitKey is one key of a kit: its title and its responses.
type kitKey struct {
	title     string
	responses []show.Response
}

// planKit works out where a kit lands, and gives all of its keys, also those for
// which there is no room.
func (s *Service) planKit(sh *show.Show, page string, k Kit) (plan KitPlan, keys []kitKey, err error) {
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
	if err := standing(sh, on, k.At); err != nil {
		return plan, nil, err
	}
	at, _ := l.Control(k.At)
	gestures, err := kitGestures(typ, spec, at)
	if err != nil {
		return plan, nil, err
	}
	var items []device.KitKey
	v := s.mirror.View()
	items = typ.KitKeys(spec, k.Params[spec.Each], dev.ID, v)
	each := device.Choice{Value: k.Params[spec.Each], Name: k.Params[spec.Each]}
	for _, c := range typ.Choices(spec.Each, dev.ID, nil, v) {
		if c.Value == each.Value {
			each = c
		}
	}
	plan.Title = typ.KitTitle(spec, each, dev.ID, v)
	if len(items) == 0 {
		return plan, nil, FieldErrors{{Field: "device", Text: dev.Name + " has not said yet what it has. Connect it once, then put the kit."}}
	}
	plan.Pages = []string{}
	plan.Plan, err = layout.Row(s.open(sh, on, l), k.At, len(items), func(c string) bool { return sh.MappingAt(page, c) != nil }, k.Replace)
	if err != nil {
		return plan, nil, err
	}
	for i, item := range items {
		key := kitKey{}
		for j, g := range gestures {
			a := Action{Device: dev.ID, Action: item.Action, Params: item.Params}
			if j > 0 {
				a.Action = spec.Also[j-1].Action
				a.Params = typ.Filled(a.Action, map[string]string{spec.Over: item.Params[spec.Over]}, dev.ID, v)
			}
			if g == "" {
				continue
			}
			title, call, err := s.bind(sh, a)
			if err != nil {
				return plan, nil, err
			}
			if j == 0 {
				key.title = title
			}
			key.responses = append(key.responses, show.Response{Gesture: g, Action: call})
		}
		keys = append(keys, key)
		if i < len(plan.Cells) {
			plan.Titles = append(plan.Titles, key.title)
		}
	}
	return plan, keys, nil
}

// kitGestures says which gestures of a control start the actions of a kit: the
// first its own, then those of what it does besides; "" where the control cannot
// make one of those.
func kitGestures(typ *device.Type, spec *device.KitSpec, c device.Control) ([]string, error) {
	own := spec.Gesture
	if own == "" {
		own = usual(c)
	}
	if slices.Contains(c.Gestures, input.Slide) && own == input.Turn {
		own = input.Slide // a fader for a dial
	}
	if !slices.Contains(c.Gestures, own) || !typ.Action(spec.Main()).StartedBy(own) {
		return nil, FieldErrors{{Field: "at", Text: fmt.Sprintf("This kit is for other controls: %s cannot start what it does.", c.ID)}}
	}
	out := []string{own}
	for _, also := range spec.Also {
		if slices.Contains(c.Gestures, also.Gesture) {
			out = append(out, also.Gesture)
		} else {
			out = append(out, "")
		}
	}
	return out, nil
}

// open lists the controls of a layout on which a page's own keys answer: what
// stands on every page would hide what lands beneath it.
func (s *Service) open(sh *show.Show, p *show.Page, l *device.ControllerSheet) []device.Control {
	return slices.DeleteFunc(l.Controls(), func(c device.Control) bool { return c.Zone != p.Zone || sh.Stands(p, c.ID) })
}

// PutKit puts a kit on a page, as one edit, and says where it landed.
func (s *Service) PutKit(who Who, page string, k Kit) (plan KitPlan, err error) {
	return plan, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		var keys []kitKey
		if plan, keys, err = s.planKit(sh, page, k); err != nil {
			return "", err
		}
		p, l, err := s.onPage(sh, page, k.At)
		if err != nil {
			return "", err
		}
		if len(plan.Cells) == 0 && !k.Continue {
			return "", FieldErrors{{Field: "at", Text: "There is no free key from here on. Clear some, drop the kit elsewhere, or let it go on on a new page."}}
		}
		on, cells := p, plan.Cells
		for plan.Left > 0 && k.Continue {
			if len(cells) == 0 {
				return "", FieldErrors{{Field: "at", Text: "There is no room for the key that leads to the new page. Clear one key."}}
			}
			// The last key leads to the new page, whose key at the same place leads back.
			door := cells[len(cells)-1]
			more, err := addAfter(d, on, on.Name)
			if err != nil {
				return "", err
			}
			s.fill(d, on.ID, cells[:len(cells)-1], keys)
			keys = keys[len(cells)-1:]
			linkPages(d, on, more, door)
			plan.Pages = append(plan.Pages, more.Name)
			free := slices.DeleteFunc(s.open(sh, p, l), func(c device.Control) bool { return c.ID == door })
			first, _ := l.Control(k.At)
			free = slices.DeleteFunc(free, func(c device.Control) bool { return c.Kind != first.Kind || c.Group != first.Group })
			if len(free) < 2 {
				return "", FieldErrors{{Field: "at", Text: "A new page has too few keys for this kit."}}
			}
			next, err := layout.Row(free, free[0].ID, len(keys), func(string) bool { return false }, false)
			if err != nil {
				return "", err
			}
			on, cells, plan.Left = more, next.Cells, next.Left
		}
		s.fill(d, on.ID, cells, keys)
		if on == p {
			plan.Next = nextFree(d, sh, l, page, cells[len(cells)-1])
		}
		name := fmt.Sprintf("%s on %s", plan.Title, p.Name)
		if len(plan.Pages) > 0 {
			name += " and " + strings.Join(plan.Pages, ", ")
		}
		return name, nil
	})
}

// fill puts the first keys of a kit on controls.
func (s *Service) fill(d *show.Draft, page string, cells []string, keys []kitKey) {
	for i, cell := range cells {
		d.ClearPlacement(page, cell)
		d.Put(&show.Mapping{ID: newID(), Placements: []show.Placement{{Page: page, Control: cell}}, Responses: keys[i].responses})
		clearPlanned(d, page, cell)
	}
}
