package edit

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// LinkForm is what a person says of a link.
type LinkForm struct {
	Controller string            `json:"controller"`
	Kind       string            `json:"kind"`
	Name       string            `json:"name"`
	Match      string            `json:"match"`
	Place      string            `json:"place,omitempty"`
	Map        map[string]string `json:"map"`
	Bindings   []show.Binding    `json:"bindings,omitempty"`
	Take       bool              `json:"take,omitempty"`
	Off        bool              `json:"off"`
}

// onto gives a link what the form says.
func (f LinkForm) onto(l *show.Link) {
	l.Controller, l.Kind, l.Name, l.Match, l.Off = f.Controller, f.Kind, strings.TrimSpace(f.Name), strings.TrimSpace(f.Match), f.Off
	l.Place, l.Bindings, l.Take = strings.TrimSpace(f.Place), f.Bindings, f.Take
	l.Map = map[string]string{}
	maps.Copy(l.Map, f.Map)
	maps.DeleteFunc(l.Map, func(from, to string) bool { return from == to || from == "" })
}

// checkLink says what is wrong with a link as it is to be.
func (s *Service) checkLink(sh *show.Show, l *show.Link) error {
	errs := sh.CheckLink(l)
	if c := sh.Controller(l.Controller); c != nil {
		if sheet := s.sheets.Controller(c.Layout); sheet != nil {
			for from, to := range l.Map {
				if _, has := sheet.Control(to); to != "" && !has {
					errs = append(errs, &show.FieldError{Field: "map", Text: fmt.Sprintf("%s has no control %q for %q.", c.Name, to, from)})
				}
			}
			if text := sheet.Binds(l.Bindings); text != "" && show.CheckBindings(l.Bindings) == "" {
				errs = append(errs, &show.FieldError{Field: "bindings", Text: text})
			}
		}
	}
	if len(errs) > 0 {
		return FieldErrors(errs)
	}
	return nil
}

// AddLink attaches hardware to a controller.
func (s *Service) AddLink(who Who, f LinkForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := &show.Link{ID: id, Position: len(sh.Links())}
		f.onto(l)
		if err := s.checkLink(sh, l); err != nil {
			return "", err
		}
		d.Put(l)
		return fmt.Sprintf("Attach %s to %s", l.Title(), sh.Controller(l.Controller).Name), nil
	})
}

// AttachNew adds a controller of a layout, and attaches hardware to it, as one edit.
func (s *Service) AttachNew(who Who, name, layout string, f LinkForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		title, err := s.newController(id, name, layout)(d, sh)
		if err != nil {
			return "", err
		}
		l := &show.Link{ID: newID(), Position: len(sh.Links())}
		f.Controller = id
		f.onto(l)
		if err := s.checkLink(d.Now(), l); err != nil {
			return "", err
		}
		d.Put(l)
		return title, nil
	})
}

// Bind says that something of hardware is a control, in place of whatever it was: want has the hardware, the controller, and one binding.
// link is that by which the hardware is attached already; where it is to nothing, it is attached to the controller.
func (s *Service) Bind(who Who, link string, want show.Link) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		c, b := sh.Controller(want.Controller), want.Bindings[0]
		if c == nil {
			return "", notFound("controller")
		}
		l := want
		l.ID, l.Position, l.Bindings = newID(), len(sh.Links()), nil
		old := sh.Link(link)
		if old == nil {
			old = sh.Same(&l) // it was attached since it was touched
		}
		if old != nil {
			if old.Controller != c.ID {
				return "", FieldErrors{{Field: "controller", Text: fmt.Sprintf("%s is attached to %s. Detach it there first.", old.Title(), sh.Controller(old.Controller).Name)}}
			}
			l = *old
		}
		if l.Kind == show.LinkWire { // whose hardware has names of its own
			l.Map = maps.Clone(l.Map)
			if l.Map == nil {
				l.Map = map[string]string{}
			}
			if l.Map[b.Source] = b.Control; b.Source == b.Control {
				delete(l.Map, b.Source)
			}
		} else {
			s.bindSource(&l, c.Layout, b)
		}
		if err := s.checkLink(sh, &l); err != nil {
			return "", err
		}
		d.Put(&l)
		return fmt.Sprintf("%s of %s is %s of %s", b.Source, l.Title(), b.Control, c.Name), nil
	})
}

// bindSource adds a binding to a link, in place of that of its source. Where the link has none, it begins with those of the controller's sheet.
func (s *Service) bindSource(l *show.Link, layout string, b show.Binding) {
	l.Bindings = append(slices.DeleteFunc(slices.Clone(s.sheets.Controller(layout).Bound(l)), func(old show.Binding) bool { return old.Source == b.Source }), b)
	slices.SortStableFunc(l.Bindings, func(x, y show.Binding) int { return strings.Compare(x.Control, y.Control) })
}

// SetTake says whether what comes by a link is kept from other programs.
func (s *Service) SetTake(who Who, id string, take bool) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Link(id)
		if old == nil {
			return "", notFound("link")
		}
		c := *old
		c.Take = take
		if err := s.checkLink(sh, &c); err != nil {
			return "", err
		}
		d.Put(&c)
		if take {
			return "Keep " + c.Title() + " from other programs", nil
		}
		return "Pass " + c.Title() + " on to other programs", nil
	})
}

// SetLink changes a link; rev is the revision that was changed.
func (s *Service) SetLink(who Who, id string, rev int64, f LinkForm) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Link(id)
		if old == nil {
			return "", notFound("link")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		c := *old
		f.onto(&c)
		if err := s.checkLink(sh, &c); err != nil {
			return "", err
		}
		d.Put(&c)
		return "Change the link of " + c.Title(), nil
	})
}

// RemoveLink detaches hardware from a controller.
func (s *Service) RemoveLink(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Link(id)
		if old == nil {
			return "", notFound("link")
		}
		d.Delete(old.Ref())
		return "Detach " + old.Title(), nil
	})
}

// Bounds of the looks of a controller.
const (
	//limit:count seconds until a controller is dimmed | at the edit
	maxDimAfterS = 86_400
)

// LightForm is how bright a controller is, and when it is dimmed.
type LightForm struct {
	Brightness int  `json:"brightness"` // percent
	DimAfterS  int  `json:"dimAfterS"`  // 0: never
	WakeActs   bool `json:"wakeActs"`
}

// SetLight changes how bright a controller is.
func (s *Service) SetLight(who Who, id string, f LightForm) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Controller(id)
		if old == nil {
			return "", notFound("controller")
		}
		if f.Brightness < 1 || f.Brightness > 100 {
			return "", FieldErrors{{Field: "brightness", Text: "The brightness is from 1 to 100 percent."}}
		}
		if f.DimAfterS < 0 || f.DimAfterS > maxDimAfterS {
			return "", FieldErrors{{Field: "dimAfterS", Text: "It is dimmed after at most a day; 0 is never."}}
		}
		c := *old
		c.Brightness, c.DimAfterS, c.WakeActs = f.Brightness%100, f.DimAfterS, f.WakeActs // 0 stands for 100
		d.Put(&c)
		return "Change the light of " + c.Name, nil
	})
}
