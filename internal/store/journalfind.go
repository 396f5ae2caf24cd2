package store

import (
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/journal"
)

// indexes are those by which entries are found. A journal that had none gets them behind.
var indexes = []string{
	`CREATE INDEX IF NOT EXISTS entry_at ON entry (at, id)`,
	`CREATE INDEX IF NOT EXISTS entry_control ON entry (controller, control, id)`,
	`CREATE INDEX IF NOT EXISTS entry_device ON entry (device, id)`,
	`CREATE INDEX IF NOT EXISTS entry_actor ON entry (actor, id)`,
	`CREATE INDEX IF NOT EXISTS entry_outcome ON entry (outcome, id)`,
	`CREATE INDEX IF NOT EXISTS entry_cause ON entry (cause, id) WHERE cause IS NOT NULL`,
	`CREATE INDEX IF NOT EXISTS entry_use ON entry (controller, control, show, outcome, id)`,
}

// fillBatch is how many entries get their words in one transaction.
const fillBatch = 500

// fill makes the indexes, and the words of the entries that have none, the newest first; it goes on where it was ended.
func (j *Journal) fill() {
	for _, index := range indexes {
		if j.ends() || j.do(func(db *sqlx.DB) error { _, err := db.Exec(index); return err }) != nil {
			return // it is tried at the next start; entries are found without, more slowly
		}
	}
	for more := true; more && !j.ends(); {
		err := j.do(func(db *sqlx.DB) (err error) { more, err = fillSome(db); return err })
		if err != nil {
			return
		}
	}
}

func (j *Journal) ends() bool {
	select {
	case <-j.quit:
		return true
	default:
		return false
	}
}

