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
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"synaptor/internal/core/device"
)

//go:embed devices/*.json controllers/*.json
var builtin embed.FS

//go:embed schema/*.json
var schemas embed.FS

// maxSize is the largest sheet, in bytes, that is read.
const maxSize = 1 << 20

// Problem says what is wrong with a sheet, and where.
type Problem struct {
	File   string `json:"file"`
	Line   int    `json:"line"` // from 1; 0 when the file could not be read
	Reason string `json:"reason"`
}

// Error implements error.
func (p Problem) Error() string { return fmt.Sprintf("%s:%d: %s", p.File, p.Line, p.Reason) }

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
		if p := l.add(e.Name(), body, before); p != nil {
			l.Problems = append(l.Problems, *p)
		}
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
func (l *Library) add(file string, body []byte, before *Library) *Problem {
	sum := sha256.Sum256(body)
	made, known := parsed{}, false
	if before != nil {
		made, known = before.bytes[sum]
	}
	if !known {
		var p *Problem
		if made, p = parseAny(file, body); p != nil {
			return p
		}
	}
	typ := made.typ()
	if l.devices[typ] != nil && made.device != nil || l.controllers[typ] != nil && made.controller != nil {
		return &Problem{file, lineOf(body, "/type"), fmt.Sprintf("the type %q is taken by another sheet", typ)}
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
func parseAny(file string, body []byte) (made parsed, p *Problem) {
	if formatOf(body) == device.ControllerFormat {
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

func formatOf(body []byte) string {
	var head struct {
		Sheet string `json:"sheet"`
	}
	_ = json.Unmarshal(body, &head)
	return head.Sheet
}

// ParseDevice checks a device sheet against its schema and compiles it.
func ParseDevice(file string, body []byte) (*device.Type, *Problem) {
	var s device.Sheet
	if p := parse(file, body, "device-1", &s); p != nil {
		return nil, p
	}
	t, err := device.Compile(&s)
	var at *device.Problem
	switch {
	case errors.As(err, &at):
		return nil, &Problem{file, lineOf(body, at.Where), at.Text}
	case err != nil:
		return nil, &Problem{file, 1, err.Error()}
	}
	return t, nil
}

// ParseController checks a controller sheet against its schema.
func ParseController(file string, body []byte) (*device.ControllerSheet, *Problem) {
	var s device.ControllerSheet
	if p := parse(file, body, "controller-1", &s); p != nil {
		return nil, p
	}
	if text := s.Check(); text != "" {
		return nil, &Problem{file, 1, text}
	}
	return &s, nil
}

func parse(file string, body []byte, schema string, into any) *Problem {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
	if err != nil {
		return &Problem{file, lineOfError(body, err), "this is not JSON: " + err.Error()}
	}
	err = compiled[schema].Validate(doc)
	var v *jsonschema.ValidationError
	if errors.As(err, &v) {
		for len(v.Causes) > 0 {
			v = v.Causes[0]
		}
		where := pointer(v.InstanceLocation)
		if extra, ok := v.ErrorKind.(*kind.AdditionalProperties); ok {
			where += "/" + extra.Properties[0]
		}
		reason := v.ErrorKind.LocalizedString(message.NewPrinter(language.English))
		return &Problem{file, lineOf(body, where), fmt.Sprintf("%s: %s", orRoot(where), reason)}
	}
	if err != nil {
		return &Problem{file, 1, err.Error()}
	}
	if err := json.Unmarshal(body, into); err != nil {
		return &Problem{file, lineOfError(body, err), err.Error()}
	}
	return nil
}

func pointer(parts []string) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteByte('/')
		b.WriteString(strings.NewReplacer("~", "~0", "/", "~1").Replace(p))
	}
	return b.String()
}

func orRoot(where string) string {
	if where == "" {
		return "the sheet"
	}
	return where
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
