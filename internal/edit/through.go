package edit

import (
	"fmt"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Through is how one could go through the pages of a zone by gestures, so that no key is lost to it.
type Through struct {
	Next layout.Way  `json:"next"`
	Back *layout.Way `json:"back,omitempty"`
	Text string      `json:"text"`
}

// PlanThrough proposes how one goes through the pages of a zone; nil: nothing has room for it, or there is only one page.
func PlanThrough(sh *show.Show, l *device.ControllerSheet, profile, zone string) *Through {
	pages := sh.PagesFor(profile, l.Type, zone)
	var controls []device.Control
	for _, c := range l.Controls() {
		if c.Zone == zone {
			controls = append(controls, c)
		}
	}
	var uses []map[string]layout.Use
	for _, p := range pages {
		use := map[string]layout.Use{}
		for _, c := range controls {
			if sh.Stands(p, c.ID) {
				use[c.ID] = layout.Use{Standing: true}
			} else if m := sh.MappingAt(p.ID, c.ID); m != nil {
				u := layout.Use{Guarded: m.Guard != nil && m.Guard.Kind == "hold"}
				for _, r := range m.Responses {
					u.Gestures = append(u.Gestures, r.Gesture)
				}
				use[c.ID] = u
			}
		}
		uses = append(uses, use)
	}
	next, back, ok := layout.Through(controls, uses)
	if !ok || len(pages) < 2 {
		return nil
	}
	t := &Through{Next: next, Text: fmt.Sprintf("A %s of %s goes to the next page", next.Gesture, next.Control)}
	if back.Control != "" {
		t.Back = &back
		t.Text += fmt.Sprintf(", a %s of %s to the one before", back.Gesture, back.Control)
	}
	t.Text += ": no key is lost."
	return t
}

// GoThrough puts on every page of a zone how one goes to the others, as PlanThrough proposes it.
func (s *Service) GoThrough(who Who, n NewPage) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		l := s.sheets.Controller(n.Layout)
		if l == nil || sh.Profile(n.Profile) == nil {
			return "", notFound("layout")
		}
		t := PlanThrough(sh, l, n.Profile, n.Zone)
		if t == nil {
			return "", FieldErrors{{Field: "zone", Text: "There is only one page, or no control has room for a gesture that goes to another."}}
		}
		for _, p := range sh.PagesFor(n.Profile, n.Layout, n.Zone) {
			respond(d, p.ID, t.Next, "page-next")
			if t.Back != nil {
				respond(d, p.ID, *t.Back, "page-previous")
			}
		}
		return "Go through the pages by " + t.Next.Gesture, nil
	})
}

// respond has a gesture of a control of a page change the page, beside whatever the control does.
func respond(d *show.Draft, page string, w layout.Way, action string) {
	call := show.Call{Device: program.SelfID, DeviceName: "Synaptor", Action: action, Params: map[string]string{"end": "go round"}}
	m := d.Now().MappingAt(page, w.Control)
	if m == nil {
		d.Put(newMapping(page, w.Control, w.Gesture, call))
		return
	}
	if slices.ContainsFunc(m.Responses, func(r show.Response) bool { return r.Gesture == w.Gesture }) {
		return // the same mapping was on a page before
	}
	c := *m
	c.Responses = append(append([]show.Response{}, m.Responses...), show.Response{Gesture: w.Gesture, Action: call})
	d.Put(&c)
}
