package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// DamagedError says that the show of a data folder cannot be read. Its file is as it was.
type DamagedError struct {
	File string
	Err  error
}

// Error implements error.
func (e *DamagedError) Error() string {
	return fmt.Sprintf("the show in %s is damaged and was left as it is (%v); put a copy of the file in its place, or start with another folder with --data", e.File, e.Err)
}

// Unwrap gives what was found.
func (e *DamagedError) Unwrap() error { return e.Err }

// NewerError says that a file was written by a newer Synaptor. Its file is as it was.
type NewerError struct {
	File        string
	Have, Knows int64 // versions of the tables
}

// Error implements error.
func (e *NewerError) Error() string {
	return fmt.Sprintf("%s was written by a newer Synaptor (its tables are version %d, this one knows %d); start that one, or another folder with --data", e.File, e.Have, e.Knows)
}

// code is what SQLite says is wrong: a result code with its extension; 0 where it is
// not SQLite that says so.
func code(err error) int {
	var e *sqlite.Error
	if errors.As(err, &e) {
		return e.Code()
	}
	return 0
}

// damaged reports whether an error means that a database file is damaged.
func damaged(err error) bool {
	c := code(err)
	return c&0xff == sqlite3.SQLITE_CORRUPT || c&0xff == sqlite3.SQLITE_NOTADB || c == sqlite3.SQLITE_IOERR_SHORT_READ
}

// unusable reports whether an error of opening a database is one of the file, and
// not of the computer: its disk, its rights, another program.
func unusable(err error) bool {
	switch code(err) & 0xff {
	case 0, sqlite3.SQLITE_PERM, sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED, sqlite3.SQLITE_NOMEM, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_FULL, sqlite3.SQLITE_CANTOPEN:
		return false
	case sqlite3.SQLITE_IOERR:
		return damaged(err)
	}
	return true
}

// spare is a database that Synaptor can do without. Where it is damaged it is set
// aside, and a new one is begun.
type spare struct {
	dir, name string
	title     string // what it is, in a sentence

	mu sync.RWMutex
	db *sqlx.DB

	saying sync.Mutex
	notes  []string
	say    func(note string) // nil: notes wait until somebody listens
}

// openSpare opens a database of a data folder, or makes it.
func openSpare(dir, name, title string) (*spare, error) {
	s := &spare{dir: dir, name: name, title: title}
	return s, s.begin()
}

// begin opens the database, or a new one where the file is none.
func (s *spare) begin() (err error) {
	s.db, err = open(s.dir, s.name, "NORMAL")
	if err != nil && (unusable(err) || isFolder(s.path())) {
		if err := s.setAside(err); err != nil {
			return err
		}
		s.db, err = open(s.dir, s.name, "NORMAL")
	}
	return err
}

func (s *spare) path() string { return filepath.Join(s.dir, s.name+".db") }

func isFolder(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.IsDir()
}

// setAside renames the files of the database, and says so.
func (s *spare) setAside(why error) error {
	kept := s.name + ".damaged-" + time.Now().UTC().Format("20060102-150405.000")
	for _, end := range []string{"", "-wal", "-shm"} {
		err := os.Rename(s.path()+end, filepath.Join(s.dir, kept+".db"+end))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return fmt.Errorf("set the damaged %s aside: %w", s.title, err)
		}
	}
	s.note(fmt.Sprintf("The %s was damaged (%v). It is kept as %s.db in the data folder, and a new one was begun.", s.title, why, kept))
	return nil
}

// note says what was wrong.
func (s *spare) note(text string) {
	s.saying.Lock()
	defer s.saying.Unlock()
	if s.say == nil {
		s.notes = append(s.notes, text)
		return
	}
	s.say(text)
}

// Notes has what was wrong with the file told: at once what is known, and what is
// found later when it is. tell is called by whoever finds it and must not wait.
func (s *spare) Notes(tell func(note string)) {
	s.saying.Lock()
	defer s.saying.Unlock()
	for _, n := range s.notes {
		tell(n)
	}
	s.notes, s.say = nil, tell
}

// do works with the database. Where that finds it damaged, it is done again with a
// new one.
func (s *spare) do(work func(db *sqlx.DB) error) error {
	used, err := s.try(work)
	if !damaged(err) && !errors.Is(err, errNone) {
		return err
	}
	if renewed := s.renew(used, err); renewed != nil {
		return errors.Join(err, renewed)
	}
	_, err = s.try(work)
	return err
}

func (s *spare) try(work func(db *sqlx.DB) error) (used *sqlx.DB, err error) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	if s.db == nil {
		return nil, errNone
	}
	return s.db, work(s.db)
}

// errNone says that a new database could not be begun, which is tried again.
var errNone = errors.New("there is no file for it")

