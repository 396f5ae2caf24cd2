package app_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/version"
	"synaptor/internal/edit"
)

func (r *rig) versions() (list []edit.Version) {
	r.Helper()
	r.must(200, "GET", "/api/v1/versions", nil, &list)
	return list
}

func TestAVersionIsKeptComparedAndComesBack(t *testing.T) {
	r := start(t).ready()
	if p := r.fails(422, "POST", "/api/v1/versions", map[string]any{"name": " "}); p.Field != "name" {
		t.Errorf("a version without a name: %+v", p)
	}
	var made struct{ ID int64 }
	r.must(201, "POST", "/api/v1/versions", map[string]any{"name": "Before the rehearsal"}, &made)
	if list := r.versions(); len(list) != 1 || list[0].Name != "Before the rehearsal" || !list[0].Now || list[0].By == "" || list[0].Bytes == 0 {
		t.Fatalf("kept are %+v", list)
	}
	canonical := func() string { return string(r.Edit.Program().Show.Canonical()) }
	before := canonical()

	dev := r.device("dome-switcher")
	r.must(204, "PUT", "/api/v1/devices/dome-switcher", map[string]any{"rev": dev.Rev, "name": "Studio switcher", "type": "switcher.osc", "host": dev.Host, "port": dev.Port}, nil)
	r.must(204, "DELETE", "/api/v1/pages/replay", nil, nil)
	var changes []version.Difference
	at := fmt.Sprintf("/api/v1/versions/%d", made.ID)
	r.must(200, "GET", at+"/changes", nil, &changes)
	if d := changes[0]; d.Title != "Studio switcher" || d.What != version.Changed || !slices.Equal(d.Fields, []string{"name"}) {
		t.Errorf("first it tells %+v", d)
	}
	if i := slices.IndexFunc(changes, func(d version.Difference) bool { return d.Kind == "page" }); i < 0 || changes[i].Title != "Replay" || changes[i].What != version.Removed {
		t.Errorf("of the pages it tells %+v", changes)
	}
	// Much was taken away: that is kept by itself, as it was before.
	if list := r.versions(); len(list) != 2 || list[0].Name != "" || !strings.Contains(list[0].Why, "before “Delete") || list[1].Now {
		t.Errorf("kept are %+v", list)
	}

	// A part comes back, and the rest stays.
	r.must(204, "POST", at+"/restore", map[string]any{"only": []map[string]any{{"kind": "page", "id": "replay"}}}, nil)
	if d := r.doc(); d.Undo != "Take back Replay as in “Before the rehearsal”" || r.device("dome-switcher").Name != "Studio switcher" {
		t.Errorf("after that undo is %q", d.Undo)
	}
	// All of it comes back, and undo takes that back.
	r.must(204, "POST", at+"/restore", nil, nil)
	if canonical() != before {
		t.Error("the show is not what it was")
	}
	r.undo()
	if r.device("dome-switcher").Name != "Studio switcher" {
		t.Error("undo did not take the way back away")
	}
	r.must(204, "PUT", at, map[string]any{"name": "First"}, nil)
	r.must(204, "DELETE", at, nil, nil)
	r.fails(404, "GET", at+"/changes", nil)
	r.fails(404, "POST", at+"/restore", map[string]any{})
	r.fails(404, "PUT", at, map[string]any{"name": "x"})
	r.fails(422, "GET", "/api/v1/versions/x/changes", nil)
}

func TestAVersionKeepsItselfOnceForWhatWasEdited(t *testing.T) {
	r := start(t)
	n := len(r.versions())
	for range 3 {
		if err := r.Edit.KeepChanged("kept by itself"); err != nil {
			t.Fatal(err)
		}
	}
	if list := r.versions(); len(list) != n+1 || !list[0].Now {
		t.Errorf("kept are %+v", list)
	}
}
