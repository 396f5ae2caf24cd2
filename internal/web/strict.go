package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"regexp"
	"slices"
	"strings"

	"synaptor/internal/access"

	"github.com/labstack/echo/v5"
)

// bodies are what the document says of the bodies that routes take.
type bodies struct {
	schemas map[string]*bodySchema
	routes  map[string]*bodySchema // by method and path; nil where a route takes none
	roles   map[string]access.Role // the least that takes a route
}

// bodySchema is as much of a JSON Schema as tells which fields there are.
type bodySchema struct {
	Ref        string                 `json:"$ref"`
	Properties map[string]*bodySchema `json:"properties"`
	Items      *bodySchema            `json:"items"`
	AllOf      []*bodySchema          `json:"allOf"`
	OneOf      []*bodySchema          `json:"oneOf"`
	AnyOf      []*bodySchema          `json:"anyOf"`
	Additional json.RawMessage        `json:"additionalProperties"`
}

var echoParam = regexp.MustCompile(`:(\w+)`)

// documentedBodies reads the document. Routes whose body is not JSON are not in it.
func documentedBodies(doc []byte) (*bodies, error) {
	var d struct {
		Paths map[string]map[string]struct {
			Role        string `json:"x-role"`
			RequestBody *struct {
				Content map[string]struct{ Schema *bodySchema }
			}
		}
		Components struct{ Schemas map[string]*bodySchema }
	}
	if err := json.Unmarshal(doc, &d); err != nil {
		return nil, fmt.Errorf("read the OpenAPI document: %w", err)
	}
	b := &bodies{schemas: d.Components.Schemas, routes: map[string]*bodySchema{}, roles: map[string]access.Role{}}
	for path, ops := range d.Paths {
		for method, op := range ops {
			key := strings.ToUpper(method) + " " + path
			role := access.Role(op.Role)
			if role == anybody {
				role = access.Nobody
			} else if !role.Valid() {
				return nil, fmt.Errorf("%s says no x-role: who may do it", key)
			}
			b.roles[key] = role
			if op.RequestBody == nil {
				b.routes[key] = nil
			} else if c, isJSON := op.RequestBody.Content["application/json"]; isJSON {
				b.routes[key] = c.Schema
			}
		}
	}
	return b, nil
}

// anybody is the x-role of what takes no signing in.
const anybody = "nobody"

// routeOf is how the document calls the route of a request.
func routeOf(c *echo.Context) string {
	return c.Request().Method + " " + echoParam.ReplaceAllString(c.Path(), "{$1}")
}

// strict refuses a body with a field that the document does not name, at its name: what would be
// ignored is not taken.
func (b *bodies) strict(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		schema, documented := b.routes[routeOf(c)]
		if !documented || r.ContentLength == 0 || r.Body == nil {
			return next(c)
		}
		body, err := bodyOf(r, maxBody)
		if err != nil {
			return err
		}
		r.Body = io.NopCloser(bytes.NewReader(body))
		var v any
		if json.Unmarshal(body, &v) != nil {
			return next(c) // the route says what is wrong with it, or takes none
		}
		if name := b.unknown(schema, v, "", 0); name != "" {
			return &badBody{name, fmt.Sprintf("There is no field %q.", name)}
		}
		return next(c)
	}
}

// maxDepth bounds how deep bodies are looked through.
//
//limit:count depth of a body | in the answer
const maxDepth = 40

// unknown gives the first field of a value that a schema does not name, by its path; "" where all
// are known. No schema knows no field.
func (b *bodies) unknown(s *bodySchema, v any, at string, depth int) string {
	if depth > maxDepth {
		return ""
	}
	switch v := v.(type) {
	case map[string]any:
		known, open := b.fields(s, depth)
		if open {
			return ""
		}
		for _, name := range slices.Sorted(maps.Keys(v)) {
			sub, has := known[name]
			if !has {
				return at + name
			}
			if wrong := b.unknown(sub, v[name], at+name+".", depth+1); wrong != "" {
				return wrong
			}
		}
	case []any:
		for s != nil && s.Ref != "" {
			s = b.schemas[strings.TrimPrefix(s.Ref, "#/components/schemas/")]
		}
		if s == nil || s.Items == nil {
			return ""
		}
		for i, item := range v {
			if wrong := b.unknown(s.Items, item, fmt.Sprintf("%s%d.", at, i), depth+1); wrong != "" {
				return wrong
			}
		}
	}
	return ""
}

// fields gives the fields of an object with the schemas of their values; open says that it takes
// any.
func (b *bodies) fields(s *bodySchema, depth int) (known map[string]*bodySchema, open bool) {
	known = map[string]*bodySchema{}
	if s == nil || depth > maxDepth {
		return known, false
	}
	if s.Ref != "" {
		return b.fields(b.schemas[strings.TrimPrefix(s.Ref, "#/components/schemas/")], depth+1)
	}
	parts := slices.Concat(s.AllOf, s.OneOf, s.AnyOf)
	for _, part := range parts {
		more, any := b.fields(part, depth+1)
		open = open || any
		maps.Copy(known, more)
	}
	maps.Copy(known, s.Properties)
	// An object of which nothing is said takes anything.
	return known, open || len(s.Additional) > 0 && string(s.Additional) != "false" || s.Properties == nil && len(parts) == 0
}
