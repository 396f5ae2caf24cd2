package web

import (
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"maps"
)

// routesWithBody lists what the document says of routes that change something.
func routesWithBody(t *testing.T) (*bodies, []string) {
	t.Helper()
	b, err := documentedBodies(openAPI)
	if err != nil {
		t.Fatal(err)
	}
	keys := slices.Sorted(maps.Keys(b.routes))
	return b, slices.DeleteFunc(keys, func(k string) bool { return strings.HasPrefix(k, "GET ") || !strings.Contains(k, "/api/v1/") })
}

// TestAFieldThatIsNotKnownIsRefusedAtItsName on every route, before anything is looked up.
func TestAFieldThatIsNotKnownIsRefusedAtItsName(t *testing.T) {
	b, routes := routesWithBody(t)
	h := New(Deps{})
	for _, key := range routes {
		if _, open := b.fields(b.routes[key], 0); open && b.routes[key] != nil {
			continue // it takes any JSON: a sheet
		}
		method, path, _ := strings.Cut(key, " ")
		req := httptest.NewRequest(method, strings.NewReplacer("{", "", "}", "").Replace(path), strings.NewReader(`{"nosuch": 1}`))
		req.Host = "127.0.0.1"
		w := httptest.NewRecorder()
		h.ServeHTTP(w, req)
		if w.Code != http.StatusBadRequest || !strings.Contains(w.Body.String(), `"field":"nosuch"`) {
			t.Errorf("%s answered %d %s", key, w.Code, w.Body)
		}
	}
	if len(routes) < 60 {
		t.Errorf("only %d routes were looked at", len(routes))
	}
}

func TestAFieldInsideIsRefusedByItsPath(t *testing.T) {
	b, _ := routesWithBody(t)
	schema := &bodySchema{Properties: map[string]*bodySchema{
		"name": {}, "list": {Items: &bodySchema{Ref: "#/components/schemas/One"}}, "any": {Additional: []byte("true")},
		"either": {OneOf: []*bodySchema{{Properties: map[string]*bodySchema{"a": {}}}, {Properties: map[string]*bodySchema{"b": {}}}}},
	}}
	b.schemas["One"] = &bodySchema{Properties: map[string]*bodySchema{"id": {}}}
	for _, c := range []struct {
		body any
		want string
	}{
		{map[string]any{"name": "x", "list": []any{map[string]any{"id": 1.0}}}, ""},
		{map[string]any{"list": []any{map[string]any{"id": 1.0}, map[string]any{"it": 1.0}}}, "list.1.it"},
		{map[string]any{"any": map[string]any{"x": 1.0}}, ""},
		{map[string]any{"either": map[string]any{"a": 1.0, "b": 2.0}}, ""},
		{map[string]any{"either": map[string]any{"c": 1.0}}, "either.c"},
		{[]any{1.0}, ""},
	} {
		if got := b.unknown(schema, c.body, "", 0); got != c.want {
			t.Errorf("%v: %q, want %q", c.body, got, c.want)
		}
	}
}
