package app_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// script makes a macro of steps in short, and returns its id. Each step is the JSON of
// its fields; "in" as the first word puts it into the step before that holds steps.
func (r *rig) script(name string, settings map[string]any, steps ...map[string]any) string {
	r.Helper()
	var m struct{ ID string }
	r.must(201, "POST", "/api/v1/macros", map[string]any{"name": name}, &m)
	if settings != nil {
		var doc macroDoc
		r.must(200, "GET", "/api/v1/macros/"+m.ID, nil, &doc)
		settings["name"], settings["rev"] = name, doc.Rev
		r.must(204, "PUT", "/api/v1/macros/"+m.ID, settings, nil)
	}
	parents := map[any]string{nil: ""}
	at := map[string]int{}
	for _, s := range steps {
		parent, known := parents[s["in"]]
		if !known {
			r.Fatalf("%v is in nothing", s)
		}
		label := s["as"]
		delete(s, "in")
		delete(s, "as")
		s["parent"], s["at"] = parent, at[parent]
		at[parent]++
		var made struct{ ID string }
		r.must(201, "POST", "/api/v1/macros/"+m.ID+"/steps", s, &made)
		if label != nil {
			parents[label] = made.ID
		}
	}
	return m.ID
}

type macroDoc struct {
	Rev     int64
	Lines   []struct{ ID, Kind, Title, Parent, Problem string }
	Problem string
	Bars    []struct {
		Step                 string
		DispatchMs, StartsMs float64
	}
	Findings []struct{ ID, Step, Other, Text, Fix string }
}

func (r *rig) macro(id string) (doc macroDoc) {
	r.Helper()
	r.must(200, "GET", "/api/v1/macros/"+id, nil, &doc)
	return doc
}

func do(device, action string, params map[string]string) map[string]any {
	return map[string]any{"kind": "do", "action": map[string]any{"device": device, "action": action, "params": params}}
}

func wait(ms int) map[string]any { return map[string]any{"kind": "wait", "ms": ms} }

func keyer(n string, on bool) map[string]any {
	return do("dome-switcher", map[bool]string{true: "keyer-on", false: "keyer-off"}[on], map[string]string{"keyer": n})
}

func program(input string) map[string]any {
	return do("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": input})
}

var putBack = map[string]any{"kind": "put-back"}

func (r *rig) run(id string) string {
	r.Helper()
	var c struct{ ID string }
	r.must(202, "POST", "/api/v1/macros/"+id+"/run", nil, &c)
	return c.ID
}

// runs follows the runs.
type runs struct{ *live }

func (r *rig) runs() runs { return runs{r.follow("runs")} }

func (l runs) row(entry string) (row engine.RunRow) {
	_ = json.Unmarshal(l.values["run/"+entry], &row)
	return row
}

// over waits until a run has ended, and gives it.
func (l runs) over(entry string) engine.RunRow {
	l.r.Helper()
	l.until("the run has ended", func() bool { return l.row(entry).Ended })
	return l.row(entry)
}

// at waits until a run has dispatched so many steps.
func (l runs) at(entry string, steps int) {
	l.r.Helper()
	l.until(fmt.Sprintf("%d steps were sent", steps), func() bool { return len(l.row(entry).Steps) >= steps })
}

func TestTheMacrosOfTheNightRunOnTheBench(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	for _, d := range []string{"stream-pc", "sound-desk", "talkback", "dome-lights", "audience", "workstation"} {
		r.connected(d)
	}
	h := r.hand("producer-grid")
	l := r.runs()
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	if e := r.entry(r.run("open-the-night"), journal.Confirmed); !strings.Contains(fmt.Sprint(e.Steps), "stream/on is on") {
		t.Errorf("the night was not opened: %v", e.Steps)
	}
	id := r.press("f4")
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	h.word("dome-switcher:keyer/2/on", "on")
	r.entry(id, journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	h.word("dome-switcher:keyer/2/on", "off")
	if row := l.over(id); len(row.Together) != 1 || row.Together[0].MeasuredUs == 0 {
		t.Errorf("the together was not measured: %+v", row)
	}
	r.entry(r.run("guest-joins"), journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "Guest cam")
	for _, corner := range []string{"top left", "top right", "bottom right", "bottom left", "top left"} {
		r.entry(r.run("corner-camera"), journal.Confirmed)
		h.word("dome-switcher:mix/1/keyer/1/corner", corner)
	}
	// Somebody operates the switcher by hand: the next press goes on from there.
	r.operate("/mix/1/keyer/1/corner", "bottom right")
	h.word("dome-switcher:mix/1/keyer/1/corner", "bottom right")
	r.entry(r.run("corner-camera"), journal.Confirmed)
	h.word("dome-switcher:mix/1/keyer/1/corner", "bottom left")
	r.entry(r.run("surprise-sound"), journal.Confirmed)
	r.entry(r.run("clouds"), journal.Confirmed)
	h.word("sound-desk:channel/5/level", "0 dB")
	h.word("dome-switcher:out/1/source", "Still 1")
}

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
	r.press("a4")
	h.word("dome-switcher:keyer/1/on", "off")
	h.word("dome-switcher:keyer/3/on", "off")
}

