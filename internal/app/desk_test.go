package app_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/journal"
	"synaptor/internal/mirror"
)

// hand is a panel of any controller.
type hand struct {
	*live
	controller string
	seq        int
}

func (r *rig) hand(controller string) *hand {
	return &hand{r.follow("controllers", "readings", "standing:meteor-night", "page:feet", "page:faders", "page:cut"), controller, 0}
}

// do sends an edge of a control, with an amount.
func (h *hand) do(control, edge string, amount float64) {
	h.r.Helper()
	h.seq++
	h.send(map[string]any{"input": map[string]any{"controller": h.controller, "control": control, "edge": edge, "amount": amount, "via": "panel", "seq": h.seq}})
}

// pages are what a controller shows, as it was last told.
func (h *hand) pages() (row mirror.ControllerRow) {
	_ = json.Unmarshal(h.values["controller/"+h.controller], &row)
	return row
}

func (h *hand) shows(zone string, pages ...string) {
	h.r.Helper()
	h.until(h.controller+" shows "+strings.Join(pages, ", "), func() bool { return slices.Equal(h.pages().Zones[zone], pages) })
}

func (h *hand) word(key, word string) {
	h.r.Helper()
	h.until(key+" is "+word, func() bool { return strings.Contains(string(h.values["reading/"+key]), `"word":"`+word+`"`) })
}

func TestPagesAreGoneThroughAndOutliveARestart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data)
	h := r.hand("producer-grid")
	h.shows("keys", "cut")
	r.entry(r.press("c3"), journal.Confirmed) // Home stands on every page
	h.shows("keys", "home")
	r.entry(r.press("d1"), journal.Confirmed)
	h.shows("keys", "replay")
	r.entry(r.press("c3"), journal.Confirmed)
	r.entry(r.press("c3"), journal.Confirmed) // from Home, back to where one was
	h.shows("keys", "replay")
	if got := h.pages().Controls; got["c3"] != "standing-meteor-night-grid-6x4-c3" || got["a1"] != "replay-a1" {
		t.Errorf("what answers is %v", got)
	}
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "sound"}, nil)
	h.shows("keys", "sound")
	r.fails(422, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "nowhere"})
	r.must(204, "DELETE", "/api/v1/pages/sound", nil, nil)
	h.shows("keys", "home") // what is gone falls to the first page
	r.eventually("nothing leads there any more", func() bool { return !strings.Contains(r.text("/api/v1/find?q=go+to+sound"), `"Go to Sound"`) })
	// A key that led there says so, under the name it had.
	if e := r.entry(r.press("e1"), journal.Refused); !strings.Contains(e.Reason, "gone") {
		t.Errorf("a key to a page that is gone: %+v", e)
	}
	f := r.follow("page:home")
	f.until("the name is kept", func() bool {
		return strings.Contains(string(f.values["face/home-e1"]), `"label":"Sound"`) && strings.Contains(string(f.values["face/home-e1"]), `"gone":true`)
	})
	f.close()
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "lights"}, nil)
	h.shows("keys", "lights")
	h.close()
	r.Close()

	r = startIn(t, data)
	r.hand("producer-grid").shows("keys", "lights")
}

func TestAPageIsHeldAndAPressStaysWithItsPage(t *testing.T) {
	r := start(t)
	r.connected("workstation")
	h := r.hand("thumb-pad")
	h.shows("keys", "captions")
	h.do("shift1", "down", 0)
	h.shows("keys", "sounds", "captions")
	h.do("shift1", "up", 0)
	h.shows("keys", "captions")
	// A panel that is lost lets go of its held page.
	h.do("shift1", "down", 0)
	h.shows("keys", "sounds", "captions")
	other := r.hand("thumb-pad")
	h.close()
	other.shows("keys", "captions")
}

