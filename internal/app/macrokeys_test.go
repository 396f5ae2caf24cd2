package app_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	looks "synaptor/internal/core/face"
	"synaptor/internal/journal"
)

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
	face := func(key string) (f looks.Face) {
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
	r.fault(faults.Faults{Cut: true})
	l.until("it says how much cannot be sent, and for want of what", func() bool {
		f := face(standing)
		return f.Unsent == 2 && slices.Equal(f.Missing, []string{"Dome switcher"}) && strings.Contains(f.Words, "Dome switcher away")
	})
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

func TestKeysShowProgressFromALengthOn(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	l := r.follow("standing:meteor-night", "runs")
	face := func() (f looks.Face) {
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
	l.until("the run has ended", func() bool { return runs{l}.row(id).Ended }) // else the press is the second one of a run
	id = r.press("f4")
	l.until("the key shows a bar", func() bool { f := face(); return f.Run != nil && f.Run.ID == id })
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
	halts("d3", "halt-here", nil)
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
	r.press("d3")
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
