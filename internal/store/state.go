package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// State is the database of what lives and is worth keeping, but is no edit:
// what devices were last known to have. Where it is damaged a new one is begun.
type State struct{ *spare }

// OpenState opens, or makes, the state in a data folder.
func OpenState(dir string) (*State, error) {
	s, err := openSpare(dir, "state", "record of what was shown last")
	if err != nil {
		return nil, err
	}
	return &State{s}, nil
}

// Named is a reading that names something.
type Named struct {
	Path  string `json:"path"`
	Value any    `json:"value"`
}

// Keep stores the names that a device was last known to have.
func (s *State) Keep(device string, names []Named) error {
	body, err := json.Marshal(names)
	if err != nil {
		return fmt.Errorf("store what a device has: %w", err)
	}
	err = s.do(func(db *sqlx.DB) error {
		_, err := db.Exec(`INSERT INTO known (device, body) VALUES (?, ?) ON CONFLICT (device) DO UPDATE SET body = excluded.body`, device, string(body))
		return err
	})
	if err != nil {
		return fmt.Errorf("store what a device has: %w", err)
	}
	return nil
}

// Known gives what was last stored of a device; nil when nothing was.
func (s *State) Known(device string) ([]Named, error) {
	var body []byte
	err := s.do(func(db *sqlx.DB) error { return db.Get(&body, `SELECT body FROM known WHERE device = ?`, device) })
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	var out []Named
	if err == nil {
		err = json.Unmarshal(body, &out)
	}
	if err != nil {
		return nil, fmt.Errorf("read what a device has: %w", err)
	}
	return out, nil
}

// Put stores a value under a name.
func (s *State) Put(name string, value any) error {
	body, err := json.Marshal(value)
	if err == nil {
		err = s.do(func(db *sqlx.DB) error {
			_, err := db.Exec(`INSERT INTO live (name, body) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET body = excluded.body`, name, string(body))
			return err
		})
	}
	if err != nil {
		return fmt.Errorf("store %s: %w", name, err)
	}
	return nil
}

// Get reads a value; where none is stored into stays as it is.
func (s *State) Get(name string, into any) error {
	var body []byte
	err := s.do(func(db *sqlx.DB) error { return db.Get(&body, `SELECT body FROM live WHERE name = ?`, name) })
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err == nil {
		err = json.Unmarshal(body, into)
	}
	if err != nil {
		return fmt.Errorf("read %s: %w", name, err)
	}
	return nil
}
