package store

import (
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/journal"
)

// ofShow and failed are conditions of the questions below: entries of a show in a time, and those that went wrong.
const (
	ofShow = `FROM entry WHERE +show IN (?, '') AND id >= ? AND id <= ?`
	failed = `outcome IN ('refused', 'dropped', 'failed', 'unconfirmed', 'disagreed')`
)

// span gives what bounds the entries of a show in a time: false where there are none. A night is what happened between the first and the last of them, in the
// order in which it happened: entries have their place in it also where the clock was set back meanwhile.
func span(db *sqlx.DB, show string, from, to time.Time) (args []any, some bool, err error) {
	first, last, err := ids(db, "at >= ? AND at <= ?", from.Unix(), to.Unix())
	return []any{show, first, last}, first != "", err
}

// Uses implements night.Journal: how often each control was used, the most used first.
func (j *Journal) Uses(show string, from, to time.Time, most int) (out []journal.Use, err error) {
	err = j.do(func(db *sqlx.DB) error {
		out = []journal.Use{}
		args, some, err := span(db, show, from, to)
		if err != nil || !some {
			return err
		}
		// By the index alone: the entries themselves are many, and long.
		err = db.Select(&out, `SELECT controller, control, count(*) AS n, sum(`+failed+`) AS failed FROM entry
			WHERE +show IN (?, '') AND +id >= ? AND +id <= ? AND +control <> '' GROUP BY controller, control ORDER BY n DESC, controller, control LIMIT ?`, append(args, most)...)
		for i := range out {
			if err == nil {
				err = called(db, &out[i], args)
			}
		}
		return err
	})
	if err != nil {
		err = fmt.Errorf("read the journal: %w", err)
	}
	return out, err
}

// called says of a control what its controller is called, and what it was to do last.
func called(db *sqlx.DB, u *journal.Use, args []any) error {
	var row entryRow
	err := db.Get(&row, `SELECT id, body FROM entry WHERE controller = ? AND control = ? AND id <= ? ORDER BY id DESC LIMIT 1`, u.Controller, u.Control, args[2])
	if err == nil {
		e := row.entry()
		u.Name, u.Title = e.ControllerName, e.Title
	}
	return err
}

// Slowest implements night.Journal: the entries that were confirmed last, the slowest first.
func (j *Journal) Slowest(show string, from, to time.Time, most int) ([]journal.Entry, error) {
	return j.some(show, from, to, ` AND outcome = 'confirmed' AND json_extract(body, '$.latencyUs') > 0 ORDER BY json_extract(body, '$.latencyUs') DESC, id LIMIT ?`, most)
}

// Troubles implements night.Journal: what was refused or went wrong, the oldest first, and how many there are in all.
func (j *Journal) Troubles(show string, from, to time.Time, most int) (list []journal.Entry, all int, err error) {
	err = j.do(func(db *sqlx.DB) error {
		args, some, err := span(db, show, from, to)
		if err != nil || !some {
			return err
		}
		return db.Get(&all, `SELECT count(*) `+ofShow+` AND `+failed, args...)
	})
	if err != nil {
		return nil, 0, fmt.Errorf("read the journal: %w", err)
	}
	list, err = j.some(show, from, to, ` AND `+failed+` ORDER BY id LIMIT ?`, most)
	return list, all, err
}

// Landed implements night.Journal: runs with togethers, the oldest first.
func (j *Journal) Landed(show string, from, to time.Time, most int) ([]journal.Entry, error) {
	return j.some(show, from, to, ` AND json_array_length(body, '$.together') > 0 ORDER BY id LIMIT ?`, most)
}

func (j *Journal) some(show string, from, to time.Time, rest string, most int) (out []journal.Entry, err error) {
	var rows []entryRow
	err = j.do(func(db *sqlx.DB) error {
		rows = nil
		args, some, err := span(db, show, from, to)
		if err != nil || !some {
			return err
		}
		return db.Select(&rows, `SELECT id, body `+ofShow+rest, append(args, most)...)
	})
	if err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	out = make([]journal.Entry, len(rows))
	for i, r := range rows {
		out[i] = r.entry()
	}
	return out, nil
}