func TestWhatASecondPressDoesIsASettingOfTheMacro(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	make := func(again string) string {
		return r.script("Again "+again, map[string]any{"again": again}, keyer("1", true), wait(1000), keyer("1", false))
	}
	finish := make("finish")
	first := r.run(finish)
	l.at(first, 1)
	if e := r.entry(r.run(finish), journal.Refused); !strings.Contains(e.Reason, "left to finish") {
		t.Error(e.Reason)
	}
	l.over(first)
	stop := make("stop")
	first = r.run(stop)
	h.word("dome-switcher:keyer/1/on", "on")
	r.entry(r.run(stop), journal.Sent)
	if row := l.over(first); row.State != "halted" || len(row.Steps) != 1 {
		t.Errorf("pressed again to stop: %+v", row)
	}
	h.word("dome-switcher:keyer/1/on", "on") // nothing came after
	restart := make("restart")
	first = r.run(restart)
	l.at(first, 1)
	second := r.run(restart)
	if row := l.over(first); row.State != "halted" {
		t.Errorf("the first of two: %+v", row)
	}
	if row := l.over(second); row.State != "ended" || len(row.Steps) != 2 {
		t.Errorf("started over: %+v", row)
	}
	queue := make("queue")
	first = r.run(queue)
	l.at(first, 1)
	second = r.run(queue)
	a, b := l.over(first), l.over(second)
	if b.Started.Before(a.Started.Add(1_000_000_000)) {
		t.Errorf("the second began at %v, the first at %v", b.Started, a.Started)
	}
	// Those that wait get their turn however short it is, or hear why not.
	short := r.script("Short", map[string]any{"again": "queue"}, wait(150), do("synaptor", "marker", map[string]string{"words": "Short"}))
	entries := []string{}
	for range 4 {
		entries = append(entries, r.run(short))
	}
	for _, e := range entries {
		r.entry(e, journal.Confirmed)
	}
	first, second = r.run(queue), r.run(queue)
	l.at(first, 1)
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	if e := r.entry(second, journal.Refused); !strings.Contains(e.Reason, "halted") {
		t.Error(e.Reason)
	}
}

func TestAHundredPressesInASecondStartOneRun(t *testing.T) {
	r := start(t).ready()
	l := r.runs()
	id := r.script("Once", nil, keyer("1", true), wait(300), keyer("1", false))
	entries := []string{}
	for range 100 {
		entries = append(entries, r.run(id))
	}
	row := l.over(entries[0])
	if row.State != "ended" {
		t.Errorf("the run: %+v", row)
	}
	began := 0
	for _, e := range entries {
		if r.entry(e).Outcome == journal.Confirmed {
			began++
		}
	}
	if began == 0 || began > 20 {
		t.Errorf("%d of 100 presses began a run", began)
	}
}

