package edit

import (
	"slices"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
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
	// WhenSentences and UnlessSentences say the conditions, in place of those.
	WhenSentences   []expr.Sentence `json:"whenSentences,omitempty"`
	UnlessSentences []expr.Sentence `json:"unlessSentences,omitempty"`
	// Off has it switched off until somebody switches it on here.
	Off   bool          `json:"off,omitempty"`
	Table *reflex.Table `json:"table,omitempty"`
	Hold  *show.Hold    `json:"hold,omitempty"`
}

// reflexOnto gives a reflex what somebody's form says; from then on it has their rights. It fails with FieldErrors.
func (s *Service) reflexOnto(who Who, sh *show.Show, f ReflexForm, r *show.Reflex) error {
	r.Name, r.Group, r.On = strings.TrimSpace(f.Name), strings.TrimSpace(f.Group), f.On
	r.When, r.Unless, r.Then = strings.TrimSpace(f.When), strings.TrimSpace(f.Unless), f.Then
	r.EveryMs, r.Per, r.Beyond, r.Length = f.EveryMs, strings.TrimSpace(f.Per), f.Beyond, f.Length
	for field, c := range map[string]struct {
		list []expr.Sentence
		into *string
	}{"when": {f.WhenSentences, &r.When}, "unless": {f.UnlessSentences, &r.Unless}} {
		if len(c.list) == 0 {
			continue
		}
		source, err := expr.Condition(c.list)
		if err != nil {
			return FieldErrors{{Field: field, Text: "This condition cannot be read: " + err.Error() + "."}}
		}
		*c.into = source
	}
	r.Off, r.Table, r.Hold, r.Owner = f.Off, f.Table, f.Hold, who.Person
	if errs := sh.CheckReflex(r); len(errs) > 0 {
		return FieldErrors(errs)
	}
	call, err := s.fillable(sh, f.Then)
	r.Then = call
	return err
}

// fillable checks an action whose choices and numbers an event may fill, such as {event.clip}.
func (s *Service) fillable(sh *show.Show, then show.Call) (show.Call, error) {
	sample := then.Params
	if dev := s.device(sh, then.Device); dev != nil {
		if t := s.sheets.Device(dev.Type); t != nil {
			var filled []string
			sample, filled = t.Sampled(then.Action, then.Params)
			for _, p := range filled {
				if _, err := expr.CompileTemplate(then.Params[p], expr.Scope{}); err != nil {
					return then, FieldErrors{{Field: "params." + p, Text: "This cannot be read: " + err.Error() + "."}}
				}
			}
		}
	}
	_, call, err := s.bind(sh, Action{Device: then.Device, Action: then.Action, Params: sample})
	if err != nil {
		return then, err
	}
	for p := range call.Params {
		if v, said := then.Params[p]; said {
			call.Params[p] = v
		}
	}
	return call, nil
}

// MadeOf is a reflex as a form says it, compiled for the show in force: to be tried, and not kept. It fails with FieldErrors.
func (s *Service) MadeOf(who Who, f ReflexForm) (*program.Reflex, error) {
	p := s.Program()
	r := &show.Reflex{ID: "tried"}
	if strings.TrimSpace(f.Name) == "" {
		f.Name = "A new reflex"
	}
	if err := s.reflexOnto(who, p.Show, f, r); err != nil {
		return nil, err
	}
	return p.CompileReflex(r), nil
}

// AddReflex adds a reflex at the end of the list, and returns its id.
func (s *Service) AddReflex(who Who, f ReflexForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		r := &show.Reflex{ID: id, Position: len(sh.Reflexes())}
		if err := s.reflexOnto(who, sh, f, r); err != nil {
			return "", err
		}
		d.Put(r)
		if r.On.Kind == reflex.OnSchedule {
			fixZone(d, sh)
		}
		return "Add the reflex " + r.Name, nil
	})
}

// EditReflex changes a reflex that was read at a revision.
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
		if err := s.reflexOnto(who, sh, f, &r); err != nil {
			return "", err
		}
		d.Put(&r)
		return "Change the reflex " + r.Name, nil
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
