package sheet

import (
	"errors"
	"fmt"
	"hash/fnv"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"synaptor/internal/core/device"
)

// Own is the folder with the user's own sheets.
type Own struct{ dir string }

// OpenOwn opens the folder, or makes it.
func OpenOwn(dir string) (*Own, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("make the folder for device sheets: %w", err)
	}
	return &Own{dir}, nil
}

// Load reads the built-in sheets and those of the folder.
func (o *Own) Load() (*Library, error) { return Load(os.DirFS(o.dir)) }

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

// Import checks a sheet and keeps it in the folder, in place of an own one of
// the same type. It fails with a Problem when the sheet is wrong; nothing is
// kept then.
func (o *Own) Import(body []byte) (typ string, err error) {
	const file = "import.json"
	if len(body) > maxSize {
		return "", Problem{file, 1, fmt.Sprintf("the file has %d bytes; a sheet has at most %d", len(body), maxSize)}
	}
	kind := "devices/"
	if formatOf(body) == device.ControllerFormat {
		c, p := ParseController(file, body)
		if p != nil {
			return "", *p
		}
		typ, kind = c.Type, "controllers/"
	} else {
		t, p := ParseDevice(file, body)
		if p != nil {
			return "", *p
		}
		typ = t.Sheet.Type
	}
	if !typeName.MatchString(typ) {
		return "", Problem{file, lineOf(body, "/type"), "a type has small letters, digits, dots and hyphens, and at most 60 of them"}
	}
	if _, err := builtin.ReadFile(kind + typ + ".json"); err == nil {
		return "", Problem{file, lineOf(body, "/type"), fmt.Sprintf("the type %q is that of a built-in sheet; choose another", typ)}
	}
	path := filepath.Join(o.dir, typ+".json")
	if err := os.WriteFile(path+".new", body, 0o600); err != nil {
		return "", fmt.Errorf("keep the sheet: %w", err)
	}
	if err := os.Rename(path+".new", path); err != nil {
		return "", fmt.Errorf("keep the sheet: %w", err)
	}
	return typ, nil
}

// Remove removes an own sheet.
func (o *Own) Remove(typ string) error {
	if !typeName.MatchString(typ) {
		return fs.ErrNotExist
	}
	err := os.Remove(filepath.Join(o.dir, typ+".json"))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("remove the sheet: %w", err)
	}
	return err
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
	_, err := os.Stat(filepath.Join(o.dir, typ+".json"))
	return err == nil && typeName.MatchString(typ)
}