func TestAHaltStopsEverythingAtOnceAndOffersWhatIsLeft(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	h, l := r.hand("scope-console"), r.runs()
	id := r.script("Long", nil, keyer("2", true),
		map[string]any{"kind": "fade", "ms": 5000, "action": map[string]any{"device": "sound-desk", "action": "level", "params": map[string]string{"channel": "5", "level": "10"}}},
		wait(5000), program("6"))
	entry := r.run(id)
	h.word("dome-switcher:keyer/2/on", "on")
	l.until("the music has begun to move", func() bool { return len(l.row(entry).Steps) == 2 })
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	row := l.over(entry)
	if row.State != "halted" || row.TookMs > 9000 {
		t.Errorf("halted: %+v", row)
	}
	var left []engine.LeftOver
	l.until("what is left is offered", func() bool {
		_ = json.Unmarshal(l.values["left"], &left)
		return len(left) == 1
	})
	if left[0].Entry != entry || left[0].Title != "Long" {
		t.Errorf("left over: %+v", left)
	}
	r.must(202, "POST", "/api/v1/putback/"+entry, nil, nil)
	h.word("dome-switcher:keyer/2/on", "off")
	h.word("sound-desk:channel/5/level", "-10 dB")
	l.until("nothing is left", func() bool { return string(l.values["left"]) == "[]" })
}

func TestADeviceThatGoesInTheMiddleStopsTheRunWithAReason(t *testing.T) {
	r := start(t).ready()
	l := r.runs()
	id := r.script("Cut off", nil, keyer("1", true), wait(1500), keyer("2", true))
	goOn := r.script("Goes on", map[string]any{"onError": "go-on"}, keyer("1", true), wait(1500), keyer("2", true), do("sound-desk", "mute", map[string]string{"channel": "1"}))
	r.connected("sound-desk")
	first, second := r.run(id), r.run(goOn)
	l.at(first, 1)
	r.fault(faults.Faults{Cut: true})
	row := l.over(first)
	if row.State != "failed" || !strings.Contains(row.Reason, "Dome switcher") {
		t.Errorf("cut off: %+v", row)
	}
	if e := r.entry(first); e.Outcome != journal.Failed {
		t.Errorf("its entry ended %s", e.Outcome)
	}
	if row := l.over(second); row.State != "ended" || len(row.Left) == 0 {
		t.Errorf("goes on: %+v", row)
	}
	// With the device away, nothing is begun.
	if e := r.entry(r.run(id), journal.Refused); !strings.Contains(e.Reason, "nothing was started") {
		t.Error(e.Reason)
	}
}

func TestWhatNeverComesIsGivenUpAtItsLimit(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	never := func(otherwise string) map[string]any {
		return map[string]any{"kind": "wait-for", "limitMs": 300, "else": otherwise, "when": "reading('dome-switcher:keyer/3/on') == true"}
	}
	if row := l.over(r.run(r.script("Stops", nil, never(""), keyer("1", true)))); row.State != "failed" || !strings.Contains(row.Reason, "has not come within 300ms") {
		t.Errorf("stops: %+v", row)
	}
	if row := l.over(r.run(r.script("Goes on", nil, never("go-on"), keyer("1", true)))); row.State != "ended" {
		t.Errorf("goes on: %+v", row)
	}
	h.word("dome-switcher:keyer/1/on", "on")
	// What does come ends the wait at once.
	entry := r.run(r.script("Comes", nil, map[string]any{"kind": "wait-for", "limitMs": 9000, "when": "reading('dome-switcher:keyer/3/on') == true"}, keyer("2", true)))
	l.until("it waits", func() bool { return l.row(entry).WaitsAt != "" })
	r.operate("/keyer/3/on", 1)
	if row := l.over(entry); row.State != "ended" || row.TookMs > 8500 {
		t.Errorf("comes: %+v", row)
	}
}

func TestAnEditOfARunningMacroWaitsForTheNextRun(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	id := r.script("Edited", nil, keyer("1", true), wait(1200), keyer("2", true))
	entry := r.run(id)
	l.at(entry, 1)
	doc := r.macro(id)
	r.must(204, "POST", "/api/v1/macros/"+id+"/steps/delete", map[string]any{"steps": []string{doc.Lines[2].ID}}, nil)
	if row := l.over(entry); len(row.Steps) != 2 {
		t.Errorf("the run goes on with what it began with: %+v", row)
	}
	h.word("dome-switcher:keyer/2/on", "on")
	if row := l.over(r.run(id)); len(row.Steps) != 1 {
		t.Errorf("the next run: %+v", row)
	}
	// A macro that is deleted while it runs comes to its end too.
	entry = r.run(r.script("Deleted", nil, keyer("3", true), wait(1000), keyer("3", false)))
	l.at(entry, 1)
	r.must(204, "DELETE", "/api/v1/macros/"+l.row(entry).Macro, nil, nil)
	if row := l.over(entry); row.State != "ended" {
		t.Errorf("deleted: %+v", row)
	}
	h.word("dome-switcher:keyer/3/on", "off")
}

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

