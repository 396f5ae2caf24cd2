package store

import (
	"bytes"
	"compress/gzip"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/show"
	"synaptor/internal/core/version"
)

// Version is a state of the show that is kept, without the state itself.
type Version struct {
	ID    int64  `db:"id"`
	At    string `db:"at"`   // RFC 3339
	Name  string `db:"name"` // empty: it was kept by itself
	Why   string `db:"why"`
	Actor string `db:"actor"`
	Seq   int64  `db:"seq"` // the last edit that is in it
	Bytes int64  `db:"bytes"`
}

const (
	//limit:bytes the versions of a show that have no name | the oldest go
	maxVersions = 64 << 20
	//limit:bytes a version of a show, unpacked | when it is read
	maxVersion = 256 << 20
	//limit:bytes a thing of a version | when it is read
	maxVersionThing = 1 << 20
	//limit:count things of a version | when it is read
	maxVersionThings = 120_000
)

// KeepVersion keeps a state of the show, and lets go of those that are too old for that.
func (s *Show) KeepVersion(v Version, sh *show.Show) (id int64, err error) {
	var body bytes.Buffer
	z, _ := gzip.NewWriterLevel(&body, gzip.BestSpeed) // the level is one
	text := sh.Canonical()
	if _, err := z.Write(text); err != nil {
		return 0, err
	}
	if err := z.Close(); err != nil {
		return 0, err
	}
	r, err := s.db.Exec(`INSERT INTO version (at, name, why, actor, seq, needs, body) VALUES (?, ?, ?, ?, ?, ?, ?)`,
		time.Now().UTC().Format(time.RFC3339), v.Name, v.Why, v.Actor, v.Seq, needs(sh), body.Bytes())
	if err != nil {
		return 0, fmt.Errorf("keep a version: %w", err)
	}
	if id, err = r.LastInsertId(); err != nil {
		return 0, fmt.Errorf("keep a version: %w", err)
	}
	return id, s.thinVersions(time.Now())
}

// needs lists the passwords and pictures that a show refers to, so that they are not let go of.
func needs(sh *show.Show) string {
	ids := map[string]bool{}
	for _, d := range sh.Devices() {
		ids[d.Secret] = true
	}
	sh.EachMapping(func(m *show.Mapping) {
		ids[m.Face.Picture] = true
		for _, l := range m.Lamps {
			ids[l.Picture] = true
		}
		for _, b := range m.Branches {
			ids[b.Picture] = true
		}
	})
	for _, o := range sh.Overlays() {
		ids[o.Picture] = true
	}
	delete(ids, "")
	return strings.Join(slices.Sorted(maps.Keys(ids)), " ")
}

func (s *Show) thinVersions(now time.Time) error {
	list, err := s.Versions()
	if err != nil {
		return err
	}
	kept := make([]version.Kept, len(list))
	for i, v := range list {
		at, err := time.Parse(time.RFC3339, v.At)
		if err != nil {
			at = now // it stays
		}
		kept[i] = version.Kept{ID: v.ID, At: at, Named: v.Name != "", Bytes: v.Bytes}
	}
	gone := version.Thin(kept, now, maxVersions)
	if len(gone) == 0 {
		return nil
	}
	query, args, err := sqlx.In(`DELETE FROM version WHERE id IN (?)`, gone)
	if err == nil {
		_, err = s.db.Exec(query, args...)
	}
	if err != nil {
		return fmt.Errorf("let go of old versions: %w", err)
	}
	return nil
}

// Versions lists the states that are kept, newest first.
func (s *Show) Versions() ([]Version, error) {
	out := []Version{}
	if err := s.db.Select(&out, `SELECT id, at, name, why, actor, seq, length(body) AS bytes FROM version ORDER BY id DESC`); err != nil {
		return nil, fmt.Errorf("list the versions: %w", err)
	}
	return out, nil
}

// VersionShow reads a state that is kept; nil where there is none.
func (s *Show) VersionShow(id int64) (*show.Show, error) {
	var body []byte
	err := s.db.Get(&body, `SELECT body FROM version WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read a version: %w", err)
	}
	z, err := gzip.NewReader(bytes.NewReader(body))
	if err != nil {
		return nil, fmt.Errorf("this version is damaged: %w", err)
	}
	sh, err := show.Read(io.LimitReader(z, maxVersion), maxVersionThing, maxVersionThings)
	if err != nil {
		return nil, fmt.Errorf("this version cannot be read: %w", err)
	}
	return sh, nil
}

// NameVersion gives a state that is kept a name, so that it stays; ok is false where there is none.
func (s *Show) NameVersion(id int64, name string) (ok bool, err error) {
	return s.affects(`UPDATE version SET name = ? WHERE id = ?`, name, id)
}

// DropVersion lets go of a state; ok is false where there is none.
func (s *Show) DropVersion(id int64) (ok bool, err error) {
	return s.affects(`DELETE FROM version WHERE id = ?`, id)
}

func (s *Show) affects(query string, args ...any) (bool, error) {
	r, err := s.db.Exec(query, args...)
	if err != nil {
		return false, fmt.Errorf("change the versions: %w", err)
	}
	n, err := r.RowsAffected()
	return n > 0, err
}
