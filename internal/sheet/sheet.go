// Package sheet loads device and controller sheets: the built-in ones and the
// user's own. A sheet that is wrong is reported by file, line and reason, and
// keeps none of the others from loading.
package sheet

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
)

//go:embed devices/*.json controllers/*.json
var builtin embed.FS

//go:embed schema/*.json
var schemas embed.FS

// maxSize is the largest sheet, in bytes, that is read.
//
//limit:bytes a device or controller sheet | at the import; in Rig, where a file of the folder was left out
const maxSize = 1 << 20

// Library holds the sheets that are loaded.
type Library struct {
	devices     map[string]*device.Type
	controllers map[string]*device.ControllerSheet
	Problems    []Problem

	own   map[string]string   // the file of each type that is the user's own
	bytes map[[32]byte]parsed // what each sheet's bytes were compiled to
}

// parsed is what a sheet was compiled to: one of both.
type parsed struct {
	device     *device.Type
	controller *device.ControllerSheet
}

// builtIns are the built-in sheets, which are compiled once.
var builtIns = sync.OnceValues(func() (*Library, error) {
	l := newLibrary()
	for _, dir := range []string{"devices", "controllers"} {
		l.loadDir(builtin, dir, nil)
	}
	if len(l.Problems) > 0 {
		return nil, fmt.Errorf("load built-in sheets: %w", l.Problems[0])
	}
	return l, nil
})

func newLibrary() *Library {
	return &Library{devices: map[string]*device.Type{}, controllers: map[string]*device.ControllerSheet{}, own: map[string]string{},
		bytes: map[[32]byte]parsed{}}
}

// Load reads the built-in sheets and those of the user's folder, where that is
// given. Problems are in the library; an error means that a built-in sheet is
// broken.
func Load(own fs.FS) (*Library, error) { return (*Library)(nil).Again(own) }

// Again is Load after the folder has changed: a sheet whose bytes are the same is the same type.
// The library may be nil.
func (l *Library) Again(own fs.FS) (*Library, error) {
	base, err := builtIns()
	if err != nil {
		return nil, err
	}
	next := newLibrary()
	maps.Copy(next.devices, base.devices)
	maps.Copy(next.controllers, base.controllers)
	if own != nil {
		next.loadDir(own, ".", l)
	}
	return next, nil
}

// Same reports whether two libraries have the same types and the same problems.
func (l *Library) Same(o *Library) bool {
	return maps.Equal(l.devices, o.devices) && maps.Equal(l.controllers, o.controllers) && slices.Equal(l.Problems, o.Problems)
}

// OwnFile gives the name of the file with a type that is the user's own; "" where it is not.
func (l *Library) OwnFile(typ string) string { return l.own[typ] }

func (l *Library) loadDir(files fs.FS, dir string, before *Library) {
	entries, err := fs.ReadDir(files, dir)
	if err != nil {
		if !errors.Is(err, fs.ErrNotExist) {
			l.Problems = append(l.Problems, Problem{File: dir, Reason: err.Error()})
		}
		return
	}
	for _, e := range entries {
		if e.IsDir() || !strings.HasSuffix(e.Name(), ".json") {
			continue
		}
		body, err := readLimited(files, path.Join(dir, e.Name()))
		if err != nil {
			l.Problems = append(l.Problems, Problem{File: e.Name(), Reason: err.Error()})
			continue
		}
		l.Problems = append(l.Problems, l.add(e.Name(), body, before)...)
	}
}

func readLimited(files fs.FS, name string) ([]byte, error) {
	info, err := fs.Stat(files, name)
	if err != nil {
		return nil, err
	}
	if info.Size() > maxSize {
		return nil, fmt.Errorf("the file has %d bytes; a sheet has at most %d", info.Size(), maxSize)
	}
	return fs.ReadFile(files, name)
}

// add checks one sheet and keeps it.
func (l *Library) add(file string, body []byte, before *Library) Problems {
	sum := sha256.Sum256(body)
	made, known := parsed{}, false
	if before != nil {
		made, known = before.bytes[sum]
	}
	if !known {
		var p Problems
		if made, p = parseAny(file, body); p != nil {
			return p
		}
	}
	typ := made.typ()
	if l.devices[typ] != nil || l.controllers[typ] != nil {
		return told(file, body, &device.Problem{Where: "/type", Text: fmt.Sprintf("the type %q is taken by another sheet", typ)})
	}
	if made.controller != nil {
		l.controllers[typ] = made.controller
	} else {
		l.devices[typ] = made.device
	}
	l.bytes[sum], l.own[typ] = made, file
	return nil
}

