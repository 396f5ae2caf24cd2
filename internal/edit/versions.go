package edit

import (
	"fmt"
	"strings"

	"synaptor/internal/core/show"
	"synaptor/internal/core/version"
	"synaptor/internal/store"
)

// manyGone is how many things an edit removes for a version to be kept before it.
const manyGone = 10

// Version is a state of the show that is kept.
type Version struct {
	ID   int64  `json:"id"`
	At   string `json:"at"`
	Name string `json:"name"` // empty: it was kept by itself
	Why  string `json:"why"`
	By   string `json:"by"`
	// Bytes is what it takes, compressed.
	Bytes int64 `json:"bytes"`
	// Now says that the show is as it was then.
	Now bool `json:"now"`
}

// Versions lists the states that are kept, newest first.
func (s *Service) Versions() ([]Version, error) {
	rows, err := s.base().Versions()
	if err != nil {
		return nil, err
	}
	last, out := s.Last(), make([]Version, len(rows))
	for i, v := range rows {
		out[i] = Version{v.ID, v.At, v.Name, v.Why, v.Actor, v.Bytes, v.Seq == last}
	}
	return out, nil
}

// KeepVersion keeps the show as it is, under a name.
func (s *Service) KeepVersion(who Who, name string) (int64, error) {
	name = strings.TrimSpace(name)
	if text := show.CheckName(name); text != "" {
		return 0, FieldErrors{{Field: "name", Text: text}}
	}
	s.mu.Lock()
	sh, seq, db := s.show, s.seq, s.base()
	s.mu.Unlock()
	return db.KeepVersion(store.Version{Name: name, Why: "kept by hand", Actor: who.Actor, Seq: seq}, sh)
}

// KeepChanged keeps the show as it is, unless no edit was made since a state of it was kept last.
func (s *Service) KeepChanged(why string) error {
	s.mu.Lock()
	sh, seq, db := s.show, s.seq, s.base()
	s.mu.Unlock()
	return keepChanged(db, sh, seq, why, "Synaptor")
}

func keepChanged(db *store.Show, sh *show.Show, seq int64, why, actor string) error {
	list, err := db.Versions()
	if err != nil {
		return err
	}
	if seq == 0 || len(list) > 0 && list[0].Seq == seq {
		return nil
	}
	_, err = db.KeepVersion(store.Version{Why: why, Actor: actor, Seq: seq}, sh)
	return err
}

// before keeps the show as it is where an edit is about to take much away; the lock is held.
func (s *Service) before(who Who, e show.Edit) error {
	n := 0
	for _, c := range e.Changes {
		if c.After == nil {
			n++
		}
	}
	if n <= manyGone {
		return nil
	}
	return keepChanged(s.base(), s.show, s.seq, "before “"+e.Name+"”", who.Actor)
}

// versionOf reads a state that is kept; 0 is the show as it is.
func (s *Service) versionOf(id int64) (*show.Show, error) {
	if id == 0 {
		s.mu.Lock()
		defer s.mu.Unlock()
		return s.show, nil
	}
	sh, err := s.base().VersionShow(id)
	if err == nil && sh == nil {
		err = notFound("version")
	}
	return sh, err
}

// CompareVersions tells what has changed from one state to another; 0 is the show as it is.
func (s *Service) CompareVersions(from, to int64) ([]version.Difference, error) {
	a, err := s.versionOf(from)
	if err != nil {
		return nil, err
	}
	b, err := s.versionOf(to)
	if err != nil {
		return nil, err
	}
	return version.Compare(a, b), nil
}

// Restore has the show become what it was in a version, or just some things of it; as an edit, which can be undone.
func (s *Service) Restore(who Who, id int64, only []show.Ref) error {
	then, err := s.versionOf(id)
	if err != nil {
		return err
	}
	called := s.calledVersion(id)
	if len(only) == 0 {
		if err := s.KeepChanged("before going back to " + called); err != nil {
			return err
		}
	}
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		if len(only) == 0 {
			version.Whole(d, sh, then)
			return "Go back to " + called, nil
		}
		titles := []string{}
		for _, r := range only {
			if !version.Part(d, sh, then, r) {
				return "", notFound(string(r.Kind))
			}
			e := then.Get(r)
			if e == nil {
				e = sh.Get(r)
			}
			titles = append(titles, e.Title())
		}
		return fmt.Sprintf("Take back %s as in %s", strings.Join(titles, ", "), called), nil
	})
}

// calledVersion is how a version is spoken of.
func (s *Service) calledVersion(id int64) string {
	list, err := s.base().Versions()
	if err != nil {
		return "a version"
	}
	for _, v := range list {
		if v.ID == id && v.Name != "" {
			return "“" + v.Name + "”"
		} else if v.ID == id {
			return "the version of " + strings.NewReplacer("T", " ", "Z", " UTC").Replace(v.At)
		}
	}
	return "a version"
}

// NameVersion gives a version a name, so that it stays.
func (s *Service) NameVersion(id int64, name string) error {
	name = strings.TrimSpace(name)
	if text := show.CheckName(name); text != "" {
		return FieldErrors{{Field: "name", Text: text}}
	}
	return found(s.base().NameVersion(id, name))
}

// DropVersion lets go of a version.
func (s *Service) DropVersion(id int64) error { return found(s.base().DropVersion(id)) }

func found(ok bool, err error) error {
	if err == nil && !ok {
		return notFound("version")
	}
	return err
}
