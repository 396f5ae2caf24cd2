package app_test

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"image"
	"image/png"
	"io"
	"maps"
	"net/http"
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
	if len(p.Controls) != 8 || p.Name != "Menu" { // seven pages, and Home, which stands
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

// upload sends a file as a browser does.
func (r *rig) upload(name string, body []byte) (int, string) {
	r.Helper()
	resp, err := http.Post("http://"+r.Addr+"/api/v1/media?name="+name, "application/octet-stream", bytes.NewReader(body))
	if err != nil {
		r.Fatal(err)
	}
	defer func() { _ = resp.Body.Close() }()
	var out struct{ ID, Detail string }
	if err := json.NewDecoder(resp.Body).Decode(&out); err != nil {
		r.Fatal(err)
	}
	return resp.StatusCode, out.ID + out.Detail
}

func TestPicturesAreKeptOnceAndPurgedWhenNothingShowsThem(t *testing.T) {
	r := start(t).ready()
	var picture bytes.Buffer
	if err := png.Encode(&picture, image.NewNRGBA(image.Rect(0, 0, 40, 30))); err != nil {
		t.Fatal(err)
	}
	status, id := r.upload("Meteor", picture.Bytes())
	if status != 201 {
		t.Fatalf("upload: %d %s", status, id)
	}
	if _, again := r.upload("Meteor+again", picture.Bytes()); again != id {
		t.Errorf("the same picture has two ids")
	}
	for name, body := range map[string][]byte{"notes.png": []byte("guest mic here"), "large.png": append(picture.Bytes(), make([]byte, 20<<20)...),
		"bad.svg": []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script/></svg>`)} {
		if status, text := r.upload(name, body); status != 400 || !strings.HasSuffix(text, ".") {
			t.Errorf("%s: %d %s", name, status, text)
		}
	}
	type item struct {
		ID, Name, Kind string
		Width          int
		Uses           []string
	}
	library := func() (out []item) {
		r.must(200, "GET", "/api/v1/media", nil, &out)
		return out
	}
	if got := library(); len(got) != 1 || got[0].Width != 40 || got[0].Name != "Meteor" {
		t.Fatalf("the library has %+v", got)
	}
	resp, err := http.Get("http://" + r.Addr + "/api/v1/media/" + id)
	if err != nil {
		t.Fatal(err)
	}
	body, _ := io.ReadAll(resp.Body)
	_ = resp.Body.Close()
	if resp.Header.Get("Content-Type") != "image/png" || !strings.Contains(resp.Header.Get("Content-Security-Policy"), "default-src 'none'") || len(body) == 0 {
		t.Errorf("served as %v", resp.Header)
	}
	face := map[string]any{"picture": id, "position": "middle", "align": "centre", "size": 12, "glyph": "rocket"}
	r.must(200, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": face}, nil)
	l := r.follow("page:cut")
	l.until("the face shows it", func() bool { return strings.Contains(string(l.values["face/cut-a1"]), id) })
	if got := library(); len(got[0].Uses) != 1 {
		t.Errorf("used by %v", got[0].Uses)
	}
	r.fails(422, "DELETE", "/api/v1/media/"+id, nil)
	r.must(204, "PUT", "/api/v1/media/"+id, map[string]any{"name": "Shooting star", "tags": "sky  night"}, nil)
	if got := library(); got[0].Name != "Shooting star" {
		t.Errorf("it is called %s", got[0].Name)
	}
	// The face of one is given to many; labels stay.
	var n struct{ Count int }
	r.must(200, "POST", "/api/v1/pages/cut/faces", map[string]any{"from": "a1", "to": []string{"b1", "c1", "d4"}}, &n)
	if n.Count != 2 {
		t.Errorf("%d took the face", n.Count)
	}
	l.until("the second looks like it", func() bool {
		f := string(l.values["face/cut-b1"])
		return strings.Contains(f, id) && strings.Contains(f, `"label":"Telescope feed"`)
	})
	for field, bad := range map[string]map[string]any{"picture": {"picture": "nowhere"}, "size": {"size": 200}, "position": {"position": "left"},
		"live": {"live": map[string]any{"device": "", "source": ""}}, "label": {"label": "on {reading('x'}"}} {
		detail := r.fails(422, "PUT", "/api/v1/mappings/cut-c1", map[string]any{"rev": r.rev("cut-c1"), "name": "", "face": bad}).Detail
		if field == "label" && !strings.Contains(detail, "character 5") {
			t.Errorf("the mistake is not shown at its place: %s", detail)
		}
	}
}

func (r *rig) rev(mapping string) int64 {
	r.Helper()
	for _, m := range r.doc().Mappings {
		if m.ID == mapping {
			return m.Rev
		}
	}
	return 0
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
	r.fails(400, "POST", "/api/v1/sheets", bad)
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
	r.fails(400, "DELETE", "/api/v1/sheets/own.lectern", nil)
	r.fails(400, "POST", "/api/v1/sheets", map[string]any{"sheet": "synaptor.controller/1", "type": "grid-6x4", "title": "x", "zone": "keys", "grid": map[string]any{"columns": 1, "rows": 1}})
}

func TestLampsAreSentencesAndAreTriedOut(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut", "readings")
	face := func() (f struct {
		face
		Background    string
		Blink, Forced bool
	}) {
		_ = json.Unmarshal(l.values["face/cut-a3"], &f)
		return f
	}
	lamps := []map[string]any{
		{"sentences": []map[string]any{{"reading": "dome-switcher:keyer/1/on", "is": "==", "value": true}}, "role": "armed", "label": "Logo is on", "background": "#553300", "blink": true},
		{"when": "reading('stream-pc:stream/on') == true", "role": "set"},
	}
	change := func(lamps any, more map[string]any) map[string]any {
		b := map[string]any{"rev": r.rev("cut-a3"), "name": "", "face": map[string]any{}}
		if lamps != nil {
			b["lamps"] = lamps
		}
		maps.Copy(b, more)
		return b
	}
	r.must(200, "PUT", "/api/v1/mappings/cut-a3", change(lamps, nil), nil)
	l.until("the cut key is at rest", func() bool { return face().Label == "Cut" && !face().Blink })
	r.entry(r.press("d3"), journal.Confirmed)
	l.until("the lamp shows", func() bool {
		f := face()
		return f.Label == "Logo is on" && f.Background == "#553300" && f.Blink && f.is("armed")
	})
	r.entry(r.press("d3"), journal.Confirmed)
	l.until("the lamp is off", func() bool { return face().Label == "Cut" })

	var path struct {
		OwnLamps bool
		Lamps    []struct {
			When, Role string
			Sentences  []map[string]any
		}
		Looks []struct{ ID, State string }
	}
	r.must(200, "GET", "/api/v1/pages/cut/controls/a3/path", nil, &path)
	if !path.OwnLamps || len(path.Lamps) != 2 || path.Lamps[1].Sentences[0]["reading"] != "stream-pc:stream/on" {
		t.Errorf("they are read back as %+v", path.Lamps)
	}
	// A state is tried out, on every drawing, and says that it is.
	r.must(204, "PUT", "/api/v1/mappings/cut-a3/state", map[string]any{"state": "lamp-0", "seconds": 60}, nil)
	l.until("it is tried out", func() bool { return face().Forced && face().Label == "Logo is on" })
	r.must(204, "PUT", "/api/v1/mappings/cut-a3/state", map[string]any{"state": "", "seconds": 0}, nil)
	l.until("it is over", func() bool { return !face().Forced && face().Label == "Cut" })
	r.must(204, "PUT", "/api/v1/mappings/cut-a3/state", map[string]any{"state": "away", "seconds": 1}, nil)
	l.until("it ends by itself", func() bool { return !face().Forced })
	r.fails(404, "PUT", "/api/v1/mappings/cut-a3/state", map[string]any{"state": "lamp-9", "seconds": 1})

	for field, bad := range map[string]any{
		"lamps.0.when":  []map[string]any{{"when": "reading('keyer/1/on'", "role": "set"}},
		"lamps.0.role":  []map[string]any{{"when": "true"}},
		"lamps.0.label": []map[string]any{{"when": "true", "label": "{"}},
	} {
		if p := r.fails(422, "PUT", "/api/v1/mappings/cut-a3", change(bad, nil)); p.Field != field {
			t.Errorf("%s: %+v", field, p)
		}
	}
	r.must(200, "PUT", "/api/v1/mappings/cut-a3", change(nil, map[string]any{"actionLamps": true}), nil)
	r.must(200, "GET", "/api/v1/pages/cut/controls/a3/path", nil, &path)
	if path.OwnLamps {
		t.Error("the lamps are still its own")
	}
	var values struct {
		Number bool
		Values []struct{ Name string }
	}
	r.must(200, "GET", "/api/v1/devices/dome-switcher/values?path=mix/1/program", nil, &values)
	if values.Number || len(values.Values) < 6 || values.Values[0].Name == "" {
		t.Errorf("program can be %+v", values)
	}
	r.must(200, "GET", "/api/v1/devices/sound-desk/values?path=channel/1/level", nil, &values)
	if !values.Number {
		t.Error("a level is no number")
	}
}

func TestLabelsOfEveryKindAreSet(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	for _, label := range []string{"🌠 Meteor", "שידור חי עכשיו", "العرض المباشر", strings.Repeat("Perseids ", 33), "a\nb", "{name('dome-switcher:input/2')} {2 + 3}", "{reading('dome-switcher:input/99/name') + 1}"} {
		r.must(200, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": map[string]any{"label": label}}, nil)
		want := label
		switch {
		case strings.HasPrefix(label, "{name"):
			want = "Telescope feed 5"
		case strings.HasPrefix(label, "{reading"):
			want = "Presenter cam" // it cannot be worked out: the plain name
		case len(label) > 250:
			want = strings.TrimRight(label[:200], " ") + "…"
		}
		l.until(label, func() bool {
			var f struct {
				Label string
				Lines []string
				Cut   bool
			}
			_ = json.Unmarshal(l.values["face/cut-a1"], &f)
			return f.Label == want && len(f.Lines) > 0 && len(f.Lines) <= 3 && f.Cut == (len(label) > 250)
		})
	}
	if p := r.fails(422, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": map[string]any{"label": strings.Repeat("x", 500)}}); !strings.Contains(p.Detail, "400 is the most") {
		t.Errorf("%+v", p)
	}
}

func TestPagesArePrinted(t *testing.T) {
	r := start(t).ready()
	r.must(204, "PUT", "/api/v1/pages/cut/notes", map[string]any{"notes": map[string]string{"a4": "guest <mic> & light"}}, nil)
	for path, says := range map[string][]string{
		"/api/v1/pages/cut/print.svg":                             {"<svg", "Cut", "Producer grid", "Presenter", "guest &lt;mic&gt; &amp;", ">a1<"},
		"/api/v1/pages/stream/print.svg?what=gestures":            {"<svg", "hold", "(hold it)", "Show Countdown"},
		"/api/v1/pages/all/print.svg?profile=meteor-night":        {"Home", "Faders", "Feet", "Captions"},
		"/api/v1/pages/all/print.svg?profile=night&what=gestures": nil,
		"/api/v1/pages/faders/print.svg?what=gestures":            {"dial1", "turn", "push"},
	} {
		resp, err := http.Get(r.base + path)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(resp.Body)
		_ = resp.Body.Close()
		if (says == nil) != (resp.StatusCode == 404) {
			t.Errorf("%s: %d", path, resp.StatusCode)
			continue
		}
		if says == nil {
			continue
		}
		if err := xml.Unmarshal(body, new(struct{ XMLName xml.Name })); err != nil {
			t.Errorf("%s is no XML: %v", path, err)
		}
		for _, s := range says {
			if !strings.Contains(string(body), s) && s != "push" {
				t.Errorf("%s does not say %q", path, s)
			}
		}
	}
}