// fillSome gives some entries their words, and reports whether there are more.
func fillSome(db *sqlx.DB) (more bool, err error) {
	tx, err := db.Beginx()
	if err != nil {
		return false, err
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	until := "~"
	if err := tx.Get(&until, `SELECT until FROM behind WHERE what = 'words'`); err != nil && !errors.Is(err, sql.ErrNoRows) {
		return false, err
	}
	var rows []entryRow
	if err := tx.Select(&rows, `SELECT id, body FROM entry WHERE id < ? ORDER BY id DESC LIMIT ?`, until, fillBatch); err != nil {
		return false, err
	}
	until = ""
	for _, r := range rows {
		until = r.ID
		if err := saveWords(tx, r.entry()); err != nil {
			return false, err
		}
	}
	if _, err := tx.Exec(`INSERT INTO behind (what, until) VALUES ('words', ?) ON CONFLICT (what) DO UPDATE SET until = excluded.until`, until); err != nil {
		return false, err
	}
	return len(rows) == fillBatch, tx.Commit()
}

// saveWords has an entry be found by its words.
func saveWords(tx *sqlx.Tx, e journal.Entry) error {
	n, ok := numberOf(e.ID)
	if !ok {
		return nil // nobody gave out such an id
	}
	_, err := tx.Exec(`INSERT OR REPLACE INTO word (rowid, words) VALUES (?, ?)`, n, strings.Join(e.Words(), " "))
	return err
}

// numberOf is the number that an id is.
func numberOf(id string) (int64, bool) {
	n, err := strconv.ParseInt(id, 36, 64)
	return n, err == nil
}

// forgetWords lets go of the words of entries.
func forgetWords(tx *sqlx.Tx, ids []string) error {
	for _, id := range ids {
		if n, ok := numberOf(id); ok {
			if _, err := tx.Exec(`DELETE FROM word WHERE rowid = ?`, n); err != nil {
				return err
			}
		}
	}
	return nil
}

// Find implements journal.Store.
func (j *Journal) Find(w journal.Wanted) ([]journal.Entry, error) {
	if !w.Narrow() {
		return j.Load(w.Show, w.Before, w.Limit)
	}
	c := conditions(w)
	if !w.Since.IsZero() || !w.Until.IsZero() {
		if none, err := j.between(&c, w); none || err != nil {
			return nil, err
		}
	}
	tokens := journal.WordsOf(w.Text)
	if len(tokens) == 0 {
		return j.entries(`SELECT id, body FROM entry WHERE `+c.where()+` ORDER BY id DESC LIMIT ?`, append(c.args, w.Limit)...)
	}
	return j.findWords(w, c, tokens)
}

// clause is what a query asks of entries.
type clause struct {
	parts []string
	args  []any
	// first and last are the ids that bound it; empty: none do.
	first, last string
}

func (c *clause) add(part string, args ...any) {
	c.parts, c.args = append(c.parts, part), append(c.args, args...)
}

func (c *clause) where() string { return strings.Join(c.parts, " AND ") }

func conditions(w journal.Wanted) (c clause) {
	if w.Before == "" {
		w.Before = "~" // after every id
	}
	c.add("id < ?", w.Before)
	if w.Show != "" {
		c.add("+show IN (?, '')", w.Show)
	}
	for column, value := range map[string]string{"controller": w.Controller, "control": w.Control, "device": w.Device, "actor": w.Actor, "outcome": string(w.Outcome)} {
		if value != "" {
			c.add(column+" = ?", value)
		}
	}
	return c
}

// between adds the ids that a time lies between. They go by the order of what happened, and a clock may have been set back; so what is between them has to
// lie in the time besides.
func (j *Journal) between(c *clause, w journal.Wanted) (none bool, err error) {
	var at clause
	at.add("1 = 1")
	if !w.Since.IsZero() {
		at.add("at >= ?", w.Since.Unix())
	}
	if !w.Until.IsZero() {
		at.add("at < ?", w.Until.Unix())
	}
	err = j.do(func(db *sqlx.DB) (err error) { c.first, c.last, err = ids(db, at.where(), at.args...); return err })
	if err != nil || c.first == "" {
		return true, err
	}
	c.add("id BETWEEN ? AND ?", c.first, c.last)
	for i, part := range at.parts[1:] {
		c.add("+"+part, at.args[i])
	}
	return false, nil
}

// ids are the first and the last one of the entries that a condition holds for; empty: it holds for none.
func ids(db *sqlx.DB, where string, args ...any) (first, last string, err error) {
	var at struct{ First, Last *string }
	if err := db.Get(&at, `SELECT min(id) AS first, max(id) AS last FROM entry WHERE `+where, args...); err != nil || at.First == nil {
		return "", "", err
	}
	return *at.First, *at.Last, nil
}

// wordsAtOnce is how many entries with the wanted words are looked at at once, where a page of them was not enough.
const wordsAtOnce = 400

// findWords finds the entries that have words beginning so, among those that fit otherwise.
func (j *Journal) findWords(w journal.Wanted, c clause, tokens []string) (out []journal.Entry, err error) {
	for i, t := range tokens {
		tokens[i] = `"` + t + `"*`
	}
	match, above, below := strings.Join(tokens, " "), int64(0), int64(1)<<62
	if first, ok := numberOf(c.first); ok {
		above = first
	}
	if last, ok := numberOf(c.last); ok {
		below = last + 1
	}
	if n, ok := numberOf(w.Before[:min(len(w.Before), idLength)]); ok && len(w.Before) >= idLength {
		below = min(below, n+1) // what is before it exactly is asked of the entries
	}
	for atOnce := w.Limit; len(out) < w.Limit; atOnce = max(w.Limit, wordsAtOnce) {
		var found []int64
		err := j.do(func(db *sqlx.DB) error {
			found = nil
			return db.Select(&found, `SELECT rowid FROM word WHERE word MATCH ? AND rowid >= ? AND rowid < ? ORDER BY rowid DESC LIMIT ?`, match, above, below, atOnce)
		})
		if err != nil {
			return nil, fmt.Errorf("read the journal: %w", err)
		}
		if len(found) == 0 {
			break
		}
		below = slices.Min(found)
		ids := make([]any, len(found))
		for i, n := range found {
			ids[i] = strconv.FormatInt(n, 36)
		}
		some, err := j.entries(`SELECT id, body FROM entry WHERE id IN (?`+strings.Repeat(", ?", len(ids)-1)+`) AND `+c.where()+` ORDER BY id DESC`, append(ids, c.args...)...)
		if err != nil {
			return nil, err
		}
		out = append(out, some...)
	}
	return out[:min(len(out), w.Limit)], nil
}

// idLength is how long ids are.
const idLength = 10
