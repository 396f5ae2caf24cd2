package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/incident"
	"synaptor/internal/journal"
)

// What the journal's file holds at most; the oldest entries go first.
const (
	//limit:count entries of the journal on the disk | nowhere; the oldest go
	maxEntries = 200_000
	//limit:bytes the journal on the disk | nowhere; the oldest go
	maxBytes = 512 << 20
	// trimEvery is how many batches are written between two looks at that.
	trimEvery = 500
	// trimShare is the share of the entries that goes when there are too many bytes.
	trimShare = 10
)

// Journal is the database of the journal. It implements journal.Store. Where it is
// damaged a new one is begun.
type Journal struct {
	*spare
	limits  limits
	saves   int
	trimmed atomic.Int64
	pasts   atomic.Int64 // batches of what was
	quit    chan struct{}
	closing sync.Once
	filling sync.WaitGroup
}

// limits are what the file holds at most.
type limits struct{ entries, bytes int64 }

// OpenJournal opens, or makes, the journal in a data folder.
func OpenJournal(dir string) (*Journal, error) {
	s, err := openSpare(dir, "journal", "journal")
	if err != nil {
		return nil, err
	}
	j := &Journal{spare: s, limits: limits{maxEntries, maxBytes}, quit: make(chan struct{})}
	j.filling.Go(func() { incident.Contain("words of the journal", "", j.fill) })
	return j, nil
}

// Close ends what is made behind, and closes the database.
func (j *Journal) Close() error {
	j.closing.Do(func() { close(j.quit) })
	j.filling.Wait()
	return j.spare.Close()
}

// Save implements journal.Store.
func (j *Journal) Save(entries []journal.Entry) error {
	return InWords(j.do(func(db *sqlx.DB) error { return j.save(db, entries) }))
}

