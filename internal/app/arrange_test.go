package app_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/journal"
)

// page is a page of the show as it is drawn.
type page struct {
	ID, Name, Profile, Layout, Zone string
	Position                        int
	Notes                           map[string]string
	Controls                        map[string]string
}

func (r *rig) pages(profile string) map[string]page {
	r.Helper()
	var d struct{ Pages []page }
	r.must(200, "GET", "/api/v1/show", nil, &d)
	out := map[string]page{}
	for _, p := range d.Pages {
		if profile == "" || p.Profile == profile {
			out[p.ID] = p
		}
	}
	return out
}

// adds adds something and gives its id.
func (r *rig) adds(method, path string, body any) string {
	r.Helper()
	var c struct{ ID string }
	r.must(201, method, path, body, &c)
	return c.ID
}

func (r *rig) undo() {
	r.Helper()
	r.must(200, "POST", "/api/v1/undo", nil, nil)
}

// state is everything that an undo has to bring back.
func (r *rig) state() string {
	r.Helper()
	var d struct{ Pages, Mappings, Profiles, Controllers []map[string]any }
	r.must(200, "GET", "/api/v1/show", nil, &d)
	b, _ := json.Marshal(d)
	return string(b)
}

func TestASelectionMovesTogether(t *testing.T) {
	r := start(t).ready()
	before := r.state()
	var moved struct{ To, Off, Left []string }
	move := func(body map[string]any) {
		t.Helper()
		body["swap"] = body["swap"] == true
		r.must(200, "POST", "/api/v1/pages/cut/move", body, &moved)
	}
	// What would happen is said first, and changes nothing.
	move(map[string]any{"from": "a1", "controls": []string{"b1", "f1"}, "to": "b4", "plan": true})
	if !slices.Equal(moved.To, []string{"b4", "c4"}) || !slices.Equal(moved.Off, []string{"f1"}) {
		t.Errorf("planned: %+v", moved)
	}
	if r.state() != before {
		t.Error("a plan changed the show")
	}
	// A row goes one to the right over itself: nothing is lost but what it covers.
	names := func() (out []string) {
		p := r.pages("")["cut"]
		for _, c := range []string{"a1", "b1", "c1", "d1", "e1", "f1", "a4", "b4"} {
			out = append(out, p.Controls[c])
		}
		return out
	}
	was := names()
	move(map[string]any{"from": "a1", "controls": []string{"b1", "c1"}, "to": "b1"})
	if got := names(); got[0] != "" || !slices.Equal(got[1:4], was[0:3]) || !slices.Equal(got[4:6], was[4:6]) {
		t.Errorf("a row of three moved by one: %v, before %v", got, was)
	}
	r.undo()
	// With a swap, what is in the way takes the places that became free.
	move(map[string]any{"from": "a1", "controls": []string{"b1"}, "to": "e1", "swap": true})
	if got := names(); !slices.Equal(got[:6], []string{was[4], was[5], was[2], was[3], was[0], was[1]}) {
		t.Errorf("two and two swapped: %v, before %v", got, was)
	}
	r.undo()
	if r.state() != before {
		t.Error("undo left something else behind")
	}
	// To another page, and to a controller of another shape, where it fills what is there.
	move(map[string]any{"from": "a1", "controls": []string{"b1", "c1"}, "to": "a4", "page": "lights", "copy": true})
	r.undo()
	move(map[string]any{"from": "a1", "controls": []string{"b1", "c1", "d1", "e1"}, "to": "pedal1", "page": "feet", "copy": true})
	if !slices.Equal(moved.To, []string{"pedal1", "pedal2", "pedal3", "pedal4"}) || !slices.Equal(moved.Off, []string{"e1"}) {
		t.Errorf("five keys on four pedals: %+v", moved)
	}
	r.undo()
	// The same mapping twice: an edit of one is an edit of both.
	move(map[string]any{"from": "a3", "to": "f4", "linked": true})
	p := r.pages("")["cut"]
	if p.Controls["a3"] != p.Controls["f4"] || p.Controls["a3"] == "" {
		t.Errorf("linked: %q and %q", p.Controls["a3"], p.Controls["f4"])
	}
	r.must(204, "POST", "/api/v1/pages/cut/clear", map[string]any{"controls": []string{"a3"}}, nil)
	if p := r.pages("")["cut"]; p.Controls["a3"] != "" || p.Controls["f4"] == "" {
		t.Error("clearing one place took the other, too")
	}
	r.entry(r.press("f4"), journal.Confirmed)
	r.fails(404, "POST", "/api/v1/pages/cut/move", map[string]any{"from": "d4", "to": "e4", "swap": false})
	r.fails(422, "POST", "/api/v1/pages/cut/move", map[string]any{"from": "a1", "to": "c3", "swap": false}) // Home stands there
}

