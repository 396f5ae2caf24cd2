package app_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

func TestPutBackLeavesWhatAHandHasChanged(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	id := r.script("Special", nil, program("3"), keyer("1", true), keyer("2", true), wait(1500), putBack)
	entry := r.run(id)
	h.word("dome-switcher:keyer/2/on", "on")
	r.operate("/mix/1/program", 5) // in the meantime
	h.word("dome-switcher:mix/1/program", "Slides")
	row := l.over(entry)
	h.word("dome-switcher:keyer/1/on", "off")
	h.word("dome-switcher:keyer/2/on", "off")
	h.word("dome-switcher:mix/1/program", "Slides")
	if len(row.Left) != 1 || !strings.Contains(row.Left[0], "somebody has changed it since") {
		t.Errorf("left %q", row.Left)
	}
}

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

func TestARunWithinARestoresOnlyItsOwn(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	inner := r.script("Inner", nil, keyer("2", true), wait(800), putBack)
	outer := r.script("Outer", nil, keyer("1", true), map[string]any{"kind": "run", "run": inner}, wait(300), putBack)
	entry := r.run(outer)
	h.word("dome-switcher:keyer/2/on", "on")
	h.word("dome-switcher:keyer/2/on", "off") // the inner one has put back its own
	if r.reading("keyer/1/on").Word != "on" {
		t.Error("the inner run put back what the outer one had changed")
	}
	l.over(entry)
	h.word("dome-switcher:keyer/1/on", "off")
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

func TestWhatWasThereFirstReturnsWhateverRunsInBetween(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	// Started over, it keeps what the first run found.
	over := r.script("Over", map[string]any{"again": "restart"}, program("3"), wait(1200), putBack)
	l.at(r.run(over), 1)
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	l.over(r.run(over))
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	if left := string(l.values["left"]); left != "" && left != "[]" {
		t.Errorf("starting over left something to decide: %s", left)
	}
	// Beside each other: the second never takes what the first has set for what was there.
	first := r.script("First", nil, program("3"), wait(1000), putBack)
	second := r.script("Second", nil, program("5"), wait(1800), putBack)
	a := r.run(first)
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	b := r.run(second)
	h.word("dome-switcher:mix/1/program", "Slides")
	if row := l.over(a); len(row.Left) != 1 {
		t.Errorf("the first left %q", row.Left)
	}
	if row := l.over(b); len(row.Left) != 1 || !strings.Contains(row.Left[0], "changes the same things") {
		t.Errorf("the second left %q", row.Left)
	}
	h.word("dome-switcher:mix/1/program", "Presenter cam")
}

func TestADeviceThatIsGoneAtThePutBackIsLeftAndNamed(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	h, l := r.hand("scope-console"), r.runs()
	id := r.script("Both", map[string]any{"onError": "go-on"}, keyer("1", true), do("sound-desk", "mute", map[string]string{"channel": "5"}),
		do("sound-desk", "open", map[string]string{"channel": "4"}), wait(1800), putBack)
	h.word("sound-desk:channel/5/mute", "on") // it is muted already, and opened for this
	r.must(204, "POST", "/api/v1/bench/mixer/operate", map[string]any{"address": "/channel/5/mute", "value": 0}, nil)
	h.word("sound-desk:channel/5/mute", "off")
	entry := r.run(id)
	h.word("sound-desk:channel/5/mute", "on")
	h.word("dome-switcher:keyer/1/on", "on")
	r.fault(faults.Faults{Cut: true})
	row := l.over(entry)
	if !strings.Contains(strings.Join(row.Left, " "), "nobody knows what it is now") {
		t.Errorf("left %q", row.Left)
	}
	h.word("sound-desk:channel/5/mute", "off") // the rest returned
}