func TestAToggleOfTurnsSurvivesARestart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	h, l := r.hand("producer-grid"), r.runs()
	id := r.script("Remembered", nil, map[string]any{"kind": "turns", "as": "t"})
	doc := r.macro(id)
	for i, n := range []string{"1", "2"} {
		s := keyer(n, true)
		s["parent"], s["at"] = doc.Lines[i+1].ID, 0
		r.must(201, "POST", "/api/v1/macros/"+id+"/steps", s, nil)
	}
	l.over(r.run(id))
	h.word("dome-switcher:keyer/1/on", "on")
	r.App.Close()
	r = startIn(t, data)
	var rows []reading
	r.eventually("the branch is known after the restart", func() bool {
		r.must(200, "GET", "/api/v1/readings?device=synaptor&path=macro/"+id+"/branch", nil, &rows)
		return len(rows) == 1 && rows[0].Value == doc.Lines[1].ID
	})
}

// TestARunIsAsItWasRehearsed holds the rehearsal and the run of generated macros to the
// same order and, since stand-ins answer as fast as they were measured, to the same times.
func TestARunIsAsItWasRehearsed(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	r.must(204, "PUT", "/api/v1/bench/switcher/faults", faults.Faults{LatencyMs: 30}, nil)
	r.must(204, "PUT", "/api/v1/bench/mixer/faults", faults.Faults{LatencyMs: 70}, nil)
	l := r.runs()
	mute := func(channel string, on bool) map[string]any {
		return do("sound-desk", map[bool]string{true: "mute", false: "open"}[on], map[string]string{"channel": channel})
	}
	// How fast they answer is known before.
	for _, on := range []bool{true, false, true} {
		l.over(r.run(r.script(fmt.Sprint("Warm ", len(l.values)), nil, keyer("1", on), keyer("2", on), mute("1", on), mute("2", on), wait(150))))
	}
	random := rand.New(rand.NewPCG(11, 7))
	on := true
	for n := range 5 {
		var steps []map[string]any
		for i := range 3 + random.IntN(4) {
			on = !on
			switch random.IntN(4) {
			case 0:
				steps = append(steps, wait(60+10*random.IntN(15)))
			case 1:
				label := fmt.Sprint("t", i)
				steps = append(steps, map[string]any{"kind": "together", "as": label})
				k, m := keyer("3", on), mute("3", on)
				k["in"], m["in"] = label, label
				steps = append(steps, k, m)
			case 2:
				label := fmt.Sprint("r", i)
				steps = append(steps, map[string]any{"kind": "repeat", "count": 2, "as": label})
				k, w := keyer("1", on), wait(120)
				k["in"], w["in"] = label, label
				steps = append(steps, k, w)
			default:
				steps = append(steps, mute("4", on), wait(100))
			}
		}
		// A device that is told two things at once may answer late; the order stays.
		id := r.script(fmt.Sprint("Generated ", n), map[string]any{"onError": "go-on"}, append(steps, putBack)...)
		var want engine.Rehearsed
		r.must(200, "GET", "/api/v1/macros/"+id+"/rehearsal", nil, &want)
		row := l.over(r.run(id))
		if len(row.Steps) != len(want.Steps) {
			t.Fatalf("rehearsed %+v, it ran %+v", want.Steps, row.Steps)
		}
		for i, s := range row.Steps {
			if w := want.Steps[i]; s.Step != w.Step || math.Abs(float64(s.DispatchedUs)/1000-w.AtMs) > tolerance {
				t.Errorf("step %d: rehearsed %s at %.0f ms, it ran %s at %.0f ms", i, w.Step, w.AtMs, s.Step, float64(s.DispatchedUs)/1000)
			}
			for _, c := range want.Changes {
				if c.Step == s.Step && s.Group != "" && s.StartedUs > 0 && math.Abs(float64(s.StartedUs)/1000-c.AtMs) > tolerance {
					t.Errorf("step %d: rehearsed to show at %.0f ms, it did at %.0f ms", i, c.AtMs, float64(s.StartedUs)/1000)
				}
			}
		}
	}
}

// tolerance is by how many milliseconds a run may differ from its rehearsal here, on a
// machine that is busy with other tests.
const tolerance = 1500

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