func TestAProfileChangesThePagesOfItsController(t *testing.T) {
	r := start(t).ready()
	h := r.hand("producer-grid")
	r.entry(r.press("c3"), journal.Confirmed)
	r.entry(r.press("a2"), journal.Confirmed)
	h.until("the sound check is in force", func() bool { return h.pages().Profile == "sound-check" })
	h.shows("keys", "check-grid")
	if e := r.entry(r.press("c3")); e.Title != "Open or mute Dome room" && e.Outcome != journal.Refused {
		t.Errorf("c3 did %s in the other profile", e.Title)
	}
	r.entry(r.press("f4"), journal.Confirmed)
	h.shows("keys", "home")
}

func TestDialsSlidersAndTalks(t *testing.T) {
	r := start(t)
	r.connected("sound-desk")
	r.connected("talkback")
	h := r.hand("scope-console")
	h.word("sound-desk:channel/1/level", "-10 dB")
	for range 4 {
		h.do("dial1", "turn", 1)
	}
	h.word("sound-desk:channel/1/level", "-6 dB")
	h.do("dial1", "down", 0)
	h.do("dial1", "up", 0)
	h.word("sound-desk:channel/1/mute", "off")
	// A slider takes over only once it has met the value.
	h.do("slider1", "slide", 0.2)
	h.do("slider1", "slide", 0.5)
	h.do("slider1", "slide", 0.95)
	h.word("sound-desk:main/level", "5 dB")

	feet := r.hand("treadle")
	feet.do("pedal2", "down", 0)
	feet.word("talkback:line/1/talk", "on")
	held := time.Now()
	r.eventually("it was held for longer than a tap", func() bool { return time.Since(held) > 400*time.Millisecond })
	feet.do("pedal2", "up", 0)
	feet.word("talkback:line/1/talk", "off")
	feet.do("pedal2", "down", 0) // a tap latches, another one ends it
	feet.do("pedal2", "up", 0)
	feet.word("talkback:line/1/talk", "on")
	feet.do("pedal2", "down", 0)
	feet.word("talkback:line/1/talk", "off")
}

func TestAGuardWantsASecondPress(t *testing.T) {
	r := start(t).ready()
	rev := int64(0)
	for _, m := range r.doc().Mappings {
		if m.ID == "cut-c1" {
			rev = m.Rev
		}
	}
	change := func(guard map[string]any) map[string]any {
		return map[string]any{"rev": rev, "name": "", "face": map[string]any{}, "guard": guard}
	}
	if p := r.fails(422, "PUT", "/api/v1/mappings/cut-c1", change(map[string]any{"kind": "prayer", "ms": 1000})); p.Field != "guard" {
		t.Errorf("%+v", p)
	}
	r.fails(422, "PUT", "/api/v1/mappings/cut-c1", change(map[string]any{"kind": "twice", "ms": 5}))
	r.must(200, "PUT", "/api/v1/mappings/cut-c1", change(map[string]any{"kind": "twice", "ms": 10000}), nil)
	if e := r.entry(r.press("c1"), journal.Guarded); !strings.Contains(e.Reason, "Press again within 10.0 s") {
		t.Errorf("the guard says %q", e.Reason)
	}
	if r.reading("mix/1/program").Value == 3.0 {
		t.Error("the guard let it through")
	}
	r.entry(r.press("c1"), journal.Confirmed)
}

func TestAKeyIsCopiedToAnotherControllerAsFarAsItsGesturesFit(t *testing.T) {
	r := start(t).ready()
	var moved struct{ Left []string }
	r.must(200, "POST", "/api/v1/pages/faders/move", map[string]any{"from": "dial1", "to": "a4", "page": "cut", "swap": false, "copy": true}, &moved)
	if !slices.Equal(moved.Left, []string{"turn"}) || r.on("a4") != "mute-toggle" {
		t.Errorf("left out %v; a4 does %q", moved.Left, r.on("a4"))
	}
	if p := r.fails(422, "POST", "/api/v1/pages/cut/move", map[string]any{"from": "a1", "to": "slider1", "page": "faders", "swap": false}); p.Field != "to" {
		t.Errorf("%+v", p)
	}
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	if r.on("a4") != "" {
		t.Error("the copy is still there")
	}
}

