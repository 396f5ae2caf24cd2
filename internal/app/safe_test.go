package app_test

import (
	"testing"

	"synaptor/internal/journal"
)

// TestSafePicturesAreChosenAndShown by the API: chosen for an output, judged, shown with a request that nothing stands before, put back, undone.
func TestSafePicturesAreChosenAndShown(t *testing.T) {
	r := start(t).ready()
	r.connected("stream-pc")
	var rows []struct {
		Output, Title, Now, Action, Problem string
		LandsMs                             float64
		Safe                                bool
	}
	list := func() int { r.must(200, "GET", "/api/v1/safe", nil, &rows); return len(rows) }
	r.eventually("all outputs are known", func() bool { return list() == 6 })
	const mix1 = "/api/v1/safe/dome-switcher.mix.1.program"
	r.must(204, "PUT", mix1, map[string]any{"then": putOn("1", "82")}, nil)
	if p := r.fails(422, "PUT", mix1, map[string]any{"then": putOn("2", "82")}); p.Field != "action" {
		t.Errorf("an action for another output is wrong at %s", p.Field)
	}
	r.fails(404, "PUT", "/api/v1/safe/dome-switcher.mix.9.program", map[string]any{"then": putOn("1", "82")})
	before := r.reading("mix/1/program").Value
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/safe", nil, &made)
	r.entry(made.ID, journal.Confirmed)
	if got := r.reading("mix/1/program").Value; got != "82" && got != 82.0 {
		t.Errorf("mix effect 1 shows %v", got)
	}
	list()
	for _, row := range rows {
		if !row.Safe || row.Action == "" || row.Problem != "" {
			t.Errorf("after Safe: %+v", row)
		}
	}
	r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": "safe-back", "params": map[string]string{}}, &made)
	r.entry(made.ID, journal.Confirmed)
	r.eventually("what was there before is back", func() bool { return r.reading("mix/1/program").Value == before })
	r.must(204, "DELETE", mix1, nil, nil)
	r.must(200, "POST", "/api/v1/undo", map[string]any{}, nil)
	list()
	for _, row := range rows {
		if row.Action == "" {
			t.Errorf("undone, %s has no safe picture", row.Title)
		}
	}
}
