package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// DeviceFields are what a rigger enters for a device.
type DeviceFields struct {
	Name      string  `json:"name"`
	Type      string  `json:"type"`
	Host      string  `json:"host"`
	Port      int     `json:"port"`
	FrameRate float64 `json:"frameRate,omitempty"`
	Secure    bool    `json:"secure,omitempty"`
	User      string  `json:"user,omitempty"`
	Model     string  `json:"model,omitempty"`
	// LatencyMs is how long until a command shows, for devices that report nothing.
	LatencyMs int `json:"latencyMs,omitempty"`
	// Password is a new password or token; missing keeps the one that is set, ""
	// forgets it. It is never given back.
	Password *string `json:"password,omitempty"`
}

// maxPassword is the longest password or token, in bytes.
//
//limit:bytes a password or a token | at the field
const maxPassword = 1000

func (s *Service) checkDevice(sh *show.Show, d *show.Device) error {
	typ := s.sheets.Device(d.Type)
	errs := FieldErrors(sh.CheckDevice(d, typ == nil || !typ.Driver.Local))
	if typ == nil {
		errs = append(errs, &show.FieldError{Field: "type", Text: fmt.Sprintf("There is no device sheet of the type %q.", d.Type)})
	} else if d.Model != "" && typ.Model(d.Model, "") == nil {
		errs = append(errs, &show.FieldError{Field: "model", Text: fmt.Sprintf("The sheet knows no model %q.", d.Model)})
	}
	if len(errs) > 0 {
		return errs
	}
	return nil
}

// AddDevice adds a device and returns its id.
func (s *Service) AddDevice(who Who, f DeviceFields) (string, error) {
	ids, err := s.AddDevices(who, []DeviceFields{f})
	if err != nil {
		return "", err
	}
	return ids[0], nil
}

// AddDevices adds devices as one edit and returns their ids.
func (s *Service) AddDevices(who Who, list []DeviceFields) (ids []string, err error) {
	return ids, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		next := sh
		var names []string
		for _, f := range list {
			dev := &show.Device{ID: newID(), Position: len(next.Devices()) + 1}
			dev.Slug = show.Slug(f.Name, next.DeviceSlugTaken)
			f.into(dev)
			if err := s.checkDevice(next, dev); err != nil {
				return "", err
			}
			if err := s.secret(f, dev); err != nil {
				return "", err
			}
			d.Put(dev)
			ids, names = append(ids, dev.ID), append(names, dev.Name)
			var err error
			if next, err = sh.Apply(d.Edit("", s.seq+1)); err != nil {
				return "", err
			}
		}
		return "Add " + strings.Join(names, ", "), nil
	})
}

// Reach checks fields as an edit would and gives the device that they would make, with its type and its password:
// the one that was entered, else that of the device with an id, which may be empty. A stored password goes to no
// address but the one it is stored for. It changes nothing.
func (s *Service) Reach(id string, f DeviceFields) (*show.Device, *device.Type, string, error) {
	prog := s.program.Load()
	old, dev := prog.Devices[id], &show.Device{ID: newID()}
	if old != nil {
		*dev = *old.Device
	}
	f.into(dev)
	if err := s.checkDevice(prog.Show, dev); err != nil {
		return nil, nil, "", err
	}
	password := ""
	switch {
	case f.Password != nil:
		password = *f.Password
	case old == nil || old.Password() == "":
	case dev.Host != old.Host || dev.Port != old.Port || dev.Type != old.Device.Type:
		return nil, nil, "", FieldErrors{{Field: "password", Text: "Enter it again: the one that is stored goes to no address but its own until this is saved."}}
	default:
		password = old.Password()
	}
	return dev, s.sheets.Device(dev.Type), password, nil
}

func (f DeviceFields) into(d *show.Device) {
	d.Name, d.Type, d.Host, d.Port, d.FrameRate = strings.TrimSpace(f.Name), f.Type, strings.TrimSpace(f.Host), f.Port, f.FrameRate
	d.Secure, d.User, d.Model, d.LatencyMs = f.Secure, strings.TrimSpace(f.User), f.Model, f.LatencyMs
}

