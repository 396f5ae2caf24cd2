// Package schematest makes JSON Schemas (draft 2020-12) of Go types, and holds files that are published against them.
package schematest

import (
	"bytes"
	"encoding/json"
	"maps"
	"os"
	"reflect"
	"strings"
	"testing"

	made "github.com/invopop/jsonschema"
	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Object is a schema as JSON.
type Object = map[string]any

// Types makes schemas of types, with what the comments of their packages say.
type Types struct {
	t    *testing.T
	from made.Reflector
	// Defs are the schemas of the types, by their names.
	Defs Object
}

// New has the comments of packages at hand, by their import paths: in which folder each is.
func New(t *testing.T, packages map[string]string) *Types {
	t.Helper()
	out := &Types{t: t, from: made.Reflector{Anonymous: true}, Defs: Object{}}
	for path, folder := range packages {
		var of made.Reflector
		if err := of.AddGoComments("", folder, made.WithFullComment()); err != nil {
			t.Fatal(err)
		}
		if out.from.CommentMap == nil {
			out.from.CommentMap = map[string]string{}
		}
		for name, text := range of.CommentMap {
			_, name, _ = strings.Cut(name[strings.LastIndex(name, "/")+1:], ".")
			out.from.CommentMap[path+"."+name] = strings.Join(strings.Fields(text), " ")
		}
	}
	return out
}

// Of gives a reference to the schema of the type that a value has.
func (s *Types) Of(v any) Object {
	s.t.Helper()
	raw, err := json.Marshal(s.from.Reflect(v))
	if err != nil {
		s.t.Fatal(err)
	}
	var schema struct {
		Ref  string `json:"$ref"`
		Defs Object `json:"$defs"`
	}
	if err := json.Unmarshal(raw, &schema); err != nil || schema.Ref == "" {
		s.t.Fatalf("the schema of a %s: %v", reflect.TypeOf(v), err)
	}
	maps.Copy(s.Defs, schema.Defs)
	return Object{"$ref": schema.Ref}
}

// Published holds a file against a schema; with UPDATE=1 it writes it. It gives the schema, compiled.
func Published(t *testing.T, file string, schema Object) *jsonschema.Schema {
	t.Helper()
	body, err := json.MarshalIndent(schema, "", " ")
	if err != nil {
		t.Fatal(err)
	}
	body = append(body, '\n')
	if os.Getenv("UPDATE") != "" {
		if err := os.WriteFile(file, body, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if now, err := os.ReadFile(file); err != nil || !bytes.Equal(now, body) {
		t.Errorf("%s is not what the types are (%v); UPDATE=1 go test writes it. Whoever reads what is published relies on it: has the format another number?", file, err)
	}
	out, err := Compile(body)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// Compile makes a schema ready to hold documents against.
func Compile(schema []byte) (*jsonschema.Schema, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(schema))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("published.json", doc); err != nil {
		return nil, err
	}
	return c.Compile("published.json")
}
