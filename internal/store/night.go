package store

import (
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/journal"
)

// ofShow and failed are conditions of the questions below: entries of a show in a time, and those that went wrong.
const (
	ofShow = `FROM entry WHERE +show IN (?, '') AND id >= ? AND id <= ? AND at >= ? AND at <= ?`
	failed = `outcome IN ('refused', 'dropped', 'failed', 'unconfirmed', 'disagreed')`
)

// span gives what bounds the entries of a show in a time: false where there are none. Entries come in the order of their ids but for those that came while the
// clock was set back; these are looked for by their time.
func span(db *sqlx.DB, show string, from, to time.Time) (args []any, some bool, err error) {
	var ids struct{ First, Last *string }
	err = db.Get(&ids, `SELECT min(id) AS first, max(id) AS last FROM entry WHERE at >= ? AND at <= ?`, from.Unix(), to.Unix())
	if err != nil || ids.First == nil {
		return nil, false, err
	}
	return []any{show, *ids.First, *ids.Last, from.Unix(), to.Unix()}, true, nil
}

// Uses implements night.Journal: how often each control was used, the most used first.
func (j *Journal) Uses(show string, from, to time.Time, most int) (out []journal.Use, err error) {
	err = j.do(func(db *sqlx.DB) error {
		out = []journal.Use{}
		args, some, err := span(db, show, from, to)
		if err != nil || !some {
			return err
		}
		return db.Select(&out, `SELECT controller, max(json_extract(body, '$.controllerName')) AS name, control, max(json_extract(body, '$.title')) AS title, count(*) AS n, sum(`+failed+`) AS failed
			`+ofShow+` AND control <> '' GROUP BY controller, control ORDER BY n DESC, controller, control LIMIT ?`, append(args, most)...)
	})
	if err != nil {
		err = fmt.Errorf("read the journal: %w", err)
	}
	return out, err
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