// secret stores a password that was entered and has the device refer to it.
func (s *Service) secret(f DeviceFields, d *show.Device) error {
	switch {
	case f.Password == nil:
		return nil
	case len(*f.Password) > maxPassword:
		return FieldErrors{{Field: "password", Text: fmt.Sprintf("A password has at most %d bytes.", maxPassword)}}
	case *f.Password == "":
		d.Secret = ""
		return nil
	}
	id, err := s.base().PutSecret(*f.Password)
	d.Secret = id
	return err
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
		if err := s.checkDevice(sh, &dev); err != nil {
			return "", err
		}
		if err := s.secret(f, &dev); err != nil {
			return "", err
		}
		d.Put(&dev)
		name := "Change " + dev.Name
		switch {
		case old.Address() != dev.Address():
			name = fmt.Sprintf("Move %s to %s", dev.Name, dev.Address())
		case old.Name != dev.Name:
			name = fmt.Sprintf("Rename %s to %s", old.Name, dev.Name)
		case old.Secret != dev.Secret:
			name = "New password of " + dev.Name
		}
		return name, nil
	})
}

// DuplicateDevice adds a device like another one, parked, for a second address.
func (s *Service) DuplicateDevice(who Who, id string) (string, error) {
	made := newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Device(id)
		if old == nil {
			return "", notFound("device")
		}
		dev := *old
		dev.ID, dev.Aliases, dev.Parked, dev.Position = made, nil, true, len(sh.Devices())+1
		taken := func(name string) bool {
			return slices.ContainsFunc(sh.Devices(), func(o *show.Device) bool { return strings.EqualFold(o.Name, name) })
		}
		for n := 2; ; n++ {
			if dev.Name = fmt.Sprintf("%s %d", old.Name, n); !taken(dev.Name) {
				break
			}
		}
		dev.Slug = show.Slug(dev.Name, sh.DeviceSlugTaken)
		d.Put(&dev)
		return "Duplicate " + old.Name, s.checkDevice(sh, &dev)
	})
}

// MoveDevice has a device be at another address; everything else of it stays.
func (s *Service) MoveDevice(who Who, id, host string, port int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Device(id)
		if old == nil {
			return "", notFound("device")
		}
		dev := *old
		dev.Host, dev.Port = strings.TrimSpace(host), port
		if err := s.checkDevice(sh, &dev); err != nil {
			return "", err
		}
		d.Put(&dev)
		return fmt.Sprintf("Move %s to %s", dev.Name, dev.Address()), nil
	})
}

// ParkDevice takes a device's link away, or gives it back.
func (s *Service) ParkDevice(who Who, id string, parked bool) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Device(id)
		if old == nil {
			return "", notFound("device")
		}
		dev := *old
		dev.Parked = parked
		d.Put(&dev)
		if parked {
			return "Park " + dev.Name, nil
		}
		return "Connect " + dev.Name, nil
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
	return id, s.do(who, s.newController(id, name, layout))
}

// newController builds a controller; see AddController.
func (s *Service) newController(id, name, layout string) func(*show.Draft, *show.Show) (string, error) {
	return func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(layout)
		name = strings.TrimSpace(name)
		if l == nil {
			return "", FieldErrors{{Field: "layout", Text: fmt.Sprintf("There is no controller sheet of the type %q.", layout)}}
		}
		if text := show.CheckName(name); text != "" {
			return "", FieldErrors{{Field: "name", Text: text}}
		}
		profile := ""
		if ps := sh.Profiles(); len(ps) > 0 {
			profile = ps[0].ID
		} else {
			profile = newID()
			d.Put(&show.Profile{ID: profile, Slug: "main", Name: "Main"})
		}
		for _, zone := range l.Zones() {
			if len(sh.PagesFor(profile, layout, zone)) == 0 {
				d.Put(&show.Page{ID: newID(), Slug: "home", Name: "Home", Profile: profile, Layout: layout, Zone: zone})
			}
		}
		d.Put(&show.Controller{ID: id, Name: name, Layout: layout, Profile: profile, Position: len(sh.Controllers()),
			Slug: show.Slug(name, func(t string) bool { return sh.ControllerBySlug(t) != nil }), X: 32 + 48*len(sh.Controllers()), Y: 32 + 48*len(sh.Controllers())})
		return "Add " + name, nil
	}
}