func TestAGuardMayHoldOnlyWhileSomethingIsSo(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	r.give("a4", "press", "keyer-on", map[string]string{"keyer": "1"})
	guard := func(g map[string]any) {
		t.Helper()
		m := r.at("a4")
		r.must(200, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{}, "guard": g}, nil)
	}
	guard(map[string]any{"kind": "twice", "ms": 3000, "when": "reading('dome-switcher:keyer/3/on') == true"})
	r.entry(r.press("a4"), journal.Confirmed) // the count is not on: no guard
	r.operate("/keyer/3/on", 1)
	h.word("dome-switcher:keyer/3/on", "on")
	r.entry(r.press("a4"), journal.Guarded)
	m := r.at("a4")
	if p := r.fails(422, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{},
		"guard": map[string]any{"kind": "twice", "ms": 3000, "when": "reading("}}); p.Field != "guard" {
		t.Errorf("%+v", p)
	}
}

func TestAGuardOfOneBranchLetsTheOthersThrough(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	id := r.script("Logo", nil, map[string]any{"kind": "turns"})
	doc := r.macro(id)
	for i, on := range []bool{true, false} {
		s := keyer("1", on)
		s["parent"], s["at"] = doc.Lines[i+1].ID, 0
		r.must(201, "POST", "/api/v1/macros/"+id+"/steps", s, nil)
	}
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "synaptor", "action": "run", "params": map[string]string{"macro": id}}, nil)
	m := r.at("a4")
	r.must(200, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{},
		"guard": map[string]any{"kind": "twice", "ms": 3000, "branch": doc.Lines[2].ID}}, nil)
	r.entry(r.press("a4"), journal.Confirmed)
	h.word("dome-switcher:keyer/1/on", "on")
	r.entry(r.press("a4"), journal.Guarded) // switching it off is the dangerous half
	r.entry(r.press("a4"), journal.Confirmed)
	h.word("dome-switcher:keyer/1/on", "off")
}

func TestAKeyShowsTheBranchAndTheRunOfItsMacro(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	l := r.follow("page:home", "standing:meteor-night", "page:feet")
	face := func(key string) (f engine.Face) {
		_ = json.Unmarshal(l.values["face/"+key], &f)
		return f
	}
	r.entry(r.run("corner-camera"), journal.Confirmed)
	l.until("the key has the name of the branch", func() bool { return face("home-e2").Label == "top left" && face("home-e2").Branch == "top left" })
	m := r.mapping("home-e2")
	r.must(200, "PUT", "/api/v1/mappings/home-e2", map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{}, "next": true}, nil)
	l.until("it shows what the next press does", func() bool { return face("home-e2").Label == "top right" })
	m = r.mapping("home-e2")
	branch := r.macro("corner-camera").Lines[4].ID
	r.must(200, "PUT", "/api/v1/mappings/home-e2", map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{},
		"branches": map[string]any{branch: map[string]any{"label": "TR", "background": "#204060"}}}, nil)
	l.until("the branch has its own face", func() bool { return face("home-e2").Label == "TR" && face("home-e2").Background == "#204060" })

	id := r.press("f4")
	standing := "standing-meteor-night-grid-6x4-f4"
	l.until("the bar runs", func() bool {
		f := face(standing)
		return f.Run != nil && f.Run.State == "running" && f.Run.LengthMs >= 8000
	})
	r.must(202, "POST", "/api/v1/halt", map[string]any{"macro": "meteor"}, nil)
	l.until("it says that it was halted", func() bool { f := face(standing); return f.Run != nil && f.Run.State == "halted" && f.Run.ID == id })
	l.until("and that fades", func() bool { return face(standing).Run == nil })
	r.fault(faults.Faults{Cut: true})
	l.until("it says how much cannot be sent", func() bool { return face(standing).Unsent == 2 })
}

