package sheet

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"hash/fnv"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"

	"github.com/natefinch/atomic"
)

// Own is the folder with the user's own sheets.
type Own struct {
	dir string

	mu   sync.Mutex
	last *Library // as it was read last
}

// OpenOwn opens the folder, or makes it.
func OpenOwn(dir string) (*Own, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("make the folder for device sheets: %w", err)
	}
	return &Own{dir: dir}, nil
}

// Load reads the built-in sheets and those of the folder. A sheet whose bytes are as they were when
// it was called last is the same type.
func (o *Own) Load() (*Library, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	lib, err := o.last.Again(os.DirFS(o.dir))
	if err == nil {
		o.last = lib
	}
	return lib, err
}

// file is the name of the file that has an own type, or is to have it.
func (o *Own) file(typ string) (name string, has bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.last != nil && o.last.OwnFile(typ) != "" {
		return o.last.OwnFile(typ), true
	}
	return typ + ".json", false
}

// Mark changes whenever a sheet in the folder does.
func (o *Own) Mark() string {
	h := fnv.New64a()
	entries, err := os.ReadDir(o.dir)
	if err != nil {
		return err.Error()
	}
	for _, e := range entries {
		info, err := e.Info()
		if err != nil || e.IsDir() || !strings.HasSuffix(e.Name(), ".json") {
			continue
		}
		fmt.Fprintf(h, "%s %d %d\n", e.Name(), info.Size(), info.ModTime().UnixNano())
	}
	return fmt.Sprint(h.Sum64())
}

var typeName = regexp.MustCompile(`^[a-z0-9][a-z0-9.-]{0,59}$`)

// Check checks a sheet that is to be imported, and gives its type. It fails with a Problem when
// the sheet is wrong.
func (o *Own) Check(body []byte) (typ string, err error) {
	const file = "import.json"
	if len(body) > maxSize {
		return "", Problem{file, 1, fmt.Sprintf("the file has %d bytes; a sheet has at most %d", len(body), maxSize)}
	}
	made, p := parseAny(file, body)
	if p != nil {
		return "", *p
	}
	typ = made.typ()
	if !typeName.MatchString(typ) {
		return "", Problem{file, lineOf(body, "/type"), "a type has small letters, digits, dots and hyphens, and at most 60 of them"}
	}
	if base, err := builtIns(); err == nil && (base.devices[typ] != nil || base.controllers[typ] != nil) {
		return "", Problem{file, lineOf(body, "/type"), fmt.Sprintf("the type %q is that of a built-in sheet; choose another", typ)}
	}
	return typ, nil
}

// Known reports whether a sheet with just these bytes is in force.
func (o *Own) Known(body []byte) bool {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.last == nil {
		return false
	}
	_, known := o.last.bytes[sha256.Sum256(body)]
	return known
}

// Import checks a sheet and keeps it in the folder, in place of an own one of
// the same type, whatever its file is called. It fails with a Problem when the sheet is wrong;
// nothing is kept then.
func (o *Own) Import(body []byte) (typ string, err error) {
	if typ, err = o.Check(body); err != nil {
		return "", err
	}
	name, _ := o.file(typ)
	if err := atomic.WriteFile(filepath.Join(o.dir, name), bytes.NewReader(body)); err != nil {
		return "", fmt.Errorf("keep the sheet: %w", err)
	}
	return typ, nil
}

// Remove removes an own sheet, whatever its file is called. It fails with fs.ErrNotExist where
// there is none.
func (o *Own) Remove(typ string) error {
	name, has := o.file(typ)
	if !has {
		return fs.ErrNotExist
	}
	if err := os.Remove(filepath.Join(o.dir, name)); err != nil {
		return fmt.Errorf("remove the sheet: %w", err)
	}
	return nil
}

// Files gives the sheets of the folder by file name; one that cannot be read is left
// out.
func (o *Own) Files() map[string][]byte {
	out := map[string][]byte{}
	entries, _ := os.ReadDir(o.dir)
	for _, e := range entries {
		if filepath.Ext(e.Name()) != ".json" {
			continue
		}
		if body, err := os.ReadFile(filepath.Join(o.dir, e.Name())); err == nil && len(body) <= maxSize {
			out[e.Name()] = body
		}
	}
	return out
}

// IsOwn tells whether a type is one of the folder's.
func (o *Own) IsOwn(typ string) bool {
	_, has := o.file(typ)
	return has
}
