package store

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
)

// What is kept of what has been; the oldest goes first.
const (
	//limit:count readings of the past on the disk | nowhere; the oldest go
	maxPast = 1_000_000
	//limit:count events of the past on the disk | nowhere; the oldest go
	maxPastEvents = 100_000
	pastFor       = 7 * 24 * time.Hour
	// trimPastEvery is how many batches are written between two looks at that.
	trimPastEvery = 600
)

// SavePast implements journal.HistoryStore.
func (j *Journal) SavePast(was []journal.Was, events []journal.Happened) error {
	return InWords(j.do(func(db *sqlx.DB) error {
		tx, err := db.Beginx()
		if err != nil {
			return fmt.Errorf("write what was: %w", err)
		}
		defer func() { _ = tx.Rollback() }() // after Commit it does nothing
		for _, w := range was {
			if err := savePast(tx, w); err != nil {
				return fmt.Errorf("write what was: %w", err)
			}
		}
		for _, e := range events {
			if _, err := tx.Exec(`INSERT INTO past_event (at, body) VALUES (?, ?)`, e.At.UnixMicro(), string(e.Body)); err != nil {
				return fmt.Errorf("write what happened: %w", err)
			}
		}
		if n := j.pasts.Add(1); n%trimPastEvery == 1 {
			if err := trimPast(tx, maxPast, maxPastEvents, time.Now().Add(-pastFor)); err != nil {
				return fmt.Errorf("trim what was: %w", err)
			}
		}
		return tx.Commit()
	}))
}

func savePast(tx *sqlx.Tx, w journal.Was) error {
	value, err := json.Marshal(w.Value)
	if err != nil {
		return nil //nolint:nilerr // a value that JSON cannot say, such as minus infinity, is left out
	}
	if _, err := tx.Exec(`INSERT OR IGNORE INTO past_key (key) VALUES (?)`, w.Key.String()); err != nil {
		return err
	}
	_, err = tx.Exec(`INSERT INTO past (key, at, value) SELECT id, ?, ? FROM past_key WHERE key = ?`, w.At.UnixMicro(), string(value), w.Key.String())
	return err
}

// trimPast lets go of what is too old, and of the oldest where there is too much.
func trimPast(tx *sqlx.Tx, most, mostEvents int, before time.Time) error {
	for _, q := range []struct {
		sql string
		arg any
	}{
		{`DELETE FROM past WHERE at < ?`, before.UnixMicro()},
		{`DELETE FROM past_event WHERE at < ?`, before.UnixMicro()},
		{`DELETE FROM past WHERE rowid <= (SELECT max(rowid) FROM past) - ?`, most},
		{`DELETE FROM past_event WHERE rowid <= (SELECT max(rowid) FROM past_event) - ?`, mostEvents},
	} {
		if _, err := tx.Exec(q.sql, q.arg); err != nil {
			return err
		}
	}
	return nil
}

type pastRow struct {
	Key   string
	At    int64
	Value []byte
}

func (r pastRow) was() journal.Was {
	device, path, _ := strings.Cut(r.Key, ":")
	w := journal.Was{At: time.UnixMicro(r.At), Key: reading.Key{Device: device, Path: path}}
	_ = json.Unmarshal(r.Value, &w.Value) // what cannot be read is not known
	return w
}

// Past implements journal.HistoryStore.
func (j *Journal) Past(keys []reading.Key, from, to time.Time, limit int) (before, then []journal.Was, err error) {
	if len(keys) == 0 {
		return nil, nil, nil
	}
	names := make([]string, len(keys))
	for i, k := range keys {
		names[i] = k.String()
	}
	err = j.do(func(db *sqlx.DB) error {
		before, then = nil, nil
		q, args, err := sqlx.In(`SELECT k.key, p.at, p.value FROM past_key k JOIN past p ON p.key = k.id WHERE k.key IN (?) AND p.at >= ? AND p.at <= ? ORDER BY p.at DESC LIMIT ?`,
			names, from.UnixMicro(), to.UnixMicro(), limit)
		if err != nil {
			return err
		}
		var rows []pastRow
		if err := db.Select(&rows, q, args...); err != nil {
			return err
		}
		for _, r := range slices.Backward(rows) {
			then = append(then, r.was())
		}
		begins := from
		if len(then) == limit {
			begins = then[0].At
		}
		for _, name := range names {
			rows = nil
			if err := db.Select(&rows, `SELECT k.key, p.at, p.value FROM past_key k JOIN past p ON p.key = k.id WHERE k.key = ? AND p.at < ? ORDER BY p.at DESC LIMIT 1`, name, begins.UnixMicro()); err != nil {
				return err
			}
			for _, r := range rows {
				before = append(before, r.was())
			}
		}
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("read what was: %w", err)
	}
	return before, then, nil
}

// PastEvents implements journal.HistoryStore.
func (j *Journal) PastEvents(from, to time.Time, limit int) ([]journal.Happened, error) {
	var rows []struct {
		At   int64
		Body []byte
	}
	err := j.do(func(db *sqlx.DB) error {
		rows = nil
		return db.Select(&rows, `SELECT at, body FROM (SELECT at, body FROM past_event WHERE at >= ? AND at <= ? ORDER BY at DESC LIMIT ?) ORDER BY at`, from.UnixMicro(), to.UnixMicro(), limit)
	})
	if err != nil {
		return nil, fmt.Errorf("read what happened: %w", err)
	}
	out := make([]journal.Happened, len(rows))
	for i, r := range rows {
		out[i] = journal.Happened{At: time.UnixMicro(r.At), Body: r.Body}
	}
	return out, nil
}