// parseAny checks a sheet of either kind.
func parseAny(file string, body []byte) (made parsed, p Problems) {
	if headOf(body).Sheet == device.ControllerFormat {
		made.controller, p = ParseController(file, body)
	} else {
		made.device, p = ParseDevice(file, body)
	}
	return made, p
}

func (p parsed) typ() string {
	if p.controller != nil {
		return p.controller.Type
	}
	return p.device.Sheet.Type
}

// head is what a file says it is.
type head struct {
	Sheet string `json:"sheet"`
	Type  string `json:"type"`
}

func headOf(body []byte) (h head) {
	_ = json.Unmarshal(body, &h) // what is no sheet says nothing
	return h
}

// ParseDevice checks a device sheet against its schema and compiles it. All that is
// wrong with it is told.
func ParseDevice(file string, body []byte) (*device.Type, Problems) {
	var s device.Sheet
	found, p := parse(file, body, "device-1", &s)
	if p != nil {
		return nil, Problems{*p}
	}
	t, err := device.Compile(&s)
	found = append(found, below(found, err)...)
	found = append(found, below(found, glyphs(&s))...)
	if len(found) > 0 {
		return nil, told(file, body, found...)
	}
	return t, nil
}

// ParseController checks a controller sheet against its schema. All that is wrong
// with it is told.
func ParseController(file string, body []byte) (*device.ControllerSheet, Problems) {
	var s device.ControllerSheet
	found, p := parse(file, body, "controller-1", &s)
	if p != nil {
		return nil, Problems{*p}
	}
	found = append(found, below(found, s.Check())...)
	if len(found) > 0 {
		return nil, told(file, body, found...)
	}
	return &s, nil
}

// glyphs finds faces with a glyph that there is not.
func glyphs(s *device.Sheet) error {
	var found device.Problems
	for i, a := range s.Actions {
		if g := a.Face.Glyph; g != "" && !face.IsGlyph(g) {
			found = append(found, &device.Problem{Where: fmt.Sprintf("/actions/%d/face/glyph", i), Text: fmt.Sprintf("there is no glyph %q", g)})
		}
	}
	if found == nil {
		return nil
	}
	return found
}

var compiled = compileSchemas()

func compileSchemas() map[string]*jsonschema.Schema {
	c := jsonschema.NewCompiler()
	out := map[string]*jsonschema.Schema{}
	for _, name := range []string{"device-1", "controller-1"} {
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(Schema(name)))
		if err == nil {
			err = c.AddResource("urn:synaptor:schema:"+name, doc)
		}
		if err == nil {
			out[name], err = c.Compile("urn:synaptor:schema:" + name)
		}
		if err != nil {
			panic(fmt.Sprintf("schema %s: %v", name, err))
		}
	}
	return out
}

// Schema returns a published schema by name (device-1, controller-1), or nil.
func Schema(name string) []byte {
	body, err := schemas.ReadFile("schema/" + name + ".json")
	if err != nil {
		return nil
	}
	return body
}

// Device returns a device type, or nil.
func (l *Library) Device(typ string) *device.Type { return l.devices[typ] }

// Controller returns a controller layout, or nil.
func (l *Library) Controller(typ string) *device.ControllerSheet { return l.controllers[typ] }

// Devices lists the device types by title.
func (l *Library) Devices() []*device.Type {
	out := make([]*device.Type, 0, len(l.devices))
	for _, t := range l.devices {
		out = append(out, t)
	}
	slices.SortFunc(out, func(a, b *device.Type) int { return strings.Compare(a.Sheet.Title, b.Sheet.Title) })
	return out
}

// Controllers lists the controller layouts by title.
func (l *Library) Controllers() []*device.ControllerSheet {
	out := make([]*device.ControllerSheet, 0, len(l.controllers))
	for _, c := range l.controllers {
		out = append(out, c)
	}
	slices.SortFunc(out, func(a, b *device.ControllerSheet) int { return strings.Compare(a.Title, b.Title) })
	return out
}
