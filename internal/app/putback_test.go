package app_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

func TestAPressAndARunCanBePutBackForTwoMinutesWithAListFirst(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	id := r.press("c1") // All-sky cam on program
	r.entry(id, journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	var plan engine.PutBackPlan
	r.must(200, "GET", "/api/v1/putback/"+id, nil, &plan)
	if len(plan.Returns) != 1 || plan.Returns[0].From != "All-sky cam" || plan.Returns[0].To != "Presenter cam" || len(plan.Left) != 0 {
		t.Errorf("planned %+v", plan)
	}
	var back struct{ ID string }
	r.must(202, "POST", "/api/v1/putback/"+id, nil, &back)
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	r.entry(back.ID, journal.Confirmed)
	r.must(200, "GET", "/api/v1/putback/"+id, nil, &plan)
	if len(plan.Returns) != 0 {
		t.Errorf("put back twice: %+v", plan)
	}
	r.fails(422, "GET", "/api/v1/putback/nothing", nil)
	// A run without such a step, and the key that puts back what was last.
	macro := r.script("Two keyers", nil, keyer("1", true), keyer("3", true))
	r.entry(r.run(macro), journal.Confirmed)
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "synaptor", "action": "put-back"}, nil)
	r.entry(r.press("e1"), journal.Confirmed) // Slides on program
	r.press("a4")
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	r.press("a4") // once more: what was done before that
	h.word("dome-switcher:keyer/1/on", "off")
	h.word("dome-switcher:keyer/3/on", "off")
	r.eventually("nothing is left to put back", func() bool { return r.entry(r.press("a4")).Outcome == journal.Refused })
}

func TestWhatARunLeftBehindIsOfferedAfterARestartAndNeverDoneByItself(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	h, l := r.hand("producer-grid"), r.runs()
	entry := r.run(r.script("Interrupted", nil, keyer("1", true), wait(60_000), putBack))
	h.word("dome-switcher:keyer/1/on", "on")
	l.at(entry, 1)
	r.eventually("it is stored", func() bool {
		raw, err := os.ReadFile(filepath.Join(data, "state.db-wal"))
		return err == nil && strings.Contains(string(raw), entry)
	})
	r.App.Close()
	r = startIn(t, data)
	l = r.runs()
	var left []engine.LeftOver
	l.until("it is offered", func() bool {
		return json.Unmarshal(l.values["left"], &left) == nil && len(left) == 1 && left[0].Title == "Interrupted" && left[0].Entry == entry
	})
	var plan engine.PutBackPlan
	r.must(200, "GET", "/api/v1/putback/"+entry, nil, &plan)
	if len(plan.Returns)+len(plan.Left) != 1 {
		t.Errorf("planned %+v", plan)
	}
	r.must(204, "DELETE", "/api/v1/putback/"+entry, nil, nil)
	l.until("nothing is left", func() bool { return string(l.values["left"]) == "[]" })
}