func TestPagesAreMadeInOneStep(t *testing.T) {
	r := start(t).ready()
	before := r.state()
	// Behind a key: it leads there, and the key at the same place leads back.
	behind := r.adds("POST", "/api/v1/pages/cut/controls/e4/behind", map[string]string{"name": "Extras"})
	h := r.hand("producer-grid")
	r.entry(r.press("e4"), journal.Confirmed)
	h.shows("keys", behind)
	r.entry(r.press("e4"), journal.Confirmed)
	h.shows("keys", "cut")
	r.undo()
	if r.state() != before {
		t.Error("undo left something of the page behind")
	}
	r.fails(422, "POST", "/api/v1/pages/cut/controls/c3/behind", map[string]string{"name": "X"})
	r.fails(422, "POST", "/api/v1/pages/faders/controls/slider1/behind", map[string]string{"name": "X"})

	// A launcher: a key for every page, and it is the first page then.
	launcher := r.adds("POST", "/api/v1/launchers", map[string]string{"name": "Menu", "profile": "meteor-night", "layout": "grid-6x4", "zone": "keys"})
	p := r.pages("")[launcher]
	if len(p.Controls) != 10 || p.Name != "Menu" { // nine pages, and Home, which stands
		t.Errorf("the launcher has %d keys", len(p.Controls))
	}
	var maps []struct {
		Layout, Zone, Home string
		Pages              []struct {
			ID      string
			Presses int
			WayBack bool
		}
	}
	r.must(200, "GET", "/api/v1/profiles/meteor-night/map", nil, &maps)
	if maps[0].Home != launcher {
		t.Errorf("home is %s", maps[0].Home)
	}
	for _, m := range maps {
		for _, p := range m.Pages {
			if p.Presses < 0 || p.Presses > 1 || !p.WayBack {
				t.Errorf("%s of %s: %d presses, way back %v", p.ID, m.Layout, p.Presses, p.WayBack)
			}
		}
	}
	r.undo()
	// A selection goes to a page of its own.
	extracted := r.adds("POST", "/api/v1/pages/cut/extract", map[string]any{"controls": []string{"d3", "e3", "f3"}, "name": "Keyers"})
	if pages := r.pages(""); len(pages[extracted].Controls) != 4 || pages["cut"].Controls["d3"] != "" {
		t.Errorf("moved: %v", pages[extracted].Controls)
	}
	r.undo()
	if r.state() != before {
		t.Error("undo left something else behind")
	}
}

func TestKitsGoOnOnANewPage(t *testing.T) {
	r := start(t).ready()
	before := r.state()
	var plan struct {
		Cells, Pages []string
		Left         int
	}
	kit := map[string]any{"device": "dome-switcher", "kit": "program-row", "params": map[string]string{"mix": "1"}, "at": "a4", "replace": false}
	for i := range 2 {
		r.give(fmt.Sprintf("%c4", 'e'+i), "press", "cut", map[string]string{"mix": "1"})
	}
	r.must(201, "POST", "/api/v1/pages/cut/kits", kit, &plan)
	if plan.Left == 0 || len(plan.Pages) != 0 {
		t.Fatalf("six inputs on four keys: %+v", plan)
	}
	r.undo()
	kit["continue"] = true
	r.must(201, "POST", "/api/v1/pages/cut/kits", kit, &plan)
	if len(plan.Pages) != 1 || plan.Pages[0] != "Cut 2" {
		t.Fatalf("it goes on on %v", plan.Pages)
	}
	total, door := 0, ""
	pages := r.pages("meteor-night")
	var more page
	for _, p := range pages {
		if p.Name == "Cut 2" {
			more = p
		}
	}
	door = plan.Cells[len(plan.Cells)-1]
	for _, p := range []page{pages["cut"], more} {
		for c, id := range p.Controls {
			if p.ID == "cut" && !slices.Contains(plan.Cells, c) {
				continue
			}
			for _, m := range r.doc().Mappings {
				if m.ID == id && m.Responses[0].Action.Action == "put-on-program" {
					total++
				}
			}
		}
	}
	var path struct{ Does []struct{ Title string } }
	r.must(200, "GET", "/api/v1/pages/"+more.ID+"/controls/"+door+"/path", nil, &path)
	if total != 6 || path.Does[0].Title != "Go to Cut" {
		t.Errorf("%d inputs have a key; %s of the new page does %v", total, door, path.Does)
	}
	for range 3 {
		r.undo()
	}
	if r.state() != before {
		t.Error("undo left something else behind")
	}

	// Strips for dials: a turn changes the level, a push mutes.
	strips := map[string]any{"device": "sound-desk", "kit": "strips", "params": map[string]string{}, "at": "dial1", "replace": true}
	r.must(201, "POST", "/api/v1/pages/jog/kits", strips, &plan)
	if len(plan.Cells) != 3 {
		t.Errorf("strips on %v", plan.Cells)
	}
	var dial struct {
		Does []struct{ Gesture, Title string }
	}
	r.must(200, "GET", "/api/v1/pages/jog/controls/dial2/path", nil, &dial)
	if len(dial.Does) != 2 || dial.Does[0].Gesture != "turn" || dial.Does[1].Gesture != "press" {
		t.Errorf("the second strip does %+v", dial.Does)
	}
	strips["at"] = "a4"
	r.fails(422, "POST", "/api/v1/pages/cut/kits", strips)
	for kit, dev := range map[string]string{"transport": "replay-player", "on-air": "stream-pc", "inputs": "stream-pc", "countdown": "replay-player"} {
		r.must(201, "POST", "/api/v1/pages/lights/kits", map[string]any{"device": dev, "kit": kit, "params": map[string]string{}, "at": "a3", "replace": true}, &plan)
		if len(plan.Cells) < 3 {
			t.Errorf("%s has %d keys", kit, len(plan.Cells))
		}
	}
}

