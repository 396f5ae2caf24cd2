package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/markers"
)

// maxMarkers is how many markers are kept, of all shows.
//
//limit:count markers on the disk, of all shows | nowhere; the oldest go
const maxMarkers = 50_000

// SaveMarkers implements journal.MarkerStore.
func (j *Journal) SaveMarkers(list []markers.Marker) error {
	return InWords(j.do(func(db *sqlx.DB) error {
		tx, err := db.Beginx()
		if err != nil {
			return fmt.Errorf("write a marker: %w", err)
		}
		defer func() { _ = tx.Rollback() }() // after Commit it does nothing
		for _, m := range list {
			body, err := json.Marshal(m)
			if err != nil {
				return fmt.Errorf("write a marker: %w", err)
			}
			if _, err := tx.Exec(`INSERT INTO marker (id, at, show, body) VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET at = excluded.at, body = excluded.body`,
				m.ID, m.At.UnixMicro(), m.Show, string(body)); err != nil {
				return fmt.Errorf("write a marker: %w", err)
			}
		}
		if _, err := tx.Exec(`DELETE FROM marker WHERE id IN (SELECT id FROM marker ORDER BY id DESC LIMIT -1 OFFSET ?)`, maxMarkers); err != nil {
			return fmt.Errorf("write a marker: %w", err)
		}
		return tx.Commit()
	}))
}

// DropMarker implements journal.MarkerStore.
func (j *Journal) DropMarker(id string) (was bool, err error) {
	err = j.do(func(db *sqlx.DB) error {
		r, err := db.Exec(`DELETE FROM marker WHERE id = ?`, id)
		if err == nil {
			n, _ := r.RowsAffected() // this driver always knows
			was = n > 0
		}
		return err
	})
	return was, InWords(err)
}

// Marker implements journal.MarkerStore.
func (j *Journal) Marker(id string) (*markers.Marker, error) {
	var body []byte
	err := j.do(func(db *sqlx.DB) error { return db.Get(&body, `SELECT body FROM marker WHERE id = ?`, id) })
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read a marker: %w", err)
	}
	var m markers.Marker
	return &m, json.Unmarshal(body, &m)
}

// Markers implements journal.MarkerStore.
func (j *Journal) Markers(show string, from, to time.Time) ([]markers.Marker, error) {
	var bodies [][]byte
	err := j.do(func(db *sqlx.DB) error {
		bodies = nil
		return db.Select(&bodies, `SELECT body FROM marker WHERE show = ? AND at >= ? AND at < ? ORDER BY at, id`, show, from.UnixMicro(), to.UnixMicro())
	})
	if err != nil {
		return nil, fmt.Errorf("read the markers: %w", err)
	}
	out := []markers.Marker{}
	for _, b := range bodies {
		var m markers.Marker
		if json.Unmarshal(b, &m) == nil { // one that is damaged is left out
			out = append(out, m)
		}
	}
	return out, nil
}
