package edit

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"synaptor/internal/core/layout"
	"synaptor/internal/core/show"
)

// maxNote is the longest note, in characters.
//
//limit:count characters of a note | at the field
const maxNote = 120

// Notes says what is planned for the controls of a page, before they have anything
// to do. An empty note is taken away; controls that are not named keep theirs.
func (s *Service) Notes(who Who, page string, notes map[string]string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(page)
		if p == nil {
			return "", notFound("page")
		}
		with := *p
		with.Notes = maps.Clone(p.Notes)
		if with.Notes == nil {
			with.Notes = map[string]string{}
		}
		name := "Notes on " + p.Name
		for _, control := range slices.Sorted(maps.Keys(notes)) {
			text := strings.TrimSpace(notes[control])
			if _, _, err := s.onPage(sh, page, control); err != nil {
				return "", err
			}
			switch {
			case utf8.RuneCountInString(text) > maxNote:
				return "", FieldErrors{{Field: "notes." + control, Text: fmt.Sprintf("A note has at most %d characters.", maxNote)}}
			case text == "":
				delete(with.Notes, control)
			default:
				with.Notes[control] = text
			}
			if len(notes) == 1 {
				name = fmt.Sprintf("The note on %s of %s", control, p.Name)
			}
		}
		if len(with.Notes) == 0 {
			with.Notes = nil
		}
		d.Put(&with)
		return name, nil
	})
}

// clearPlanned takes the note off a control that has something to do now.
func clearPlanned(d *show.Draft, page, control string) {
	p := d.Page(page)
	if p == nil || p.Notes[control] == "" {
		return
	}
	without := *p
	without.Notes = maps.Clone(p.Notes)
	delete(without.Notes, control)
	if len(without.Notes) == 0 {
		without.Notes = nil
	}
	d.Put(&without)
}

// UnplacedRow is a mapping whose control its layout does not have any more.
type UnplacedRow struct {
	layout.Place
	Name     string `json:"name"`
	PageName string `json:"pageName"`
}

// Unplaced lists the mappings that have no control any more, because a controller
// sheet was made smaller.
func (s *Service) Unplaced() []UnplacedRow {
	snap := s.Program()
	out := []UnplacedRow{}
	for _, a := range layout.Unplaced(snap.Show, snap.Sheets.Controller) {
		row := UnplacedRow{Place: a, Name: snap.Show.Mapping(a.Mapping).Title(), PageName: "every page"}
		if p := snap.Show.Page(a.Page); p != nil {
			row.PageName = p.Name
		}
		out = append(out, row)
	}
	return out
}

// Back says which mapping is brought back to which control; an empty one takes it
// away for good.
type Back struct {
	Mapping string `json:"mapping"`
	Control string `json:"control"` // where it was
	Page    string `json:"page"`    // of where it was; empty: it stood on every page
	To      string `json:"to"`
	ToPage  string `json:"toPage"`
}

// BringBack gives a mapping that was kept aside another control, and returns the
// gestures that were left out because it cannot make them.
func (s *Service) BringBack(who Who, b Back) (left []string, err error) {
	return left, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Mapping(b.Mapping)
		if m == nil {
			return "", notFound("mapping")
		}
		c := m.Clone()
		i := slices.IndexFunc(c.Placements, func(p show.Placement) bool { return p.Control == b.Control && p.Page == b.Page })
		if i < 0 {
			return "", notFound("placement")
		}
		c.Placements = slices.Delete(c.Placements, i, i+1)
		if b.To == "" {
			if d.Put(c); len(c.Placements) == 0 {
				d.Delete(c.Ref())
			}
			return "Take away what was on " + b.Control, nil
		}
		p, l, err := s.onPage(sh, b.ToPage, b.To)
		if err != nil {
			return "", err
		}
		if err := standing(sh, p, b.To); err != nil {
			return "", err
		}
		if c, left, err = fitted(c, l, b.To); err != nil {
			return "", err
		}
		d.ClearPlacement(b.ToPage, b.To)
		c.Placements = append(c.Placements, show.Placement{Page: b.ToPage, Control: b.To})
		d.Put(c)
		return fmt.Sprintf("Bring %s back on %s of %s", b.Control, b.To, p.Name), nil
	})
}