func (j *Journal) save(db *sqlx.DB, entries []journal.Entry) error {
	tx, err := db.Beginx()
	if err != nil {
		return fmt.Errorf("write the journal: %w", err)
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	for _, e := range entries {
		body, err := json.Marshal(e)
		if err != nil {
			return fmt.Errorf("write the journal: %w", err)
		}
		_, err = tx.Exec(`INSERT INTO entry (id, body, open, show) VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET body = excluded.body, open = excluded.open`,
			e.ID, string(body), e.Outcome == journal.UnderWay, e.Show)
		if err == nil {
			err = saveWords(tx, e)
		}
		if err != nil {
			return fmt.Errorf("write the journal: %w", err)
		}
	}
	gone := int64(0)
	if j.saves++; j.saves%trimEvery == 1 {
		if gone, err = j.trim(tx); err != nil {
			return fmt.Errorf("trim the journal: %w", err)
		}
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("write the journal: %w", err)
	}
	j.trimmed.Add(gone)
	return nil
}

// trim lets the oldest entries go where there are too many, or they take too much, and says
// how many. The file keeps its size; what is free in it is written to next.
func (j *Journal) trim(tx *sqlx.Tx) (gone int64, err error) {
	var size struct {
		Pages, Free, Page, Entries int64
	}
	err = tx.Get(&size, `SELECT p.page_count AS pages, f.freelist_count AS free, s.page_size AS page, (SELECT COUNT(*) FROM entry) AS entries
		FROM pragma_page_count() p, pragma_freelist_count() f, pragma_page_size() s`)
	if err != nil {
		return 0, err
	}
	gone = max(0, size.Entries-j.limits.entries)
	if (size.Pages-size.Free)*size.Page > j.limits.bytes {
		gone = max(gone, size.Entries/trimShare)
	}
	if gone == 0 {
		return 0, nil
	}
	var ids []string
	if err := tx.Select(&ids, `SELECT id FROM entry ORDER BY id LIMIT ?`, gone); err != nil {
		return 0, err
	}
	if err := forgetWords(tx, ids); err != nil {
		return 0, err
	}
	_, err = tx.Exec(`DELETE FROM entry WHERE id IN (SELECT id FROM entry ORDER BY id LIMIT ?)`, gone)
	return gone, err
}

// Trimmed implements journal.Store.
func (j *Journal) Trimmed() int64 { return j.trimmed.Load() }

// Load gives entries, newest first, of a show and those of which it is not known (show "": all).
func (j *Journal) Load(show, before string, limit int) ([]journal.Entry, error) {
	if before == "" {
		before = "~" // after every id
	}
	if show == "" {
		return j.entries(`SELECT id, body FROM entry WHERE id < ? ORDER BY id DESC LIMIT ?`, before, limit)
	}
	// Of each by its index, so that a show of few entries is not looked for among those of many.
	return j.entries(`SELECT id, body FROM (SELECT * FROM (SELECT id, body FROM entry WHERE show = ?1 AND id < ?2 ORDER BY id DESC LIMIT ?3)
		UNION ALL SELECT * FROM (SELECT id, body FROM entry WHERE show = '' AND id < ?2 ORDER BY id DESC LIMIT ?3)) ORDER BY id DESC LIMIT ?3`, show, before, limit)
}

// usedOf is how many of the newest entries of a show tell how often its keys are used.
//
//limit:count newest entries that tell how often keys are used | in the placement advice
const usedOf = 20_000

// Used counts how often each mapping of a show was used, of its newest entries.
func (j *Journal) Used(show string) (map[string]int, error) {
	var rows []struct {
		Mapping string
		N       int
	}
	const query = `SELECT mapping, count(*) AS n FROM (SELECT json_extract(body, '$.mapping') AS mapping FROM entry WHERE show = ? ORDER BY id DESC LIMIT ?)
		WHERE mapping IS NOT NULL GROUP BY mapping`
	if err := j.do(func(db *sqlx.DB) error { rows = nil; return db.Select(&rows, query, show, usedOf) }); err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	out := map[string]int{}
	for _, r := range rows {
		out[r.Mapping] = r.N
	}
	return out, nil
}

// Open implements journal.Store.
func (j *Journal) Open() ([]journal.Entry, error) {
	return j.entries(`SELECT id, body FROM entry WHERE open = 1 ORDER BY id LIMIT 10000`)
}

func (j *Journal) entries(query string, args ...any) ([]journal.Entry, error) {
	var rows []entryRow
	if err := j.do(func(db *sqlx.DB) error { rows = nil; return db.Select(&rows, query, args...) }); err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	out := make([]journal.Entry, len(rows))
	for i, r := range rows {
		out[i] = r.entry()
	}
	return out, nil
}

type entryRow struct {
	ID   string
	Body []byte
}

// entry reads a row. One that is damaged keeps its place and says so.
func (r entryRow) entry() journal.Entry {
	var e journal.Entry
	if err := json.Unmarshal(r.Body, &e); err != nil || e.ID != r.ID {
		return journal.Entry{ID: r.ID, Title: "An entry that is damaged", Outcome: journal.Unconfirmed, Reason: "What it said cannot be read any more.",
			Origin: journal.Origin{ControllerName: "Synaptor", Gesture: "record", Via: "Synaptor", Actor: "Synaptor"}, Steps: []journal.Step{}}
	}
	return e
}

// SetOff implements journal.Store.
func (j *Journal) SetOff(by string, limit int) ([]journal.Entry, error) {
	return j.entries(`SELECT id, body FROM entry WHERE cause = ? ORDER BY id LIMIT ?`, by, limit)
}

// One implements journal.Store.
func (j *Journal) One(id string) (*journal.Entry, error) {
	row := entryRow{ID: id}
	err := j.do(func(db *sqlx.DB) error { return db.Get(&row.Body, `SELECT body FROM entry WHERE id = ?`, id) })
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the journal: %w", err)
	}
	e := row.entry()
	return &e, nil
}
