package app_test

import (
	"encoding/json"
	"strings"
	"testing"

	"synaptor/internal/core/show"
)

// learnedOf waits until a lesson is certain of what was touched.
func (l *live) learnedOf(id, source string) {
	l.r.Helper()
	l.until(source+" was learned", func() bool {
		var got struct {
			Proposal *struct {
				Source string
				Sure   bool
			}
		}
		return json.Unmarshal(l.values["learned/"+id], &got) == nil && got.Proposal != nil && got.Proposal.Source == source && got.Proposal.Sure
	})
}

// TestAControlIsLearnedByTouching: what is touched meanwhile does nothing, what is not certain cannot be taken, and it is one edit.
func TestAControlIsLearnedByTouching(t *testing.T) {
	r := start(t).ready()
	id := r.deskFor("Fader row", map[string]show.Response{"pad1": pressed("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "3"})})
	before := r.reading("mix/1/program").Value
	begin := func(control string) (string, *live) {
		var l struct{ ID string }
		r.must(201, "POST", "/api/v1/learning", map[string]any{"controller": id, "control": control}, &l)
		return l.ID, r.follow("learning:" + l.ID)
	}
	take := func(lesson, control string, status int) {
		r.must(status, "POST", "/api/v1/learning/"+lesson+"/control", map[string]any{"controller": id, "control": control}, nil)
	}
	lesson, l := begin("dial4")
	take(lesson, "dial4", 422)
	for range 3 {
		r.touches("faders", "dial1", 1)
	}
	take(lesson, "dial4", 422) // it was turned one way only
	for range 3 {
		r.touches("faders", "dial1", -1)
	}
	l.learnedOf(lesson, "controller 1 16")
	take(lesson, "dial4", 204)
	r.must(204, "DELETE", "/api/v1/learning/"+lesson, nil, nil)
	lesson, l = begin("pad1")
	r.touches("faders", "pad1", "press")
	l.learnedOf(lesson, "note 1 36")
	r.touches("faders", "pad8", "press")
	l.learnedOf(lesson, "note 1 43")
	take(lesson, "pad1", 204)
	if now := r.reading("mix/1/program").Value; now != before {
		t.Errorf("while it was learned, %v became %v", before, now)
	}
	r.must(204, "DELETE", "/api/v1/learning/"+lesson, nil, nil)
	bound := func(source string) string {
		for _, l := range r.Edit.Program().Show.LinksOf(id) {
			for _, b := range l.Bindings {
				if b.Source == source {
					return b.Control
				}
			}
		}
		return "nothing"
	}
	if bound("controller 1 16") != "dial4" || bound("note 1 43") != "pad1" || bound("note 1 37") != "pad2" {
		t.Errorf("bound are a dial to %s, a pad to %s, another one to %s", bound("controller 1 16"), bound("note 1 43"), bound("note 1 37"))
	}
	r.touches("faders", "pad8", "press")
	r.eventually("what was learned plays", func() bool { return r.reading("mix/1/program").Value == 3.0 })
	r.undo()
	if bound("note 1 43") != "pad8" {
		t.Errorf("undone, it is bound to %s", bound("note 1 43"))
	}
}

// TestAControlOfABoardIsLearnedByTouching, too: where it is called otherwise, its link maps it.
func TestAControlOfABoardIsLearnedByTouching(t *testing.T) {
	r := start(t).ready()
	r.here("Bench keys")
	r.eventually("the board is welcomed", func() bool { return r.bench("keys", "/connected") == true })
	id := r.controller("producer-grid")
	before := r.reading("mix/1/program").Value
	var lesson struct{ ID string }
	r.must(201, "POST", "/api/v1/learning", map[string]any{"controller": id, "control": "d1"}, &lesson)
	l := r.follow("learning:" + lesson.ID)
	r.touches("keys", "b2", "press")
	l.learnedOf(lesson.ID, "b2")
	r.must(204, "POST", "/api/v1/learning/"+lesson.ID+"/control", map[string]any{"controller": id, "control": "d1"}, nil)
	r.must(204, "DELETE", "/api/v1/learning/"+lesson.ID, nil, nil)
	r.eventually("it is attached", func() bool { return r.hardware("Bench keys").Controller == id })
	if now := r.reading("mix/1/program").Value; now != before {
		t.Errorf("while it was learned, %v became %v", before, now)
	}
	r.touches("keys", "b2", "press")
	r.eventually("it presses what it was learned for", func() bool { return r.reading("mix/1/program").Value == 4.0 })
}

// TestPagesOfATinyControllerAreGoneThroughByGestures: proposed where no key leads, put as one edit, and it works.
func TestPagesOfATinyControllerAreGoneThroughByGestures(t *testing.T) {
	r := start(t).ready()
	id := r.deskFor("Foot board", map[string]show.Response{"pedal1": pressed("dome-switcher", "cut", map[string]string{"mix": "1"}), "pedal2": pressed("dome-switcher", "auto", map[string]string{"mix": "1"})})
	profile := r.Edit.Program().Show.Controller(id).Profile
	where := map[string]any{"profile": profile, "layout": "foot-board-3", "zone": "pedals", "name": "More"}
	r.must(422, "POST", "/api/v1/pages/through", where, nil) // there is only one
	second := r.adds("POST", "/api/v1/pages", where)
	through := func() string {
		var maps []struct {
			Layout  string
			Through struct{ Text string }
		}
		r.must(200, "GET", "/api/v1/profiles/"+profile+"/map", nil, &maps)
		for _, m := range maps {
			if m.Layout == "foot-board-3" {
				return m.Through.Text
			}
		}
		return "no map"
	}
	if got := through(); !strings.HasPrefix(got, "A hold of pedal3 goes to the next page, ") {
		t.Errorf("proposed is %q", got)
	}
	r.must(204, "POST", "/api/v1/pages/through", where, nil)
	if got := through(); got != "" {
		t.Errorf("done, it is proposed again: %q", got)
	}
	shown := func() string {
		v, _ := r.readingOf("synaptor", "controller/"+id+"/zone/pedals/page").Value.(string)
		return v
	}
	r.touches("foot", "pedal3", "down")
	r.eventually("a hold goes to the other page", func() bool { return shown() == second })
	r.touches("foot", "pedal3", "up")
	r.undo()
	if got := through(); got == "" {
		t.Error("undone, nothing is proposed")
	}
}

// TestOnePageOverTwoControllers: two boards are one controller, where the layout has room for both.
func TestOnePageOverTwoControllers(t *testing.T) {
	r := start(t).ready()
	id := r.controller("producer-grid")
	for _, h := range []struct{ kind, name, source, control string }{{show.LinkKeysHost, "Numeric block", "KEY_KP7", "c1"}, {show.LinkMIDIHost, "Fader row", "note 1 36", "d1"}} {
		place := r.here(h.name).Place
		r.adds("POST", "/api/v1/links", map[string]any{"controller": id, "kind": h.kind, "match": h.name, "place": place, "bindings": []show.Binding{{Source: h.source, Control: h.control, As: show.AsKey}}})
		r.eventually(h.name+" is attached", func() bool { return r.hardware(h.name).Controller == id })
	}
	r.touches("numeric", "KEY_KP7", "press")
	r.eventually("the first puts its input on program", func() bool { return r.reading("mix/1/program").Value == 3.0 })
	r.touches("faders", "pad1", "press")
	r.eventually("the second puts another on program", func() bool { return r.reading("mix/1/program").Value == 4.0 })
}
