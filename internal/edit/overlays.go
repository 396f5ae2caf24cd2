package edit

import (
	"strings"

	"synaptor/internal/core/overlay"
	"synaptor/internal/core/show"
)

// OverlayForm is what a person says of an overlay.
type OverlayForm struct {
	Name    string             `json:"name"`
	Kind    string             `json:"kind"`
	X       float64            `json:"x"`
	Y       float64            `json:"y"`
	Width   float64            `json:"width"`
	Size    float64            `json:"size"`
	Align   string             `json:"align"`
	Look    string             `json:"look"`
	FadeMs  int                `json:"fadeMs"`
	Timer   string             `json:"timer,omitempty"`
	Lines   []show.OverlayLine `json:"lines,omitempty"`
	Picture string             `json:"picture,omitempty"`
}

func (f OverlayForm) onto(sh *show.Show, o *show.Overlay) error {
	o.Name, o.Kind, o.X, o.Y, o.Width, o.Size, o.Align, o.Look, o.FadeMs = strings.TrimSpace(f.Name), f.Kind, f.X, f.Y, f.Width, f.Size, f.Align, f.Look, f.FadeMs
	o.Timer, o.Lines, o.Picture = "", nil, ""
	switch f.Kind {
	case show.OverlayTimer:
		o.Timer = f.Timer
	case show.OverlayPicture:
		o.Picture = f.Picture
	default:
		o.Lines = f.Lines
	}
	errs := sh.CheckOverlay(o)
	if why := overlay.Check(o.Lines); why != "" {
		errs = append(errs, &show.FieldError{Field: "lines", Text: why})
	}
	if len(errs) > 0 {
		return FieldErrors(errs)
	}
	return nil
}

// AddOverlay adds an overlay above the others, and returns its id.
func (s *Service) AddOverlay(who Who, f OverlayForm) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		o := &show.Overlay{ID: id, Position: len(sh.Overlays())}
		if err := f.onto(sh, o); err != nil {
			return "", err
		}
		d.Put(o)
		return "Add the overlay " + o.Name, nil
	})
}

// EditOverlay changes an overlay that was read at a revision.
func (s *Service) EditOverlay(who Who, id string, rev int64, f OverlayForm) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Overlay(id)
		if old == nil {
			return "", notFound("overlay")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		o := *old
		if err := f.onto(sh, &o); err != nil {
			return "", err
		}
		d.Put(&o)
		return "Change the overlay " + o.Name, nil
	})
}

// RemoveOverlay removes an overlay.
func (s *Service) RemoveOverlay(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		o := sh.Overlay(id)
		if o == nil {
			return "", notFound("overlay")
		}
		d.Delete(o.Ref())
		return "Remove the overlay " + o.Name, nil
	})
}