func TestWhatIsPlannedTurnsIntoMappings(t *testing.T) {
	r := start(t)
	notes := func(n map[string]string) map[string]any { return map[string]any{"notes": n} }
	r.must(204, "PUT", "/api/v1/pages/cut/notes", notes(map[string]string{"a4": "guest mic here", "b4": "foyer"}), nil)
	if got := r.pages("")["cut"].Notes; !maps.Equal(got, map[string]string{"a4": "guest mic here", "b4": "foyer"}) {
		t.Errorf("notes %v", got)
	}
	r.fails(422, "PUT", "/api/v1/pages/cut/notes", notes(map[string]string{"a4": strings.Repeat("x", 200)}))
	r.fails(404, "PUT", "/api/v1/pages/cut/notes", notes(map[string]string{"z9": "x"}))
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "sound-desk", "action": "mute-toggle", "params": map[string]string{"channel": "2"}}, nil)
	if got := r.pages("")["cut"].Notes; !maps.Equal(got, map[string]string{"b4": "foyer"}) {
		t.Errorf("once it is mapped: %v", got)
	}
	r.undo()
	if got := r.pages("")["cut"].Notes["a4"]; got != "guest mic here" {
		t.Errorf("undo brought back %q", got)
	}
	r.must(204, "PUT", "/api/v1/pages/cut/notes", notes(map[string]string{"a4": "", "b4": ""}), nil)
	if got := r.pages("")["cut"].Notes; len(got) != 0 {
		t.Errorf("notes %v are left", got)
	}
}

func TestProfilesAreMadeAndChanged(t *testing.T) {
	r := start(t).ready()
	before := r.state()
	copied := r.adds("POST", "/api/v1/profiles/meteor-night/duplicate", nil)
	mine := r.pages(copied)
	if len(mine) != len(r.pages("meteor-night")) {
		t.Errorf("%d pages were copied", len(mine))
	}
	// The copy's launcher leads to the copy's pages.
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/profile", map[string]any{"profile": copied}, nil)
	h := r.hand("producer-grid")
	h.until("the copy is in force", func() bool { return h.pages().Profile == copied })
	first := h.pages().Zones["keys"][0]
	if mine[first].Name != "Home" {
		t.Errorf("it begins with %s", mine[first].Name)
	}
	r.entry(r.press("b1"), journal.Confirmed)
	h.until("its own page", func() bool { return mine[h.pages().Zones["keys"][0]].Name == "Dome" })
	// Each profile keeps where one was.
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/profile", map[string]any{"profile": "meteor-night"}, nil)
	h.shows("keys", "cut")
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/profile", map[string]any{"profile": copied}, nil)
	h.until("the page of before", func() bool { return mine[h.pages().Zones["keys"][0]].Name == "Dome" })

	r.must(204, "PUT", "/api/v1/profiles/"+copied, map[string]any{"name": "Rehearsal"}, nil)
	r.fails(422, "PUT", "/api/v1/profiles/"+copied, map[string]any{"name": "sound check"})
	r.must(204, "PUT", "/api/v1/profiles/"+copied, map[string]any{"position": 0}, nil)
	r.must(204, "PUT", "/api/v1/controllers/treadle/profile", map[string]any{"profile": copied, "start": true}, nil)
	r.must(204, "DELETE", "/api/v1/profiles/"+copied, nil, nil)
	h.until("the controller falls to its own profile", func() bool { return h.pages().Profile == "meteor-night" })
	r.fails(404, "DELETE", "/api/v1/profiles/"+copied, nil)
	for range 5 {
		r.undo()
	}
	if r.state() != before {
		t.Error("undo left something else behind")
	}
	r.must(204, "DELETE", "/api/v1/profiles/sound-check", nil, nil)
	r.fails(422, "DELETE", "/api/v1/profiles/meteor-night", nil)
}

