package app_test

import (
	"fmt"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/journal"
)

func TestMacrosInACircleAreNamedAndNeverRun(t *testing.T) {
	r := start(t).ready()
	ids := map[string]string{}
	for _, name := range []string{"One", "Two", "Three"} {
		ids[name] = r.script(name, nil)
	}
	for from, to := range map[string]string{"One": "Two", "Two": "Three", "Three": "One"} {
		r.must(201, "POST", "/api/v1/macros/"+ids[from]+"/steps", map[string]any{"kind": "run", "run": ids[to], "parent": "", "at": 0}, nil)
	}
	if doc := r.macro(ids["One"]); len(doc.Findings) != 1 || doc.Findings[0].ID != "macro-cycle" || !strings.Contains(doc.Findings[0].Text, "One → Two → Three → One") {
		t.Errorf("found %+v", doc.Findings)
	}
	if e := r.entry(r.run(ids["Two"]), journal.Refused); !strings.Contains(e.Reason, "circle") {
		t.Error(e.Reason)
	}
}

func TestFindingsAreFixedByOneEditThatCanBeUndone(t *testing.T) {
	r := start(t).ready()
	for name, c := range map[string]struct {
		steps []map[string]any
		id    string
		then  []string
	}{
		"a toggle": {[]map[string]any{do("dome-switcher", "keyer-toggle", map[string]string{"keyer": "1"})}, "toggle-in-macro", []string{"Switch Logo on"}},
		"a picture nobody sees": {[]map[string]any{program("3"), program("4")}, "overwritten-before-seen",
			[]string{"Put All-sky cam on program", "Wait", "Put Guest cam on program"}},
		"a transition that is cut short": {[]map[string]any{do("dome-switcher", "auto", map[string]string{"mix": "1"}), program("4")}, "wait-shorter-than-transition",
			[]string{"Auto", "Wait", "Put Guest cam on program"}},
	} {
		id := r.script(name, nil, c.steps...)
		doc := r.macro(id)
		at := -1
		for i, f := range doc.Findings {
			if f.ID == c.id && f.Fix != "" {
				at = i
			}
		}
		if at < 0 {
			t.Errorf("%s: found %+v", name, doc.Findings)
			continue
		}
		f := doc.Findings[at]
		r.must(204, "POST", "/api/v1/macros/"+id+"/fix", map[string]any{"finding": f.ID, "step": f.Step, "other": f.Other}, nil)
		doc = r.macro(id)
		titles := []string{}
		for _, l := range doc.Lines {
			titles = append(titles, l.Title)
		}
		if fmt.Sprint(titles) != fmt.Sprint(c.then) {
			t.Errorf("%s: then it is %q", name, titles)
		}
		for _, o := range doc.Findings {
			if o.ID == c.id {
				t.Errorf("%s: still found %q", name, o.Text)
			}
		}
		if p := r.fails(422, "POST", "/api/v1/macros/"+id+"/fix", map[string]any{"finding": f.ID, "step": f.Step, "other": f.Other}); p.Field != "finding" {
			t.Errorf("%s: fixed twice: %+v", name, p)
		}
		r.must(200, "POST", "/api/v1/undo", nil, nil)
		if got := r.macro(id); len(got.Findings) != len(doc.Findings)+1 && len(got.Lines) != len(c.steps) {
			t.Errorf("%s: undone it is %+v", name, got)
		}
	}
}

func TestUseBecomesAMacro(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	r.must(204, "POST", "/api/v1/recording", nil, nil)
	r.entry(r.press("c1"), journal.Confirmed) // All-sky cam on program
	r.entry(r.press("d3"), journal.Confirmed) // the logo on, and off again: a slip
	r.entry(r.press("d3"), journal.Confirmed)
	r.operate("/keyer/2/on", 1) // by hand, on the front panel
	h.word("dome-switcher:keyer/2/on", "on")
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/recording/end", map[string]any{"name": "As I did it"}, &made)
	titles := []string{}
	for _, l := range r.macro(made.ID).Lines {
		if l.Kind != "wait" {
			titles = append(titles, l.Title)
		}
	}
	if fmt.Sprint(titles) != fmt.Sprint([]string{"Put All-sky cam on program", "Switch Caption on"}) {
		t.Errorf("made %q", titles)
	}
	if p := r.fails(422, "POST", "/api/v1/recording/end", map[string]any{"name": "Nothing"}); p.Field != "name" {
		t.Errorf("%+v", p)
	}
}

