package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/parts"
	"synaptor/internal/core/show"
	"synaptor/internal/store"
)

// TakeParts takes pages, profiles, macros and reflexes of another show into the one that is open, as one edit, after a version was kept. from is
// what the other is called. Pictures that they need are given by picture; ok is false where it is none. only tells what would
// become of each part, and changes nothing.
func (s *Service) TakeParts(who Who, from string, other *show.Show, w parts.Wish, picture func(id string) (m store.Media, body []byte, ok bool), only bool) (rows []parts.Row, err error) {
	sheets := s.Sheets().Controller
	w.Owner = who.Person
	build := func(d *show.Draft, sh *show.Show) (string, error) {
		if len(w.Pages)+len(w.Profiles)+len(w.Macros)+len(w.Reflexes) == 0 {
			return "", FieldErrors{{Field: "pages", Text: "Tick a page, a profile, a macro or a reflex."}}
		}
		if rows, err = parts.Take(d, sh, other, w, sheets, newID); err != nil {
			return "", FieldErrors{{Field: "pages", Text: show.Sentence(err)}}
		}
		return fmt.Sprintf("Take %s from %s", taken(rows), from), nil
	}
	if only {
		err = s.try(who, func(d *show.Draft, sh *show.Show) (string, error) {
			name, err := build(d, sh)
			if err == nil {
				_, err = sh.Apply(d.Edit(name, 1))
			}
			return name, err
		})
		return rows, err
	}
	if err := s.KeepChanged("before taking from " + from); err != nil {
		return nil, err
	}
	err = s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		name, err := build(d, sh)
		if err != nil {
			return "", err
		}
		return name, s.takePictures(d.Now(), sh, picture)
	})
	return rows, err
}

// taken names what was taken because it was wished.
func taken(rows []parts.Row) string {
	var titles []string
	for _, r := range rows {
		if !slices.Contains([]show.Kind{show.KindDevice, show.KindController, show.KindTimer, show.KindOverlay}, r.Kind) {
			titles = append(titles, r.Title)
		}
	}
	if len(titles) > 3 {
		return fmt.Sprintf("%s and %d more", strings.Join(titles[:2], ", "), len(titles)-2)
	}
	return strings.Join(titles, ", ")
}

// takePictures adds the pictures that keys and overlays of a show have and those of the show before have not.
func (s *Service) takePictures(next, before *show.Show, picture func(id string) (store.Media, []byte, bool)) error {
	take := func(ids ...string) error {
		for _, id := range ids {
			if media, body, ok := picture(id); ok {
				if err := s.base().PutMedia(media, body); err != nil {
					return err
				}
			}
		}
		return nil
	}
	for _, o := range next.Overlays() {
		if before.Overlay(o.ID) == nil {
			if err := take(o.Picture); err != nil {
				return err
			}
		}
	}
	for _, m := range next.Mappings() {
		if before.Mapping(m.ID) != nil {
			continue
		}
		ids := []string{m.Face.Picture}
		for _, l := range m.Lamps {
			ids = append(ids, l.Picture)
		}
		for _, b := range m.Branches {
			ids = append(ids, b.Picture)
		}
		if err := take(ids...); err != nil {
			return err
		}
	}
	return nil
}
