package shows

import (
	"context"
	"fmt"

	"synaptor/internal/archive"
	"synaptor/internal/core/parts"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/store"
)

// Import adds the show of an archive, with its pictures, all or nothing. It is not opened. Passwords are in no archive:
// they are entered again, unless they were sealed: passphrase opens those that were sealed; empty: they are left out.
func (s *Service) Import(ctx context.Context, who edit.Who, a archive.Archive, name, passphrase string) (id string, err error) {
	passwords := map[string]string{}
	if passphrase != "" {
		if passwords, err = a.Passwords(passphrase); err != nil {
			return "", edit.FieldErrors{{Field: "passphrase", Text: "This passphrase does not open the passwords of the archive."}}
		}
	}
	if name, err = checkName(name); err != nil {
		return "", err
	}
	pictures, err := s.pictures(ctx, a)
	if err != nil {
		return "", err
	}
	d := show.NewDraft(show.Empty())
	for _, r := range a.Show.Refs() {
		d.Put(a.Show.Get(r))
	}
	for _, r := range a.Show.Reflexes() {
		c := *r
		c.Owner = who.Person // an archive lends nobody's rights
		d.Put(&c)
	}
	settings := *a.Show.Settings()
	settings.Name = name
	d.Put(&settings)
	s.mu.Lock()
	defer s.mu.Unlock()
	id = store.NewShowID()
	return id, s.lib.MakeWith(id, func(db *store.Show) error {
		for _, dev := range a.Show.Devices() {
			if text, has := passwords[dev.ID]; has {
				c := *dev
				if c.Secret, err = db.PutSecret(text); err != nil {
					return err
				}
				d.Put(&c)
			}
		}
		for _, p := range pictures {
			if err := db.PutMedia(p.Media, p.body); err != nil {
				return err
			}
		}
		return db.Commit(1, who.Session, who.Actor, d.Edit("Import "+name, 1))
	})
}

type picture struct {
	store.Media
	body []byte
}

// pictures checks the pictures of an archive as if somebody had added them one by one.
func (s *Service) pictures(ctx context.Context, a archive.Archive) (out []picture, err error) {
	for _, m := range a.Media {
		p, err := s.live.Edit.CheckMedia(ctx, m.Name, m.Body)
		if err != nil {
			return nil, edit.FieldErrors{{Field: "archive", Text: fmt.Sprintf("The picture %q of this archive is not taken: %v.", m.Name, err)}}
		}
		if p.ID != m.ID {
			return nil, edit.FieldErrors{{Field: "archive", Text: fmt.Sprintf("The picture %q of this archive is of a sort that Synaptor keeps otherwise; add it by hand.", m.Name)}}
		}
		p.Tags = m.Tags
		out = append(out, picture{p, m.Body})
	}
	return out, nil
}

// Passwords are those of the devices of the show that is open, by device.
func (s *Service) Passwords() (map[string]string, error) {
	out := map[string]string{}
	for _, d := range s.live.Edit.Program().Show.Devices() {
		if d.Secret == "" {
			continue
		}
		text, err := s.live.Edit.Password(d.Secret)
		if err != nil {
			return nil, fmt.Errorf("the password of %s: %w", d.Name, err)
		}
		out[d.ID] = text
	}
	return out, nil
}

// Export gives the show that is open as an archive, with its pictures but without what devices say now.
func (s *Service) Export() (a archive.Archive, err error) {
	a.Show = s.live.Edit.Program().Show.WithoutScratch()
	list, err := s.live.Edit.AllMedia()
	if err != nil {
		return a, err
	}
	for _, m := range list {
		body, _, err := s.live.Edit.MediaBody(m.ID)
		if err != nil {
			return a, err
		}
		a.Media = append(a.Media, archive.Picture{ID: m.ID, Name: m.Name, Kind: m.Kind, Width: m.Width, Height: m.Height, Frames: m.Frames, Tags: m.Tags, Body: body})
	}
	a.Sort()
	return a, nil
}

// TakeParts takes pages, profiles, macros and reflexes of an archive into the show that is open; only tells what would become of each.
func (s *Service) TakeParts(ctx context.Context, who edit.Who, a archive.Archive, w parts.Wish, only bool) ([]parts.Row, error) {
	checked := map[string]picture{}
	if !only {
		list, err := s.pictures(ctx, a)
		if err != nil {
			return nil, err
		}
		for _, p := range list {
			checked[p.ID] = p
		}
	}
	return s.live.Edit.TakeParts(who, a.Show.Settings().Name, a.Show, w, func(id string) (store.Media, []byte, bool) {
		p, has := checked[id]
		return p.Media, p.body, has
	}, only)
}
