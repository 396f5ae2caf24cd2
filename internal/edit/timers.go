package edit

import (
	"strings"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/store"
)

// TimerForm is what a person says of a timer.
type TimerForm struct {
	Name    string `json:"name"`
	Kind    string `json:"kind"`
	Seconds int    `json:"seconds,omitempty"`
	At      string `json:"at,omitempty"`
	Coarse  bool   `json:"coarse,omitempty"`
}

func (f TimerForm) onto(sh *show.Show, t *show.Timer) error {
	t.Name, t.Kind, t.Seconds, t.At, t.Coarse = strings.TrimSpace(f.Name), f.Kind, f.Seconds, strings.TrimSpace(f.At), f.Coarse
	if errs := sh.CheckTimer(t); len(errs) > 0 {
		return FieldErrors(errs)
	}
	return nil
}

// SetZone gives the show a time zone, by its IANA name: that of its schedules.
func (s *Service) SetZone(who Who, name string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		if _, err := time.LoadLocation(name); err != nil || name == "" || name == "Local" {
			return "", FieldErrors{{Field: "timeZone", Text: "There is no such time zone; it is called as in Europe/Berlin."}}
		}
		c := *sh.Settings()
		c.TimeZone = name
		d.Put(&c)
		return "Set the time zone to " + name, nil
	})
}

// fixZone gives a show without a time zone that of this computer, once something goes by it.
func fixZone(d *show.Draft, sh *show.Show) {
	if c := *sh.Settings(); c.TimeZone == "" {
		if c.TimeZone = store.LocalZone(); c.TimeZone != "" {
			d.Put(&c)
		}
	}
}

// AddTimer adds a timer at the end of the list, and returns its id.
func (s *Service) AddTimer(who Who, f TimerForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		t := &show.Timer{ID: id, Position: len(sh.Timers())}
		if err := f.onto(sh, t); err != nil {
			return "", err
		}
		d.Put(t)
		if t.Kind == reflex.To {
			fixZone(d, sh)
		}
		return "Add the timer " + t.Name, nil
	})
}

// EditTimer changes a timer that was read at a revision.
func (s *Service) EditTimer(who Who, id string, rev int64, f TimerForm) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Timer(id)
		if old == nil {
			return "", notFound("timer")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		t := *old
		if err := f.onto(sh, &t); err != nil {
			return "", err
		}
		d.Put(&t)
		return "Change the timer " + t.Name, nil
	})
}

// RemoveTimer removes a timer.
func (s *Service) RemoveTimer(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		t := sh.Timer(id)
		if t == nil {
			return "", notFound("timer")
		}
		d.Delete(t.Ref())
		return "Remove the timer " + t.Name, nil
	})
}