func TestKeysBecomeAMacroAndReadingsARecall(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/pages/cut/macro", map[string]any{"controls": []string{"c1", "d3"}, "name": "Both"}, &made)
	kinds := []string{}
	for _, l := range r.macro(made.ID).Lines {
		kinds = append(kinds, l.Kind)
	}
	if fmt.Sprint(kinds) != "[together do do]" {
		t.Errorf("made %v", kinds)
	}
	r.entry(r.press("c1"), journal.Confirmed) // it runs the macro now
	h.word("dome-switcher:keyer/1/on", "on")
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	r.must(201, "POST", "/api/v1/devices/dome-switcher/capture", map[string]any{"paths": []string{"mix/1/program", "keyer/1/on"}, "name": ""}, &made)
	r.operate("/mix/1/program", 1)
	r.operate("/keyer/1/on", 0)
	h.word("dome-switcher:keyer/1/on", "off")
	r.entry(r.run(made.ID), journal.Confirmed)
	h.word("dome-switcher:keyer/1/on", "on")
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	r.fails(422, "POST", "/api/v1/devices/dome-switcher/capture", map[string]any{"paths": []string{"model"}, "name": ""})
}

func TestStepsAreMovedCopiedAndHaveTheirPlaces(t *testing.T) {
	r := start(t).ready()
	id := r.script("Places", nil, map[string]any{"kind": "together", "as": "t"}, keyer("1", true), keyer("2", true))
	base := "/api/v1/macros/" + id
	shape := func() string {
		var out []string
		doc := r.macro(id)
		for _, l := range doc.Lines {
			depth := ""
			if l.Parent != "" {
				depth = ">"
			}
			out = append(out, depth+l.Title)
		}
		return strings.Join(out, "; ")
	}
	move := func(step int, way string) {
		t.Helper()
		r.must(204, "POST", base+"/steps/move", map[string]any{"steps": []string{r.macro(id).Lines[step].ID}, "way": way}, nil)
	}
	move(1, "in")
	if got := shape(); got != "Together; >Switch Logo on; Switch Caption on" {
		t.Error(got)
	}
	move(2, "in")
	move(2, "up")
	if got := shape(); got != "Together; >Switch Caption on; >Switch Logo on" {
		t.Error(got)
	}
	move(1, "out")
	if got := shape(); got != "Together; >Switch Logo on; Switch Caption on" {
		t.Error(got)
	}
	doc := r.macro(id)
	if p := r.fails(422, "POST", base+"/steps/move", map[string]any{"steps": []string{doc.Lines[0].ID}, "way": "up"}); p.Field != "way" {
		t.Errorf("%+v", p)
	}
	if p := r.fails(422, "POST", base+"/steps", map[string]any{"kind": "wait", "ms": 1000, "parent": doc.Lines[0].ID, "at": 0}); p.Field != "parent" {
		t.Errorf("a wait in a together: %+v", p)
	}
	other := r.script("Other", nil, wait(100))
	r.must(201, "POST", "/api/v1/macros/"+other+"/steps/paste", map[string]any{"steps": []string{doc.Lines[0].ID}, "parent": "", "at": 0}, nil)
	if got := len(r.macro(other).Lines); got != 3 {
		t.Errorf("pasted, it has %d steps", got)
	}
	r.must(204, "POST", base+"/steps/shift", map[string]any{"step": doc.Lines[2].ID, "byMs": 500}, nil)
	if got := shape(); got != "Together; >Switch Logo on; Wait; Switch Caption on" {
		t.Error(got)
	}
	r.must(204, "POST", base+"/steps/shift", map[string]any{"step": doc.Lines[2].ID, "byMs": -500}, nil)
	if got := shape(); got != "Together; >Switch Logo on; Switch Caption on" {
		t.Error(got)
	}
	var copied struct{ ID string }
	r.must(201, "POST", base+"/duplicate", nil, &copied)
	if got := len(r.macro(copied.ID).Lines); got != 3 {
		t.Errorf("the copy has %d steps", got)
	}
	for range 3 {
		r.must(200, "POST", "/api/v1/undo", nil, nil)
	}
	if r.call("GET", "/api/v1/macros/"+copied.ID, nil, nil) != 404 {
		t.Error("the copy is still there")
	}
}

