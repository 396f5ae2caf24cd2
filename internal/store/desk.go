package store

import (
	"database/sql"
	"encoding/json"
	"errors"

	"synaptor/internal/core/show"
)

// Desk gives how somebody has arranged the Desk, by the person's id; empty: whoever sits at this computer. It is nil where nobody has.
func (s *Show) Desk(person string) (*show.Desk, error) {
	var body []byte
	err := s.db.Get(&body, `SELECT body FROM desk WHERE person IN (?, '') ORDER BY person = '' LIMIT 1`, person)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var d show.Desk
	return &d, json.Unmarshal(body, &d)
}

// SetDesk stores how somebody has arranged the Desk.
func (s *Show) SetDesk(person string, d show.Desk) error {
	body, err := json.Marshal(d)
	if err != nil {
		return err
	}
	_, err = s.db.Exec(`INSERT INTO desk (person, body) VALUES (?, ?) ON CONFLICT (person) DO UPDATE SET body = excluded.body`, person, string(body))
	return err
}
