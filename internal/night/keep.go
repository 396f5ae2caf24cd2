package night

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/show"
)

// Folder is where the nights are kept: a folder each.
type Folder string

// maxNights is how many nights are kept.
//
//limit:count nights that were closed | nowhere; the oldest go
const maxNights = 100

// making begins the names of folders that are not whole yet.
const making = ".making-"

// File is a file of a night, and what writes it.
type File struct {
	Name  string
	Write func(io.Writer) error
}

// Kept is a night that was closed.
type Kept struct {
	ID    string    `json:"id"` // the name of its folder
	At    time.Time `json:"at"`
	Files []string  `json:"files"`
}

// Keep writes the files of a night into a folder of its own, all of them or none. It gives the name of the folder.
func (f Folder) Keep(name string, at time.Time, files []File) (id string, err error) {
	if err := os.MkdirAll(string(f), 0o700); err != nil {
		return "", err
	}
	dir, err := os.MkdirTemp(string(f), making)
	if err != nil {
		return "", err
	}
	defer func() {
		if err != nil {
			_ = os.RemoveAll(dir) // what is left of it is taken away with the next one
		}
	}()
	for _, file := range files {
		if err := write(filepath.Join(dir, file.Name), file.Write); err != nil {
			return "", fmt.Errorf("%s: %w", file.Name, err)
		}
	}
	id = at.Format("2006-01-02 15-04-05 ") + show.Slug(name, func(string) bool { return false })
	if err := os.Rename(dir, filepath.Join(string(f), id)); err != nil {
		return "", err
	}
	f.thin()
	return id, nil
}

func write(path string, body func(io.Writer) error) error {
	w, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(body(w), w.Sync(), w.Close())
}

// List gives the nights that are kept, the newest first.
func (f Folder) List() ([]Kept, error) {
	dirs, err := os.ReadDir(string(f))
	if errors.Is(err, fs.ErrNotExist) {
		return []Kept{}, nil
	}
	if err != nil {
		return nil, err
	}
	out := []Kept{}
	for _, d := range slices.Backward(dirs) {
		if !d.IsDir() || strings.HasPrefix(d.Name(), ".") {
			continue
		}
		k := Kept{ID: d.Name(), Files: []string{}}
		if info, err := d.Info(); err == nil {
			k.At = info.ModTime()
		}
		files, err := os.ReadDir(filepath.Join(string(f), d.Name()))
		if err != nil {
			continue // it is gone by now
		}
		for _, file := range files {
			k.Files = append(k.Files, file.Name())
		}
		out = append(out, k)
	}
	return out, nil
}

// ErrNone says that there is no such night or file.
var ErrNone = errors.New("this night is not kept any more")

// Open opens a file of a night.
func (f Folder) Open(id, file string) (*os.File, error) {
	for _, name := range []string{id, file} {
		if !filepath.IsLocal(name) || filepath.Base(name) != name || strings.HasPrefix(name, ".") {
			return nil, ErrNone
		}
	}
	got, err := os.Open(filepath.Join(string(f), id, file))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNone
	}
	return got, err
}

// thin takes the oldest nights away where there are too many, and what was never finished.
func (f Folder) thin() {
	dirs, err := os.ReadDir(string(f))
	if err != nil {
		return // the next one tries again
	}
	var nights []string
	for _, d := range dirs {
		if info, err := d.Info(); strings.HasPrefix(d.Name(), making) && err == nil && time.Since(info.ModTime()) > time.Hour {
			_ = os.RemoveAll(filepath.Join(string(f), d.Name()))
		} else if d.IsDir() && !strings.HasPrefix(d.Name(), ".") {
			nights = append(nights, d.Name())
		}
	}
	for _, name := range nights[:max(0, len(nights)-maxNights)] {
		_ = os.RemoveAll(filepath.Join(string(f), name))
	}
}
