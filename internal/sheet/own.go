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

	"synaptor/internal/core/device"
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

// file is the name of the file that has an own type, or is to have it: one that says
// it is this type and was left out is the one, too.
func (o *Own) file(typ string) (name string, has bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.last == nil {
		return typ + ".json", false
	}
	if own := o.last.OwnFile(typ); own != "" {
		return own, true
	}
	for _, p := range o.last.Problems {
		if body, err := readLimited(os.DirFS(o.dir), p.File); err == nil && headOf(body).Type == typ {
			return p.File, false
		}
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

// Check checks a sheet that is to be imported, and gives its type. It fails with Problems when
// the sheet is wrong.
func (o *Own) Check(body []byte) (typ string, err error) {
	const file = "import.json"
	if len(body) > maxSize {
		return "", told(file, body, &device.Problem{Text: fmt.Sprintf("the file has %d bytes; a sheet has at most %d", len(body), maxSize)})
	}
	made, p := parseAny(file, body)
	if p != nil {
		return "", p
	}
	typ = made.typ()
	if !typeName.MatchString(typ) {
		return "", told(file, body, &device.Problem{Where: "/type", Text: "a type has small letters, digits, dots and hyphens, and at most 60 of them"})
	}
	if base, err := builtIns(); err == nil && (base.devices[typ] != nil || base.controllers[typ] != nil) {
		return "", told(file, body, &device.Problem{Where: "/type", Text: fmt.Sprintf("the type %q is that of a built-in sheet; choose another", typ)})
	}
	if other := o.otherKind(made); other != "" {
		return "", told(file, body, &device.Problem{Where: "/type", Text: fmt.Sprintf("the type %q is that of your own %s sheet; choose another", typ, other)})
	}
	return typ, nil
}

// otherKind tells whether the type of a sheet is taken by one of the other kind: what
// that is, or "".
func (o *Own) otherKind(made parsed) string {
	o.mu.Lock()
	defer o.mu.Unlock()
	switch {
	case o.last == nil:
	case made.controller != nil && o.last.devices[made.typ()] != nil:
		return "device"
	case made.device != nil && o.last.controllers[made.typ()] != nil:
		return "controller"
	}
	return ""
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
// the same type, whatever its file is called. It fails with Problems when the sheet is wrong;
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

// RemoveFile removes a file of the folder by its name. It fails with fs.ErrNotExist
// where there is none, and with fs.ErrInvalid where the name is not that of a sheet in
// the folder.
func (o *Own) RemoveFile(name string) error {
	if filepath.Base(name) != name || !strings.HasSuffix(name, ".json") {
		return fs.ErrInvalid
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
