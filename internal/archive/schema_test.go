package archive

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"sync"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"synaptor/internal/core/show"
	"synaptor/internal/schematest"
)

// kinds has a value of each kind of entity.
var kinds = map[show.Kind]show.Entity{
	show.KindSettings: &show.Settings{}, show.KindDevice: &show.Device{}, show.KindController: &show.Controller{}, show.KindLink: &show.Link{}, show.KindProfile: &show.Profile{},
	show.KindPage: &show.Page{}, show.KindMapping: &show.Mapping{}, show.KindMacro: &show.Macro{}, show.KindStep: &show.Step{}, show.KindReflex: &show.Reflex{}, show.KindTimer: &show.Timer{}, show.KindSafe: &show.SafePicture{}, show.KindAccepted: &show.Accepted{}, show.KindOverlay: &show.Overlay{},
}

// published is the schema of an archive, as it is published.
func published(t *testing.T) *jsonschema.Schema {
	t.Helper()
	types := schematest.New(t, map[string]string{"synaptor/internal/core/show": "../core/show", "synaptor/internal/archive": "../archive"})
	var entities []any
	for _, k := range show.Kinds() {
		one := kinds[k]
		if one == nil {
			t.Fatalf("the schema knows no %s", k)
		}
		entities = append(entities, schematest.Object{"type": "object", "additionalProperties": false, "required": []string{"kind", "id", "body"}, "properties": schematest.Object{
			"kind": schematest.Object{"const": k}, "id": schematest.Object{"type": "string", "description": "The same as in its body."}, "body": types.Of(one)}})
	}
	return schematest.Published(t, "schema/archive-6.json", schematest.Object{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": "urn:" + strings.ReplaceAll(Format, "/", ":"), "title": "An archive of Synaptor",
		"description": "What is in the zip file, each of its JSON files under its name. Beside them are media/ with the pictures, sheets/ with own sheets, and passwords.sealed where passwords were asked for.",
		"type":        "object", "additionalProperties": false, "required": []string{"manifest.json", "show.json"},
		"properties": schematest.Object{
			"manifest.json":    types.Of(manifest{}),
			"show.json":        schematest.Object{"type": "array", "description": "By kind and id; ids are those that the parts of a show refer to each other by.", "items": schematest.Object{"oneOf": entities}},
			"media.json":       schematest.Object{"type": "array", "items": types.Of(Picture{})},
			"assumptions.json": types.Of(assumptions{}),
		},
		"$defs": types.Defs,
	})
}

// compiled is the published schema, which the tests of many archives share.
var compiled = sync.OnceValues(func() (*jsonschema.Schema, error) { return schematest.Compile(Schema()) })

// contents gives the JSON files of an archive under their names.
func contents(t *testing.T, body []byte) map[string]any {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]any{}
	for _, f := range z.File {
		if !strings.HasSuffix(f.Name, ".json") || strings.Contains(f.Name, "/") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		raw, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if out[f.Name], err = jsonschema.UnmarshalJSON(bytes.NewReader(raw)); err != nil {
			t.Fatal(err)
		}
	}
	return out
}

// follows holds that an archive is as the published schema says.
func follows(t *testing.T, body []byte) {
	t.Helper()
	s, err := compiled()
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Validate(contents(t, body)); err != nil {
		t.Fatal(err)
	}
}

func TestTheSchemaIsPublishedAndSaysWhatAnArchiveIs(t *testing.T) {
	s := published(t)
	follows(t, written(t, sample()))
	for what, spoil := range map[string]func(files map[string]any){
		"no show":             func(f map[string]any) { delete(f, "show.json") },
		"another file":        func(f map[string]any) { f["more.json"] = "x" },
		"a show that is none": func(f map[string]any) { f["show.json"] = map[string]any{} },
		"an unknown kind":     func(f map[string]any) { f["show.json"].([]any)[0].(map[string]any)["kind"] = "dance" },
		"an unknown field":    func(f map[string]any) { f["show.json"].([]any)[0].(map[string]any)["body"].(map[string]any)["x"] = 1 },
		"a name that is none": func(f map[string]any) { f["manifest.json"].(map[string]any)["name"] = true },
	} {
		files := contents(t, written(t, sample()))
		spoil(files)
		if s.Validate(files) == nil {
			t.Errorf("%s: the schema says nothing", what)
		}
	}
}
