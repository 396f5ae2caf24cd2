package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// DeviceFields are what a rigger enters for a device.
type DeviceFields struct {
	Name      string  `json:"name"`
	Type      string  `json:"type"`
	Host      string  `json:"host"`
	Port      int     `json:"port"`
	FrameRate float64 `json:"frameRate,omitempty"`
}

func (s *Service) checkDevice(sh *show.Show, d *show.Device) error {
	errs := FieldErrors(sh.CheckDevice(d))
	if s.sheets.Device(d.Type) == nil {
		errs = append(errs, &show.FieldError{Field: "type", Text: fmt.Sprintf("There is no device sheet of the type %q.", d.Type)})
	}
	if len(errs) > 0 {
		return errs
	}
	return nil
}

// AddDevice adds a device and returns its id.
func (s *Service) AddDevice(who Who, f DeviceFields) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		dev := &show.Device{ID: id, Position: len(sh.Devices()) + 1}
		dev.Slug = show.Slug(f.Name, sh.DeviceSlugTaken)
		f.into(dev)
		d.Put(dev)
		return "Add " + dev.Name, s.checkDevice(sh, dev)
	})
}

func (f DeviceFields) into(d *show.Device) {
	d.Name, d.Type, d.Host, d.Port, d.FrameRate = strings.TrimSpace(f.Name), f.Type, strings.TrimSpace(f.Host), f.Port, f.FrameRate
}

// EditDevice changes a device that was read at a revision.
func (s *Service) EditDevice(who Who, id string, rev int64, f DeviceFields) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Device(id)
		if old == nil {
			return "", notFound("device")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		dev := *old
		f.into(&dev)
		d.Put(&dev)
		name := "Change " + dev.Name
		if old.Address() != dev.Address() {
			name = fmt.Sprintf("Move %s to %s", dev.Name, dev.Address())
		} else if old.Name != dev.Name {
			name = fmt.Sprintf("Rename %s to %s", old.Name, dev.Name)
		}
		return name, s.checkDevice(sh, &dev)
	})
}

// RemoveDevice removes a device. Mappings that use it stay, and say so.
func (s *Service) RemoveDevice(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		dev := sh.Device(id)
		if dev == nil {
			return "", notFound("device")
		}
		d.Delete(dev.Ref())
		return "Remove " + dev.Name, nil
	})
}

// UsesOf lists the mappings that use a device.
func UsesOf(sh *show.Show, device string) []*show.Mapping {
	return slices.DeleteFunc(sh.Mappings(), func(m *show.Mapping) bool {
		return !slices.ContainsFunc(m.Responses, func(r show.Response) bool { return r.Action.Device == device })
	})
}

// AddController adds a controller of a layout, with a profile and a first page
// where the show has none for it. It returns the controller's id.
func (s *Service) AddController(who Who, name, layout string) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(layout)
		name = strings.TrimSpace(name)
		switch {
		case l == nil:
			return "", FieldErrors{{Field: "layout", Text: fmt.Sprintf("There is no controller sheet of the type %q.", layout)}}
		case name == "" || len(name) > show.MaxName:
			return "", FieldErrors{{Field: "name", Text: "A controller needs a name of at most 60 characters."}}
		}
		profile := ""
		if ps := sh.Profiles(); len(ps) > 0 {
			profile = ps[0].ID
		} else {
			profile = newID()
			d.Put(&show.Profile{ID: profile, Slug: "main", Name: "Main"})
		}
		if len(sh.PagesFor(profile, layout, l.Zone)) == 0 {
			d.Put(&show.Page{ID: newID(), Slug: "home", Name: "Home", Profile: profile, Layout: layout, Zone: l.Zone})
		}
		d.Put(&show.Controller{ID: id, Name: name, Layout: layout, Profile: profile, Position: len(sh.Controllers()),
			Slug: show.Slug(name, func(t string) bool { return sh.ControllerBySlug(t) != nil }), X: 32, Y: 32})
		return "Add " + name, nil
	})
}
