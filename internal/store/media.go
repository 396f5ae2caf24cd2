package store

import (
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// Media is a picture of the library, without its bytes.
type Media struct {
	ID     string `db:"id" json:"id"`
	Name   string `db:"name" json:"name"`
	Kind   string `db:"kind" json:"kind"`     // a media type, such as image/png
	Width  int    `db:"width" json:"width"`   // pixels
	Height int    `db:"height" json:"height"` // pixels
	Frames int    `db:"frames" json:"frames"` // of an animation; else 1
	Tags   string `db:"tags" json:"tags"`     // words with spaces between
	Bytes  int    `db:"bytes" json:"bytes"`
	Added  string `db:"added" json:"added"` // RFC 3339
}

const mediaColumns = `id, name, kind, width, height, frames, tags, added, length(body) AS bytes`

// PutMedia stores a picture under the id of its bytes. One that is there already
// stays as it is.
func (s *Show) PutMedia(m Media, body []byte) error {
	_, err := s.db.Exec(`INSERT INTO media (id, name, kind, width, height, frames, tags, added, body) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
		m.ID, m.Name, m.Kind, m.Width, m.Height, m.Frames, m.Tags, time.Now().UTC().Format(time.RFC3339), body)
	if err != nil {
		return fmt.Errorf("store a picture: %w", err)
	}
	return nil
}

// AllMedia lists the library, newest first.
func (s *Show) AllMedia() ([]Media, error) {
	out := []Media{}
	if err := s.db.Select(&out, `SELECT `+mediaColumns+` FROM media ORDER BY added DESC, name`); err != nil {
		return nil, fmt.Errorf("list the pictures: %w", err)
	}
	return out, nil
}

// HasMedia tells whether a picture is in the library.
func (s *Show) HasMedia(id string) (has bool, err error) {
	if err = s.db.Get(&has, `SELECT EXISTS (SELECT 1 FROM media WHERE id = ?)`, id); err != nil {
		return false, fmt.Errorf("look for a picture: %w", err)
	}
	return has, nil
}

// MediaBody reads a picture and its media type; ok is false when there is none.
func (s *Show) MediaBody(id string) (body []byte, kind string, ok bool, err error) {
	var row struct {
		Kind string
		Body []byte
	}
	err = s.db.Get(&row, `SELECT kind, body FROM media WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, "", false, nil
	}
	if err != nil {
		return nil, "", false, fmt.Errorf("read a picture: %w", err)
	}
	return row.Body, row.Kind, true, nil
}

// NameMedia gives a picture another name and tags; ok is false when there is none.
func (s *Show) NameMedia(id, name, tags string) (ok bool, err error) {
	r, err := s.db.Exec(`UPDATE media SET name = ?, tags = ? WHERE id = ?`, name, tags, id)
	if err != nil {
		return false, fmt.Errorf("name a picture: %w", err)
	}
	n, err := r.RowsAffected()
	return n > 0, err
}

// DeleteMedia removes a picture that neither the show nor any edit or version refers to;
// ok is false when one does.
func (s *Show) DeleteMedia(id string) (ok bool, err error) {
	r, err := s.db.Exec(`DELETE FROM media WHERE id = ? AND
		NOT EXISTS (SELECT 1 FROM entity WHERE kind = 'mapping' AND instr(body, media.id) > 0) AND
		NOT EXISTS (SELECT 1 FROM edit WHERE instr(changes, media.id) > 0) AND
		NOT EXISTS (SELECT 1 FROM version WHERE instr(needs, media.id) > 0)`, id)
	if err != nil {
		return false, fmt.Errorf("delete a picture: %w", err)
	}
	n, err := r.RowsAffected()
	return n > 0, err
}