// renew begins a new database in place of the one that was used.
func (s *spare) renew(used *sqlx.DB, why error) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.db != used {
		return nil // somebody else found it damaged too
	}
	if used != nil {
		_ = used.Close() // it is of no use any more
		s.db = nil
		if err := s.setAside(why); err != nil {
			return err
		}
	}
	return s.begin()
}

// Close closes the database.
func (s *spare) Close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.db == nil {
		return nil
	}
	return s.db.Close()
}

// checkShow looks at the file of a show before anything is done to it, and leaves it
// as it is. It fails with a *DamagedError.
func checkShow(dir string) error {
	path := filepath.Join(dir, "show.db")
	if err := checkWAL(path + "-wal"); errors.Is(err, errWAL) {
		return &DamagedError{path + "-wal", err}
	} else if err != nil {
		return err
	}
	info, err := os.Stat(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil
	case err != nil:
		return fmt.Errorf("open the show: %w", err)
	case info.IsDir():
		return &DamagedError{path, errors.New("it is a folder")}
	case info.Size() == 0 && !hasLog(path):
		return emptied(dir, path)
	}
	db, err := sqlx.Open("sqlite", "file:"+path+"?mode=ro&_pragma=busy_timeout(5000)")
	if err != nil {
		return fmt.Errorf("open the show: %w", err)
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	ctx, cancel := context.WithTimeout(context.Background(), checkLimit)
	defer cancel()
	err = readShow(ctx, db, path)
	var bad *DamagedError
	var newer *NewerError
	switch {
	case err == nil || errors.As(err, &bad) || errors.As(err, &newer):
		return err
	case ctx.Err() != nil:
		return nil // a large one; what is wrong is found when it is read
	case unusable(err):
		return &DamagedError{path, err}
	}
	return fmt.Errorf("open the show: %w", err)
}

// readShow reads what a show needs, and writes nothing.
func readShow(ctx context.Context, db *sqlx.DB, path string) error {
	var said string
	if err := db.GetContext(ctx, &said, `PRAGMA quick_check(1)`); err != nil {
		return err
	}
	if said != "ok" {
		return &DamagedError{path, errors.New(said)}
	}
	var tables struct{ All, Versions int }
	if err := db.GetContext(ctx, &tables, `SELECT count(*) AS "all", coalesce(sum(type = 'table' AND name = 'goose_db_version'), 0) AS versions FROM sqlite_master`); err != nil {
		return err
	}
	switch {
	case tables.All == 0:
		return nil // it was begun, and no more
	case tables.Versions != 1:
		return &DamagedError{path, errors.New("the list of its tables is damaged")}
	}
	var versions []struct {
		Version int64     `db:"version_id"`
		At      time.Time `db:"tstamp"`
		Applied bool      `db:"is_applied"`
	}
	if err := db.SelectContext(ctx, &versions, `SELECT version_id, tstamp, is_applied FROM goose_db_version ORDER BY version_id, id`); err != nil {
		if code(err) == 0 && ctx.Err() == nil {
			err = &DamagedError{path, errors.New("the list of its versions is damaged")}
		}
		return err
	}
	knows, have := newest("show"), int64(-1) // goose begins with a version 0
	for _, v := range versions {
		if v.Version != have+1 && v.Version <= knows || !v.Applied {
			return &DamagedError{path, errors.New("the list of its versions is damaged")}
		}
		have = v.Version
	}
	if have > knows {
		return &NewerError{path, have, knows}
	} else if have < knows {
		return nil // its tables are brought up to date first
	}
	var bytes sql.NullInt64
	for _, all := range []string{`SELECT sum(length(kind) + length(id) + rev + length(body)) FROM entity`, `SELECT max(seq) FROM edit`, `SELECT count(box) FROM secret`,
		`SELECT count(id) FROM aside`} {
		if err := db.GetContext(ctx, &bytes, all); err != nil {
			return err
		}
	}
	return nil
}

// newest is the version of the tables that this Synaptor knows.
func newest(name string) (version int64) {
	files, _ := fs.Glob(migrations, "migrations/"+name+"/*.sql") // the pattern is good
	for _, f := range files {
		if v, err := strconv.ParseInt(strings.SplitN(path.Base(f), "_", 2)[0], 10, 64); err == nil {
			version = max(version, v)
		}
	}
	return version
}

// checkLimit is how long a show is looked at before it is opened.
//
//limit:count time in which a show is looked through before it is opened | nowhere; damage is found when it is read
const checkLimit = 2 * time.Second

// emptied tells a show that was just begun from one that was lost: the journal is made
// after it.
func emptied(dir, path string) error {
	if _, err := os.Stat(filepath.Join(dir, "journal.db")); err == nil {
		return &DamagedError{path, errors.New("it is empty, and it was not before")}
	}
	return nil
}

// hasLog reports whether something is in the write-ahead log of a file.
func hasLog(path string) bool {
	info, err := os.Stat(path + "-wal")
	return err == nil && info.Size() > 0
}