func TestALayoutMadeSmallerKeepsWhatFallsOff(t *testing.T) {
	r := start(t).ready()
	layout := func(columns int) map[string]any {
		return map[string]any{"sheet": "synaptor.controller/1", "type": "own.lectern", "title": "Lectern keys",
			"groups": []map[string]any{{"id": "", "kind": "key", "zone": "keys", "columns": columns, "rows": 2, "x": 0, "y": 0},
				{"id": "dial", "kind": "dial", "zone": "keys", "columns": 1, "rows": 1, "x": columns, "y": 0}}}
	}
	var preview struct {
		Controls []struct{ ID string }
		Width    float64
		Problem  string
	}
	r.must(200, "POST", "/api/v1/layouts/preview", layout(4), &preview)
	if len(preview.Controls) != 9 || preview.Width != 5 || preview.Problem != "" {
		t.Errorf("the preview is %+v", preview)
	}
	bad := layout(4)
	bad["groups"].([]map[string]any)[1]["x"] = 3.5
	r.must(200, "POST", "/api/v1/layouts/preview", bad, &preview)
	if !strings.Contains(preview.Problem, "on top of each other") {
		t.Errorf("controls over each other: %q", preview.Problem)
	}
	r.fails(422, "POST", "/api/v1/sheets", bad)
	r.must(201, "POST", "/api/v1/sheets", layout(4), nil)
	r.adds("POST", "/api/v1/controllers", map[string]string{"name": "Lectern", "layout": "own.lectern"})
	var home string
	for id, p := range r.pages("meteor-night") {
		if p.Layout == "own.lectern" {
			home = id
		}
	}
	put := func(control, action string, params map[string]string) {
		t.Helper()
		r.must(201, "PUT", "/api/v1/pages/"+home+"/controls/"+control, map[string]any{"device": "dome-switcher", "action": action, "params": params}, nil)
	}
	put("a1", "cut", map[string]string{"mix": "1"})
	put("d1", "auto", map[string]string{"mix": "1"})
	put("d2", "keyer-toggle", map[string]string{"keyer": "1"})
	type lost struct{ Mapping, Page, Control, Name, PageName string }
	aside := func() (out []lost) {
		t.Helper()
		r.must(200, "GET", "/api/v1/aside", nil, &out)
		return out
	}
	if got := aside(); len(got) != 0 {
		t.Fatalf("aside before: %+v", got)
	}
	r.must(201, "POST", "/api/v1/sheets", layout(3), nil)
	got := aside()
	if len(got) != 2 || got[0].PageName != "Home" {
		t.Fatalf("aside: %+v", got)
	}
	slices.SortFunc(got, func(a, b lost) int { return strings.Compare(a.Control, b.Control) })
	back := map[string]string{"mapping": got[0].Mapping, "control": "d1", "page": home, "to": "b1", "toPage": home}
	r.must(200, "POST", "/api/v1/aside", back, nil)
	if p := r.pages("")[home]; p.Controls["b1"] != got[0].Mapping || len(aside()) != 1 {
		t.Errorf("brought back: %v", p.Controls)
	}
	r.undo()
	if len(aside()) != 2 {
		t.Error("undo did not put it aside again")
	}
	// Made as large as before, everything is where it was.
	r.must(201, "POST", "/api/v1/sheets", layout(4), nil)
	if p := r.pages("")[home]; len(aside()) != 0 || p.Controls["d1"] != got[0].Mapping || p.Controls["d2"] != got[1].Mapping {
		t.Errorf("made larger again: %v", p.Controls)
	}
	r.fails(422, "DELETE", "/api/v1/sheets/own.lectern", nil)
	r.fails(422, "POST", "/api/v1/sheets", map[string]any{"sheet": "synaptor.controller/1", "type": "grid-6x4", "title": "x", "zone": "keys", "grid": map[string]any{"columns": 1, "rows": 1}})
}

// TestAnEditIsInForceWhenItIsAnswered: a press right after it is no press of what was there before.
func TestAnEditIsInForceWhenItIsAnswered(t *testing.T) {
	r := start(t).ready()
	for range 40 {
		behind := r.adds("POST", "/api/v1/pages/cut/controls/e4/behind", map[string]string{"name": "Extras"})
		if e := r.entry(r.press("e4")); e.Outcome != journal.Confirmed {
			t.Fatalf("right after the edit a press ends %s: %s", e.Outcome, e.Reason)
		}
		if e := r.entry(r.press("e4")); e.Outcome != journal.Confirmed {
			t.Fatalf("back from %s: %s: %s", behind, e.Outcome, e.Reason)
		}
		r.undo()
	}
}
