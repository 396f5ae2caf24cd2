package edit

import (
	"fmt"
	"strings"

	"synaptor/internal/core/show"
)

// Stand has a mapping stay on every page of a zone, or on one page only. over names the keys that
// it hides from now on, or that it takes the place of.
func (s *Service) Stand(who Who, id string, stands bool, page string) (over []string, err error) {
	return over, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m, p, err := s.standable(sh, id, page)
		if err != nil {
			return "", err
		}
		control := m.Placements[0].Control
		if !stands {
			if there := sh.MappingAt(page, control); there != nil && there.ID != id {
				over = append(over, s.called(there))
			}
			d.ClearPlacement(page, control)
			m.Placements = []show.Placement{{Page: page, Control: control}}
			d.Put(m)
			return fmt.Sprintf("%s stands on %s only%s", s.called(m), p.Name, inPlaceOf(over)), nil
		}
		at := show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}
		m.Placements = []show.Placement{{Standing: &at, Control: control}}
		d.Put(m)
		for _, other := range sh.PagesFor(p.Profile, p.Layout, p.Zone) {
			if there := sh.MappingAt(other.ID, control); there != nil && there.ID != id {
				over = append(over, s.called(there)+" on "+other.Name)
			}
		}
		return fmt.Sprintf("%s stands on every page", s.called(m)), nil
	})
}

// standable gives a mapping to be changed, with the page that it is looked at on: a page of its
// layout and zone that has its control.
func (s *Service) standable(sh *show.Show, id, page string) (*show.Mapping, *show.Page, error) {
	m := sh.Mapping(id)
	if m == nil || len(m.Placements) == 0 {
		return nil, nil, notFound("mapping")
	}
	p := sh.Page(page)
	if p == nil {
		return nil, nil, notFound("page")
	}
	at := m.Placements[0]
	on := show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}
	here := at.Standing != nil && *at.Standing == on
	if was := sh.Page(at.Page); was != nil {
		here = was.Profile == p.Profile && was.Layout == p.Layout && was.Zone == p.Zone
	}
	l := s.Program().Sheets.Controller(p.Layout)
	if l == nil || !here {
		return nil, nil, FieldErrors{{Field: "page", Text: fmt.Sprintf("%s is not a page that this key can be on.", p.Name)}}
	}
	if c, has := l.Control(at.Control); !has || c.Zone != p.Zone {
		return nil, nil, FieldErrors{{Field: "page", Text: fmt.Sprintf("The layout of %s has no control %s there.", p.Name, at.Control)}}
	}
	return m.Clone(), p, nil
}

// inPlaceOf ends the name of an edit that takes keys away.
func inPlaceOf(over []string) string {
	if len(over) == 0 {
		return ""
	}
	return ", in place of " + strings.Join(over, ", ")
}
