package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// ReflexForm is what a person says of a reflex.
type ReflexForm struct {
	Name    string    `json:"name"`
	Group   string    `json:"group,omitempty"`
	On      show.On   `json:"on"`
	When    string    `json:"when,omitempty"`
	Unless  string    `json:"unless,omitempty"`
	Then    show.Call `json:"then"`
	EveryMs int       `json:"everyMs,omitempty"`
	Per     string    `json:"per,omitempty"`
	Beyond  string    `json:"beyond,omitempty"`
	Length  int       `json:"length,omitempty"`
}

// onto gives a reflex what the form says. It fails with FieldErrors.
func (s *Service) reflexOnto(sh *show.Show, f ReflexForm, r *show.Reflex) error {
	r.Name, r.Group, r.On = strings.TrimSpace(f.Name), strings.TrimSpace(f.Group), f.On
	r.When, r.Unless, r.Then = strings.TrimSpace(f.When), strings.TrimSpace(f.Unless), f.Then
	r.EveryMs, r.Per, r.Beyond, r.Length = f.EveryMs, strings.TrimSpace(f.Per), f.Beyond, f.Length
	if errs := sh.CheckReflex(r); len(errs) > 0 {
		return FieldErrors(errs)
	}
	_, call, err := s.bind(sh, Action{Device: f.Then.Device, Action: f.Then.Action, Params: f.Then.Params})
	if err != nil {
		return err
	}
	r.Then = call
	return nil
}

// AddReflex adds a reflex at the end of the list, and returns its id.
func (s *Service) AddReflex(who Who, f ReflexForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		r := &show.Reflex{ID: id, Position: len(sh.Reflexes())}
		if err := s.reflexOnto(sh, f, r); err != nil {
			return "", err
		}
		d.Put(r)
		return "Add the reflex " + r.Name, nil
	})
}

// EditReflex changes a reflex; a rev of 0 is whatever it is.
func (s *Service) EditReflex(who Who, id string, rev int64, f ReflexForm) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Reflex(id)
		if old == nil {
			return "", notFound("reflex")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		r := *old
		if err := s.reflexOnto(sh, f, &r); err != nil {
			return "", err
		}
		d.Put(&r)
		return "Change the reflex " + r.Name, nil
	})
}

// SwitchReflex switches a reflex off, or on again, which mends one that was switched off by itself.
func (s *Service) SwitchReflex(who Who, id string, on bool) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Reflex(id)
		if old == nil {
			return "", notFound("reflex")
		}
		r := *old
		r.Off = !on
		d.Put(&r)
		return fmt.Sprintf("Switch the reflex %s %s", r.Name, map[bool]string{true: "on", false: "off"}[on]), nil
	})
}

// RemoveReflex removes a reflex.
func (s *Service) RemoveReflex(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		r := sh.Reflex(id)
		if r == nil {
			return "", notFound("reflex")
		}
		d.Delete(r.Ref())
		return "Remove the reflex " + r.Name, nil
	})
}

// MoveReflex gives a reflex another place in the list, which is the order in which one event is taken up.
func (s *Service) MoveReflex(who Who, id string, to int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		all := sh.Reflexes()
		at := slices.IndexFunc(all, func(r *show.Reflex) bool { return r.ID == id })
		if at < 0 {
			return "", notFound("reflex")
		}
		moved := all[at]
		all = slices.Delete(all, at, at+1)
		all = slices.Insert(all, max(0, min(to, len(all))), moved)
		for i, r := range all {
			if r.Position != i {
				c := *r
				c.Position = i
				d.Put(&c)
			}
		}
		return "Move the reflex " + moved.Name, nil
	})
}