func TestAnOptionThatIsGoneIsFoundAndTheMacroDoesNotBegin(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	id := r.script("Cut to guest", nil, program("4"))
	r.operate("/input/4/name", "Visitor") // renamed: followed by its number
	h.word("dome-switcher:input/4/name", "Visitor")
	if doc := r.macro(id); doc.Lines[0].Title != "Put Visitor on program" || len(doc.Findings) != 0 {
		t.Errorf("renamed: %+v", doc)
	}
	r.operate("/input/4/gone", 1)
	r.eventually("it is found", func() bool {
		doc := r.macro(id)
		return len(doc.Findings) == 1 && doc.Findings[0].ID == "option-gone" && strings.Contains(doc.Findings[0].Text, "Visitor")
	})
	if e := r.entry(r.run(id), journal.Refused); !strings.Contains(e.Reason, "not there any more") {
		t.Error(e.Reason)
	}
	// One that may run what can run leaves it out.
	id = r.script("What can", map[string]any{"partly": true}, program("4"), keyer("1", true))
	l := r.runs()
	if row := l.over(r.run(id)); row.State != "ended" || len(row.Left) != 1 {
		t.Errorf("what can run: %+v", row)
	}
	h.word("dome-switcher:keyer/1/on", "on")
}

func TestALatencyThatHasChangedIsNoticed(t *testing.T) {
	r := start(t).ready()
	l := r.follow("findings")
	id := r.script("Twice", nil, keyer("1", true), wait(10), keyer("1", false))
	for range 3 {
		r.entry(r.run(id), journal.Confirmed)
	}
	r.must(204, "PUT", "/api/v1/bench/switcher/faults", faults.Faults{LatencyMs: 150}, nil)
	for range 5 {
		r.entry(r.run(id), journal.Confirmed)
	}
	l.until("it is counted", func() bool { return strings.Contains(string(l.values["findings"]), id) })
	found := r.macro(id).Findings
	if len(found) == 0 || found[len(found)-1].ID != "latency-changed" || !strings.Contains(found[len(found)-1].Text, "Dome switcher answers in") {
		t.Errorf("found %+v", found)
	}
}

func TestAFadeThatNobodyHearsAndStepsOnSlowDevicesAreNoted(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	l := r.runs()
	fade := map[string]any{"kind": "fade", "ms": 300, "action": map[string]any{"device": "sound-desk", "action": "level", "params": map[string]string{"channel": "5", "level": "0"}}}
	id := r.script("Unheard", nil, fade)
	h := r.hand("scope-console")
	h.word("sound-desk:channel/5/mute", "on")
	if found := r.macro(id).Findings; len(found) != 1 || found[0].ID != "fade-unheard" || !strings.Contains(found[0].Text, "Music is muted") {
		t.Errorf("found %+v", found)
	}
	if row := l.over(r.run(id)); row.State != "ended" {
		t.Errorf("the level moves all the same: %+v", row)
	}
	h.word("sound-desk:channel/5/level", "0 dB")

	r.must(204, "PUT", "/api/v1/bench/mixer/faults", faults.Faults{LatencyMs: 200}, nil)
	slow := do("sound-desk", "open", map[string]string{"channel": "1"})
	apart := r.script("Apart", map[string]any{"onError": "go-on"}, keyer("1", true), slow)
	for range 12 {
		l.over(r.run(apart))
	}
	doc := r.macro(apart)
	at := -1
	for i, f := range doc.Findings {
		if f.ID == "lands-apart" {
			at = i
		}
	}
	if at < 0 {
		t.Fatalf("found %+v", doc.Findings)
	}
	f := doc.Findings[at]
	r.must(204, "POST", "/api/v1/macros/"+apart+"/fix", map[string]any{"finding": f.ID, "step": f.Step, "other": f.Other}, nil)
	kinds := []string{}
	for _, line := range r.macro(apart).Lines {
		kinds = append(kinds, line.Kind)
	}
	if fmt.Sprint(kinds) != "[together do do]" {
		t.Errorf("put right, it is %v", kinds)
	}
	if row := l.over(r.run(apart)); row.Steps[0].PlannedUs+100_000 > row.Steps[1].PlannedUs {
		t.Errorf("the fast one was not held back: %+v", row.Steps)
	}
}

// TestAMacroIsMadeWithAllItsSettings: what the document lists is not passed over.
func TestAMacroIsMadeWithAllItsSettings(t *testing.T) {
	r := start(t)
	want := map[string]any{"name": "Opening", "group": "Show", "spacingMs": 40.0, "again": "queue", "onError": "put-back", "limitMs": 9000.0, "partly": true}
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/macros", want, &made)
	var got map[string]any
	r.must(200, "GET", "/api/v1/macros/"+made.ID, nil, &got)
	for name, v := range want {
		if got[name] != v {
			t.Errorf("%s is %v, want %v", name, got[name], v)
		}
	}
	if p := r.fails(422, "PUT", "/api/v1/macros/"+made.ID, map[string]any{"position": 0, "name": "Other"}); p.Field != "position" {
		t.Errorf("moved and renamed at once: %+v", p)
	}
}