func TestWhatStandsIsNotHiddenUnder(t *testing.T) {
	r := start(t).ready()
	action := map[string]any{"device": "dome-switcher", "action": "cut", "params": map[string]string{"mix": "1"}}
	for _, call := range [][3]any{
		{"PUT", "/api/v1/pages/cut/controls/c3", action},
		{"DELETE", "/api/v1/pages/cut/controls/c3", nil},
		{"POST", "/api/v1/pages/cut/move", map[string]any{"from": "a1", "to": "c3", "swap": false}},
		{"POST", "/api/v1/pages/cut/move", map[string]any{"from": "c3", "to": "a4", "swap": false}},
	} {
		if p := r.fails(422, call[0].(string), call[1].(string), call[2]); !strings.Contains(p.Detail+p.Field, "control") && !strings.Contains(p.Detail, "stands") {
			t.Errorf("%v: %+v", call, p)
		}
	}
	// The next free key is one where nothing stands.
	var put struct{ Next string }
	r.must(201, "PUT", "/api/v1/pages/cut/controls/b3", action, &put)
	if put.Next != "a4" {
		t.Errorf("next comes %s", put.Next)
	}
	r.must(200, "PUT", "/api/v1/mappings/standing-meteor-night-grid-6x4-c3/standing", map[string]any{"stands": false, "page": "cut"}, nil)
	r.must(201, "PUT", "/api/v1/pages/cut/controls/c3", action, nil)
}

func TestPagesAreNamedOrderedDuplicatedAndDeleted(t *testing.T) {
	r := start(t)
	var made struct{ ID string }
	page := map[string]any{"name": "Cut", "profile": "meteor-night", "layout": "grid-6x4", "zone": "keys"}
	if p := r.fails(422, "POST", "/api/v1/pages", page); p.Field != "name" {
		t.Errorf("%+v", p)
	}
	page["name"] = "Guests and more"
	r.must(201, "POST", "/api/v1/pages", page, &made)
	r.must(204, "PUT", "/api/v1/pages/"+made.ID, map[string]any{"position": 0}, nil)
	r.must(204, "PUT", "/api/v1/pages/"+made.ID, map[string]any{"name": "Guests"}, nil)
	r.fails(422, "PUT", "/api/v1/pages/"+made.ID, map[string]any{})
	r.must(201, "POST", "/api/v1/pages/cut/duplicate", nil, &made)
	var doc struct {
		Pages []struct {
			ID, Name, Layout, Profile string
			Position                  int
			Controls                  map[string]string
		}
	}
	r.must(200, "GET", "/api/v1/show", nil, &doc)
	names := map[int]string{}
	for _, p := range doc.Pages {
		if p.Layout == "grid-6x4" && p.Profile == "meteor-night" {
			names[p.Position] = p.Name
		}
		if p.ID == made.ID && (len(p.Controls) != 18 || p.Controls["a1"] == "cut-a1") {
			t.Errorf("the copy has %v", p.Controls)
		}
	}
	if names[0] != "Guests" || names[3] != "Cut 2" {
		t.Errorf("the order is %v", names)
	}
	if p := r.fails(422, "DELETE", "/api/v1/pages/feet", nil); p.Field != "page" {
		t.Errorf("%+v", p)
	}
	r.must(200, "PUT", "/api/v1/mappings/cut-a1/standing", map[string]any{"stands": true, "page": "cut"}, nil)
	r.must(200, "GET", "/api/v1/show", nil, &doc)
	for _, p := range doc.Pages {
		// What stands comes before what a page has of its own.
		if p.Layout == "grid-6x4" && p.Profile == "meteor-night" && p.Controls["a1"] != "cut-a1" {
			t.Errorf("%s has %v", p.Name, p.Controls)
		}
	}
	r.must(204, "PUT", "/api/v1/controllers/treadle/place", map[string]any{"x": -5, "y": 90}, nil)
	r.must(204, "PUT", "/api/v1/controllers/producer-grid/start", map[string]any{"page": "dome"}, nil)
	r.must(201, "POST", "/api/v1/profiles", map[string]any{"name": "Rain"}, &made)
	r.fails(422, "POST", "/api/v1/profiles", map[string]any{"name": "rain"})
	r.must(204, "DELETE", "/api/v1/controllers/thumb-pad", nil, nil)
}
