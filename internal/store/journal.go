package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/journal"
)

// maxEntries caps the journal's file; the oldest entries go first.
const maxEntries = 200_000

// Journal is the database of the journal. It implements journal.Store.
type Journal struct {
	db    *sqlx.DB
	saves int
}

// OpenJournal opens, or makes, the journal in a data folder.
func OpenJournal(dir string) (*Journal, error) {
	db, err := open(dir, "journal", "NORMAL")
	if err != nil {
		return nil, err
	}
	return &Journal{db: db}, nil
}

// Close closes the database.
func (j *Journal) Close() error { return j.db.Close() }

// Save implements journal.Store.
func (j *Journal) Save(entries []journal.Entry) error {
	tx, err := j.db.Beginx()
	if err != nil {
		return fmt.Errorf("write the journal: %w", err)
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	for _, e := range entries {
		body, err := json.Marshal(e)
		if err != nil {
			return fmt.Errorf("write the journal: %w", err)
		}
		if _, err := tx.Exec(`INSERT INTO entry (id, body) VALUES (?, ?) ON CONFLICT (id) DO UPDATE SET body = excluded.body`, e.ID, string(body)); err != nil {
			return fmt.Errorf("write the journal: %w", err)
		}
	}
	if j.saves++; j.saves%500 == 0 {
		_, err = tx.Exec(`DELETE FROM entry WHERE id <= (SELECT id FROM entry ORDER BY id DESC LIMIT 1 OFFSET ?)`, maxEntries)
		if err != nil {
			return fmt.Errorf("write the journal: %w", err)
		}
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("write the journal: %w", err)
	}
	return nil
}

// Load implements journal.Store.
func (j *Journal) Load(before string, limit int) ([]journal.Entry, error) {
	var bodies [][]byte
	if err := j.db.Select(&bodies, `SELECT body FROM entry WHERE ? = '' OR id < ? ORDER BY id DESC LIMIT ?`, before, before, limit); err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	out := make([]journal.Entry, len(bodies))
	for i, b := range bodies {
		if err := json.Unmarshal(b, &out[i]); err != nil {
			return nil, fmt.Errorf("read the journal: %w", err)
		}
	}
	return out, nil
}

// One implements journal.Store.
func (j *Journal) One(id string) (*journal.Entry, error) {
	var body []byte
	err := j.db.Get(&body, `SELECT body FROM entry WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	var e journal.Entry
	if err := json.Unmarshal(body, &e); err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	return &e, nil
}
