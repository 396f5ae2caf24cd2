package store

import (
	"errors"
	"io/fs"

	sqlite3 "modernc.org/sqlite/lib"
)

// DiskError says in words why a file of the data folder cannot be written or read.
type DiskError struct {
	Text string // a part of a sentence
	// Full says that there is no room left.
	Full bool
	Err  error
}

// Error implements error.
func (e *DiskError) Error() string { return e.Text }

// Unwrap gives what SQLite or the system said.
func (e *DiskError) Unwrap() error { return e.Err }

// InWords makes what SQLite or the system says of a disk a *DiskError; any other error
// stays as it is.
func InWords(err error) error {
	var known *DiskError
	if err == nil || errors.As(err, &known) {
		return err
	}
	text := map[int]string{
		sqlite3.SQLITE_FULL:     "there is no room left on the disk of the data folder",
		sqlite3.SQLITE_READONLY: "the data folder cannot be written to, only read",
		sqlite3.SQLITE_PERM:     "Synaptor has no right to write to the data folder",
		sqlite3.SQLITE_CANTOPEN: "a file of the data folder cannot be opened: it is not Synaptor's to open, or there is no room left",
		sqlite3.SQLITE_BUSY:     "another program holds a file of the data folder",
		sqlite3.SQLITE_LOCKED:   "another program holds a file of the data folder",
		sqlite3.SQLITE_IOERR:    "the disk of the data folder does not do what it is told",
		sqlite3.SQLITE_CORRUPT:  "a file of the data folder is damaged",
		sqlite3.SQLITE_NOTADB:   "a file of the data folder is damaged",
	}[code(err)&0xff]
	full := code(err)&0xff == sqlite3.SQLITE_FULL || isFull(err)
	switch {
	case full:
		text = "there is no room left on the disk of the data folder"
	case isReadOnly(err):
		text = "the data folder cannot be written to, only read"
	case errors.Is(err, fs.ErrPermission):
		text = "Synaptor has no right to use a file of the data folder"
	}
	if text == "" {
		return err
	}
	return &DiskError{text, full, err}
}
