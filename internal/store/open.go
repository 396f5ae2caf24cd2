// Package store keeps a show and its journal in SQLite: two database files in
// one data folder, one writer each. An edit is on the disk when its commit
// returns; the journal is written behind and may lose its last moments.
package store

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver
)

//go:embed migrations
var migrations embed.FS

// open opens a database file, sets its pragmas and brings its tables up to
// date. sync is FULL or NORMAL.
func open(dir, name, sync string) (*sqlx.DB, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("open the data folder: %w", err)
	}
	path := filepath.Join(dir, name+".db")
	if err := ownOnly(path); err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	dsn := "file:" + path + "?_pragma=journal_mode(WAL)&_pragma=synchronous(" + sync + ")&_pragma=busy_timeout(5000)&_pragma=foreign_keys(1)&_txlock=immediate"
	db, err := sqlx.Open("sqlite", dsn)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	db.SetMaxOpenConns(1)
	sub, err := fs.Sub(migrations, "migrations/"+name)
	if err != nil {
		return nil, err
	}
	// A damaged file is known at once; goose would try it again for some seconds.
	if _, err := db.Exec(`SELECT max(version_id) FROM goose_db_version`); damaged(err) {
		_ = db.Close()
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db.DB, sub)
	if err == nil {
		err = migrate(p, path)
	}
	if err != nil {
		_ = db.Close()
		return nil, fmt.Errorf("open %s: %w", path, err)
	}
	return db, nil
}

// migrate brings the tables of a file up to date. It fails with a *NewerError where they
// are beyond that.
func migrate(p *goose.Provider, path string) error {
	have, knows, err := p.GetVersions(context.Background())
	if err != nil {
		return err
	}
	if have > knows {
		return &NewerError{path, have, knows}
	}
	_, err = p.Up(context.Background())
	return err
}
