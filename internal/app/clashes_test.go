package app_test

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
)

// TestAVersionComesBackWhileTwoEdit: each request is done whole or refused with a sentence; then the version is what it was, and
// undo leads back to what the two have made.
func TestAVersionComesBackWhileTwoEdit(t *testing.T) {
	r := start(t).ready()
	var made struct{ ID int64 }
	r.must(201, "POST", "/api/v1/versions", map[string]any{"name": "Before"}, &made)
	canonical := func() string { return string(r.Edit.Program().Show.Canonical()) }
	before := canonical()
	back := fmt.Sprintf("/api/v1/versions/%d/restore", made.ID)
	var two sync.WaitGroup
	for i := range 2 {
		other := r.another()
		two.Go(func() {
			for n := range 15 {
				if got := other.call("POST", "/api/v1/profiles", map[string]any{"name": fmt.Sprintf("Night %d-%d", i, n)}, nil); got != http.StatusCreated && got != http.StatusConflict {
					t.Errorf("an edit answered %d", got)
				}
				if n%5 == 4 {
					if got := other.call("POST", "/api/v1/undo", nil, nil); got != http.StatusOK && got != http.StatusConflict {
						t.Errorf("undo answered %d", got)
					}
				}
			}
		})
	}
	for range 5 {
		if got := r.call("POST", back, nil, nil); got != http.StatusNoContent && got != http.StatusConflict {
			t.Errorf("the way back answered %d", got)
		}
	}
	two.Wait()
	r.adds("POST", "/api/v1/profiles", map[string]any{"name": "After all"})
	after := canonical()
	r.must(204, "POST", back, nil, nil)
	if canonical() != before {
		t.Error("the version is not what it was")
	}
	r.undo()
	if canonical() != after {
		t.Error("undo does not lead back to what the two have made")
	}
}

// TestAShowIsDeletedWhileAnotherWindowHasItInHand: whoever wanted to open it, rename it or copy it hears that it is gone; the one that
// is open stays, whoever wants it gone.
func TestAShowIsDeletedWhileAnotherWindowHasItInHand(t *testing.T) {
	r := start(t).ready()
	other := r.another()
	second := r.copies("Rehearsal")
	other.must(200, "GET", "/api/v1/shows/"+second+"/opening", nil, nil)
	r.must(204, "DELETE", "/api/v1/shows/"+second, nil, nil)
	for what, p := range map[string]problem{
		"opening": other.fails(404, "POST", "/api/v1/shows/"+second+"/open", map[string]any{"sure": true}),
		"looking": other.fails(404, "GET", "/api/v1/shows/"+second+"/opening", nil),
		"copying": other.fails(404, "POST", "/api/v1/shows", map[string]any{"name": "Copy", "from": second}),
		"naming":  other.fails(404, "PUT", "/api/v1/shows/"+second, map[string]any{"name": "Other"}),
	} {
		if !strings.Contains(p.Detail, "not here any more") {
			t.Errorf("%s it says %q", what, p.Detail)
		}
	}
	r.must(204, "POST", "/api/v1/shows/"+second+"/back", nil, nil)
	other.opens(second, false)
	if p := r.fails(409, "DELETE", "/api/v1/shows/"+second, nil); !strings.Contains(p.Detail, "is open") {
		t.Errorf("deleting the open one says %q", p.Detail)
	}
	if got := r.doc().Name; got != "Rehearsal" {
		t.Errorf("open is %s", got)
	}
}