func TestMacrosAreFoundByTheirNamesAndTakenByDials(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	var found []struct{ Title, ID string }
	r.must(200, "GET", "/api/v1/find?q=meteor&gesture=press", nil, &found)
	if len(found) == 0 || found[0].Title != "Run Meteor!" {
		t.Errorf("found %+v", found)
	}
	id := r.script("Step on", map[string]any{"again": "both"}, do("synaptor", "marker", map[string]string{"words": "Turned"}))
	r.must(201, "PUT", "/api/v1/pages/faders/controls/dial1", map[string]any{"device": "synaptor", "action": "run", "params": map[string]string{"macro": id}, "gesture": "turn"}, nil)
	h := r.hand("scope-console")
	for range 40 {
		h.do("dial1", "turn", 1)
	}
	l := r.runs()
	l.until("a turn has run it", func() bool {
		for key := range l.values {
			if strings.HasPrefix(key, "run/") {
				return true
			}
		}
		return false
	})
	n := 0
	for key := range l.values {
		if strings.HasPrefix(key, "run/") {
			n++
		}
	}
	if n > 4 {
		t.Errorf("a flood of turns ran it %d times", n)
	}
}

// mapping gives the revision of a mapping.
func (r *rig) mapping(id string) (m struct {
	ID  string
	Rev int64
}) {
	r.Helper()
	var doc struct {
		Mappings []struct {
			ID  string
			Rev int64
		}
	}
	r.must(200, "GET", "/api/v1/show", nil, &doc)
	for _, o := range doc.Mappings {
		if o.ID == id {
			m.ID, m.Rev = o.ID, o.Rev
		}
	}
	return m
}

// at gives the mapping of a key of the page Cut.
func (r *rig) at(control string) struct {
	ID  string
	Rev int64
} {
	r.Helper()
	return r.mapping(r.pages("")["cut"].Controls[control])
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

func TestKeysShowProgressFromALengthOn(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	l := r.follow("standing:meteor-night", "runs")
	face := func() (f engine.Face) {
		_ = json.Unmarshal(l.values["face/standing-meteor-night-grid-6x4-f4"], &f)
		return f
	}
	r.must(204, "PUT", "/api/v1/settings/macros", map[string]any{"progressFromMs": 20_000}, nil)
	r.fails(422, "PUT", "/api/v1/settings/macros", map[string]any{"progressFromMs": -1})
	id := r.press("f4")
	l.until("it runs", func() bool { return runs{l}.row(id).ID == id })
	if face().Run != nil {
		t.Error("the key shows a bar for a macro that is short enough")
	}
	r.must(204, "PUT", "/api/v1/settings/macros", map[string]any{"progressFromMs": 0}, nil)
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	id = r.press("f4")
	l.until("the key shows a bar", func() bool { f := face(); return f.Run != nil && f.Run.ID == id })
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

func TestKeysHaltOneMacroThoseOfTheirControllerOrAll(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	l := r.runs()
	long := func(name, page, control string) string {
		t.Helper()
		id := r.script(name, nil, wait(30_000))
		r.must(201, "PUT", "/api/v1/pages/"+page+"/controls/"+control, map[string]any{"device": "synaptor", "action": "run", "params": map[string]string{"macro": id}}, nil)
		return id
	}
	one, two, three := long("One", "cut", "a4"), long("Two", "cut", "b4"), long("Three", "guests", "a3")
	halts := func(control, action string, params map[string]string) {
		t.Helper()
		r.must(201, "PUT", "/api/v1/pages/cut/controls/"+control, map[string]any{"device": "synaptor", "action": action, "params": params}, nil)
	}
	halts("c4", "halt-macro", map[string]string{"macro": one})
	halts("d4", "halt-here", nil)
	a, b := r.press("a4"), r.press("b4")
	var c struct{ ID string }
	r.must(202, "POST", "/api/v1/input/saskias-tablet/a3/press", nil, &c)
	for _, id := range []string{a, b, c.ID} {
		l.until("it runs", func() bool { return l.row(id).ID == id })
	}
	r.press("c4")
	if row := l.over(a); row.State != "halted" || row.Macro != one {
		t.Errorf("one: %+v", row)
	}
	r.press("d4")
	if row := l.over(b); row.State != "halted" || row.Macro != two {
		t.Errorf("two: %+v", row)
	}
	if row := l.row(c.ID); row.State != "" || row.Macro != three {
		t.Errorf("that of the other controller: %+v", row)
	}
	r.press("e4") // it stands on every page
	if row := l.over(c.ID); row.State != "halted" {
		t.Errorf("three: %+v", row)
	}
	if e := r.entry(r.press("c4")); !strings.Contains(fmt.Sprint(e.Steps), "Nothing ran") {
		t.Errorf("with nothing to halt: %+v", e.Steps)
	}
}
