package store

import (
	"crypto/cipher"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/show"
)

// Show is the database of one show.
type Show struct {
	db   *sqlx.DB
	seal cipher.AEAD // of the secrets
	note string      // what was wrong with their key
}

// OpenShow opens, or makes, a show in a folder of its own, with the key of its passwords. It fails with a *DamagedError
// where the file is damaged, and with a *NewerError where a newer Synaptor wrote it; the file is as it was then.
func OpenShow(dir string) (*Show, error) { return openIn(dir, dir) }

// openIn opens, or makes, the show in a folder; the key of its passwords is in another one.
func openIn(dir, keys string) (*Show, error) {
	if err := checkShow(dir); err != nil {
		return nil, err
	}
	db, err := open(dir, "show", "FULL")
	if unusable(err) {
		err = &DamagedError{filepath.Join(dir, "show.db"), err}
	}
	if err != nil {
		return nil, err
	}
	// What was written last goes into the file itself: less can be lost with the log beside it.
	if _, err := db.Exec(`PRAGMA wal_checkpoint(TRUNCATE)`); err != nil {
		_ = db.Close()
		return nil, fmt.Errorf("open the show: %w", err)
	}
	var secrets int
	if err := db.Get(&secrets, `SELECT count(*) FROM secret`); err != nil {
		_ = db.Close()
		return nil, fmt.Errorf("open the show: %w", err)
	}
	seal, note, err := loadKey(keys, secrets > 0)
	if err != nil {
		_ = db.Close()
		return nil, err
	}
	return &Show{db, seal, note}, nil
}

// Close closes the database.
func (s *Show) Close() error { return s.db.Close() }

// Load reads the show and the number of the last edit. A show that is damaged is repaired, by an
// edit that is stored; an entity that cannot be read is set aside. notes says what was wrong.
func (s *Show) Load() (sh *show.Show, last int64, notes []string, err error) {
	var rows []struct {
		Kind string
		ID   string
		Rev  int64
		Body []byte
	}
	if err := s.db.Select(&rows, `SELECT kind, id, rev, body FROM entity`); err != nil {
		return nil, 0, nil, fmt.Errorf("load the show: %w", err)
	}
	if err := s.db.Get(&last, `SELECT coalesce(max(seq), 0) FROM edit`); err != nil {
		return nil, 0, nil, fmt.Errorf("load the show: %w", err)
	}
	stored := make([]show.Change, len(rows))
	for i, r := range rows {
		stored[i] = show.Change{Ref: show.Ref{Kind: show.Kind(r.Kind), ID: r.ID}, Next: r.Rev, After: r.Body}
	}
	l, err := show.Load(stored, last+1)
	if err != nil {
		return nil, 0, nil, fmt.Errorf("load the show: %w", err)
	}
	if err := s.setAside(l.Unread); err != nil {
		return nil, 0, nil, fmt.Errorf("set aside what cannot be read: %w", err)
	}
	if len(l.Repair.Changes) > 0 {
		last++
		if err := s.Commit(last, "", "Synaptor", l.Repair); err != nil {
			return nil, 0, nil, fmt.Errorf("repair the show: %w", err)
		}
	}
	notes = l.Notes
	if s.note != "" {
		notes = append(notes, s.note)
	}
	return l.Show, last, notes, nil
}

// setAside moves entities that cannot be read to where they are in nobody's way.
func (s *Show) setAside(unread []show.Unread) error {
	if len(unread) == 0 {
		return nil
	}
	tx, err := s.db.Beginx()
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	for _, u := range unread {
		if _, err := tx.Exec(`INSERT INTO aside (kind, id, rev, body, at, why) SELECT kind, id, rev, body, ?, ? FROM entity WHERE kind = ? AND id = ?`,
			time.Now().UTC().Format(time.RFC3339), u.Why.Error(), u.Kind, u.ID); err != nil {
			return err
		}
		if _, err := tx.Exec(`DELETE FROM entity WHERE kind = ? AND id = ?`, u.Kind, u.ID); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// Edit states.
const (
	Done   = "done"
	Undone = "undone" // can be done again
	Gone   = "gone"   // undone, and another edit was made since
)

// EditRow is an edit in the log.
type EditRow struct {
	Seq     int64
	At      string
	Session string
	Actor   string
	Name    string
	Changes []byte
	State   string
}

// Edit gives the edit itself.
func (r EditRow) Edit() (show.Edit, error) {
	e := show.Edit{Name: r.Name}
	if err := json.Unmarshal(r.Changes, &e.Changes); err != nil {
		return e, fmt.Errorf("read edit %d: %w", r.Seq, err)
	}
	return e, nil
}

// Commit stores a new edit: its changes, its place in the log, and that what
// the session had undone cannot be done again.
func (s *Show) Commit(seq int64, session, actor string, e show.Edit) error {
	changes, err := json.Marshal(e.Changes)
	if err != nil {
		return fmt.Errorf("save %q: %w", e.Name, err)
	}
	return s.write(e, func(tx *sqlx.Tx) error {
		if _, err := tx.Exec(`UPDATE edit SET state = 'gone' WHERE session = ? AND state = 'undone'`, session); err != nil {
			return err
		}
		_, err := tx.Exec(`INSERT INTO edit (seq, at, session, actor, name, changes, state) VALUES (?, ?, ?, ?, ?, ?, 'done')`,
			seq, time.Now().UTC().Format(time.RFC3339Nano), session, actor, e.Name, string(changes))
		return err
	})
}

// Mark stores that an edit of the log was undone or done again; e is what that
// changes.
func (s *Show) Mark(seq int64, state string, e show.Edit) error {
	return s.write(e, func(tx *sqlx.Tx) error {
		_, err := tx.Exec(`UPDATE edit SET state = ? WHERE seq = ?`, state, seq)
		return err
	})
}

func (s *Show) write(e show.Edit, also func(*sqlx.Tx) error) error {
	tx, err := s.db.Beginx()
	if err != nil {
		return fmt.Errorf("save %q: %w", e.Name, err)
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	for _, c := range e.Changes {
		if c.After == nil {
			_, err = tx.Exec(`DELETE FROM entity WHERE kind = ? AND id = ?`, c.Kind, c.ID)
		} else {
			_, err = tx.Exec(`INSERT INTO entity (kind, id, rev, body) VALUES (?, ?, ?, ?)
				ON CONFLICT (kind, id) DO UPDATE SET rev = excluded.rev, body = excluded.body`, c.Kind, c.ID, c.Next, string(c.After))
		}
		if err != nil {
			return fmt.Errorf("save %q: %w", e.Name, err)
		}
	}
	if err := also(tx); err != nil {
		return fmt.Errorf("save %q: %w", e.Name, err)
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("save %q: %w", e.Name, err)
	}
	return nil
}

const editColumns = `SELECT seq, at, session, actor, name, changes, state FROM edit `

// Last returns the newest edit of a session in a state (the oldest for Undone,
// which is the one to do again next), or nil.
func (s *Show) Last(session, state string) (*EditRow, error) {
	order := "DESC"
	if state == Undone {
		order = "ASC"
	}
	return s.one(editColumns+`WHERE session = ? AND state = ? ORDER BY seq `+order+` LIMIT 1`, session, state)
}

// Pass has undo and redo pass over an edit for good.
func (s *Show) Pass(seq int64) error {
	if _, err := s.db.Exec(`UPDATE edit SET state = 'gone' WHERE seq = ?`, seq); err != nil {
		return fmt.Errorf("pass over edit %d: %w", seq, err)
	}
	return nil
}

// Before returns the newest edit of a session in a state that is older than one, or nil.
func (s *Show) Before(session, state string, seq int64) (*EditRow, error) {
	return s.one(editColumns+`WHERE session = ? AND state = ? AND seq < ? ORDER BY seq DESC LIMIT 1`, session, state, seq)
}

// Numbered returns an edit by its number, or nil.
func (s *Show) Numbered(seq int64) (*EditRow, error) { return s.one(editColumns+`WHERE seq = ?`, seq) }

func (s *Show) one(query string, args ...any) (*EditRow, error) {
	var r EditRow
	err := s.db.Get(&r, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the edits: %w", err)
	}
	return &r, nil
}

// History lists the newest edits that are done or undone, newest first.
func (s *Show) History(limit int) ([]EditRow, error) {
	rows := []EditRow{}
	if err := s.db.Select(&rows, editColumns+`WHERE state <> 'gone' ORDER BY seq DESC LIMIT ?`, limit); err != nil {
		return nil, fmt.Errorf("read the edits: %w", err)
	}
	return rows, nil
}

// keptEdits is how many of the newest edits stay in the list.
//
//limit:count edits that can be undone | in the list of edits
const keptEdits = 2000

// Tidy lets go of what nothing can reach any more. Of the edits, the newest 2,000 stay, for undo
// and the list; of older ones stays who made them and what they were called where something in the
// show is as they left it. Passwords go that neither the show nor an edit refers to. Pictures are
// in their library until somebody takes them out.
func (s *Show) Tidy() error {
	tx, err := s.db.Beginx()
	if err != nil {
		return fmt.Errorf("tidy the show: %w", err)
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	var oldest int64
	if err := tx.Get(&oldest, `SELECT coalesce(max(seq), 0) - ? FROM edit`, keptEdits); err != nil {
		return fmt.Errorf("tidy the show: %w", err)
	}
	for _, statement := range []string{
		`DELETE FROM edit WHERE seq <= ? AND seq NOT IN (SELECT rev FROM entity)`,
		`UPDATE edit SET state = 'gone', changes = '[]' WHERE seq <= ? AND changes <> '[]'`,
	} {
		if _, err := tx.Exec(statement, oldest); err != nil {
			return fmt.Errorf("tidy the edits: %w", err)
		}
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("tidy the show: %w", err)
	}
	return s.PurgeSecrets()
}
