package app_test

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/overlay"
	"synaptor/internal/journal"
)

// taken follows the page of the overlays, as streaming software does: without any session. It ends with the address.
func (r *rig) taken(path string) (pages <-chan overlay.Page) {
	r.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	r.Cleanup(cancel)
	req, err := http.NewRequestWithContext(ctx, "GET", r.base+path+"/events", nil)
	if err != nil {
		r.Fatal(err)
	}
	resp, err := http.DefaultClient.Do(req)
	if err != nil || resp.StatusCode != 200 {
		r.Fatalf("%s: %v, %v", path, resp, err)
	}
	if len(resp.Cookies()) > 0 {
		r.Errorf("it is given %v", resp.Cookies())
	}
	out := make(chan overlay.Page, 100)
	go func() {
		defer close(out)
		defer resp.Body.Close()
		for s := bufio.NewScanner(resp.Body); s.Scan(); {
			if data, is := strings.CutPrefix(s.Text(), "data: "); is {
				var p overlay.Page
				if json.Unmarshal([]byte(data), &p) == nil {
					out <- p
				}
			}
		}
	}()
	return out
}

// sees waits until an overlay is as it should be on a page.
func (r *rig) sees(what string, pages <-chan overlay.Page, id string, is func(overlay.Element) bool) (last overlay.Element) {
	r.Helper()
	r.eventually(what, func() bool {
		for {
			select {
			case p := <-pages:
				for _, e := range p.Elements {
					if e.ID == id {
						last = e
					}
				}
			default:
				return is(last)
			}
		}
	})
	return last
}

// onMusic presses a key of the page Music.
func (r *rig) onMusic(control, gesture string) {
	r.Helper()
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/input/producer-grid/"+control+"/"+gesture, map[string]any{"page": "music"}, &made)
	if e := r.entry(made.ID); e.Outcome != journal.Confirmed {
		r.Errorf("%s ended %s: %s", control, e.Outcome, e.Reason)
	}
}

// ended takes in pages until one is as it should be; nil: none comes any more.
func ended(pages <-chan overlay.Page, is func(p *overlay.Page) bool) func() bool {
	return func() bool {
		for {
			select {
			case p, more := <-pages:
				if !more {
					return is(nil)
				}
				if is(&p) {
					return true
				}
			default:
				return false
			}
		}
	}
}

// TestOverlaysAreTakenIn: shown by keys, macros and a reflex, told to whoever has the address, and to nobody once it was taken back.
func TestOverlaysAreTakenIn(t *testing.T) {
	r := start(t).ready()
	r.connected("audience")
	r.connected("talk-slides")
	var at struct {
		Path string
		Open []struct{ From string }
	}
	r.must(200, "GET", "/api/v1/overlay-address", nil, &at)
	if at.Path != "" {
		t.Fatalf("there is an address, %s, that nobody has asked for", at.Path)
	}
	r.must(200, "POST", "/api/v1/overlay-address", nil, &at)
	pages := r.taken(at.Path)
	r.sees("nothing is shown at first", pages, "name-plate", func(e overlay.Element) bool { return e.ID != "" && !e.Shown && e.Text == "" })
	press := r.onMusic
	press("e3", "press")
	r.sees("the name plate is shown", pages, "name-plate", func(e overlay.Element) bool { return e.Shown && e.Text == "Imke Vardal" && e.Second == "Presenter" })
	press("e3", "hold")
	press("e3", "hold")
	r.sees("it asks what slide is shown", pages, "name-plate", func(e overlay.Element) bool { return e.Text == "Why meteors burn" })
	press("d3", "press")
	r.sees("the clock is shown", pages, "corner-clock", func(e overlay.Element) bool { return e.Shown && e.Text != "" })

	// A viewer's words are text, whatever they look like.
	evil := `? <b onclick="x">{reading('sound-desk:main/level')}</b> 🌠 מה זה ` + strings.Repeat("x", 100)
	if err := r.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{"Okular: " + evil}}); err != nil {
		t.Fatal(err)
	}
	r.sees("the question is shown", pages, "viewers-question", func(e overlay.Element) bool { return e.Shown && e.Text == evil && e.Second == "Okular" })
	press("f3", "press")
	r.sees("and hidden", pages, "viewers-question", func(e overlay.Element) bool { return !e.Shown })

	// It is right after a restart, and undone like all else.
	r.must(200, "GET", "/api/v1/overlay-address", nil, &at)
	if len(at.Open) != 1 {
		t.Errorf("it is open at %v", at.Open)
	}
	r.must(204, "DELETE", "/api/v1/overlays/name-plate", nil, nil)
	r.eventually("one that is removed is on no page", ended(pages, func(p *overlay.Page) bool { return p != nil && len(p.Elements) == 2 }))
	r.undo()
	r.sees("and back as it was", pages, "name-plate", func(e overlay.Element) bool { return e.Shown })

	old := at.Path
	r.must(200, "POST", "/api/v1/overlay-address", nil, &at)
	r.eventually("the old address ends", ended(pages, func(p *overlay.Page) bool { return p == nil }))
	for path, want := range map[string]int{old: 404, old + "/events": 404, at.Path: 200, "/overlay/": 404, "/overlay/x/picture/y": 404} {
		resp, err := http.Get(r.base + path)
		if err != nil {
			t.Fatal(err)
		}
		_ = resp.Body.Close()
		if resp.StatusCode != want {
			t.Errorf("%s answers %d, want %d", path, resp.StatusCode, want)
		}
	}
}

// TestAViewersQuestionComesWithTheViewersPicture, from the service that has it, to those who have the address; where it cannot be had, the first letter
// of the name stands for them.
func TestAViewersQuestionComesWithTheViewersPicture(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	r.connected("audience")
	var at struct{ Path string }
	r.must(200, "POST", "/api/v1/overlay-address", nil, &at)
	pages := r.taken(at.Path)
	get := func(r *rig, path string) (int, string) {
		t.Helper()
		resp, err := http.Get(r.base + path)
		if err != nil {
			t.Fatal(err)
		}
		defer resp.Body.Close()
		return resp.StatusCode, resp.Header.Get("Content-Type")
	}
	write := func(params map[string]string) journal.Entry {
		t.Helper()
		var made struct{ ID string }
		params["overlay"] = "viewers-question"
		r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": "overlay-write", "params": params}, &made)
		return r.entry(made.ID)
	}
	if err := r.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{"Okular: ?where is it"}}); err != nil {
		t.Fatal(err)
	}
	e := r.sees("the question is shown", pages, "viewers-question", func(e overlay.Element) bool { return e.Shown && e.Second == "Okular" })
	portrait := at.Path + "/portrait/viewers-question/" + e.Portrait
	if e.Initial != "O" || e.Portrait == "" {
		t.Fatalf("it is shown as %+v", e)
	}
	if status, kind := get(r, portrait); status != 200 || kind != "image/jpeg" {
		t.Errorf("the picture answers %d, %s", status, kind)
	}
	for _, path := range []string{at.Path + "/portrait/viewers-question/x", at.Path + "/portrait/name-plate/" + e.Portrait, "/overlay/guessed/portrait/viewers-question/" + e.Portrait} {
		if status, _ := get(r, path); status != 404 {
			t.Errorf("%s answers %d", path, status)
		}
	}

	// Who is new has none; the old one is gone.
	write(map[string]string{"words": "hello", "second": "  ямщик "})
	e = r.sees("another one is shown", pages, "viewers-question", func(e overlay.Element) bool { return e.Text == "hello" })
	if e.Initial != "Я" || e.Portrait != "" {
		t.Errorf("it is shown as %+v", e)
	}
	if status, _ := get(r, portrait); status != 404 {
		t.Errorf("the picture that is no longer shown answers %d", status)
	}

	// Only what an event can name is taken: no address, no other picture.
	for _, wrong := range []string{"http://127.0.0.1:1/x.png", "audience:viewer-..", "audience:input-1", "nobody:viewer-v1", "dome-switcher:input-1"} {
		if e := write(map[string]string{"words": "x", "picture": wrong}); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "is no picture that a device of the show has") {
			t.Errorf("%s ends %s: %s", wrong, e.Outcome, e.Reason)
		}
	}

	// It is there again after a restart, and what the service does not have is nothing.
	write(map[string]string{"words": "again", "second": "Okular", "picture": "audience:viewer-v10"})
	r.triedOwn("overlay-show", map[string]string{"overlay": "viewers-question"})
	r = r.again(data)
	e = r.sees("it is as it was", r.taken(at.Path), "viewers-question", func(e overlay.Element) bool { return e.Shown && e.Portrait != "" })
	if status, _ := get(r, at.Path+"/portrait/viewers-question/"+e.Portrait); status != 200 {
		t.Errorf("after a restart the picture answers %d", status)
	}
	write(map[string]string{"words": "gone", "second": "Okular", "picture": "audience:viewer-v99"})
	pages = r.taken(at.Path)
	gone := r.sees("another one is shown", pages, "viewers-question", func(e overlay.Element) bool { return e.Text == "gone" })
	if status, _ := get(r, at.Path+"/portrait/viewers-question/"+gone.Portrait); status != 404 || gone.Portrait == e.Portrait {
		t.Errorf("a picture that is gone answers %d", status)
	}
	if err := r.Bench.StandIn("chat").SetFaults(faults.Faults{Cut: true}); err != nil {
		t.Fatal(err)
	}
	write(map[string]string{"words": "away", "second": "Okular", "picture": "audience:viewer-v11"})
	away := r.sees("another one is shown", pages, "viewers-question", func(e overlay.Element) bool { return e.Text == "away" })
	if status, _ := get(r, at.Path+"/portrait/viewers-question/"+away.Portrait); status != 404 || away.Initial != "O" {
		t.Errorf("with the service away it answers %d", status)
	}
}

// TestAnOverlayThatCannotBeIsRefused with a sentence at its field.
func TestAnOverlayThatCannotBeIsRefused(t *testing.T) {
	r := start(t)
	good := map[string]any{"name": "Plate", "kind": "caption", "x": 6, "y": 70, "width": 40, "size": 6, "align": "left", "look": "band", "fadeMs": 300}
	for field, wrong := range map[string]any{"name": "Name plate", "kind": "hologram", "x": -1, "y": 200, "width": 0, "size": 0.5, "align": "up", "look": "neon", "fadeMs": 60_000,
		"lines": []map[string]string{{"text": "{reading("}}} {
		body := map[string]any{}
		for k, v := range good {
			body[k] = v
		}
		body[field] = wrong
		if p := r.fails(422, "POST", "/api/v1/overlays", body); p.Field != field {
			t.Errorf("%s = %v is wrong at %q: %s", field, wrong, p.Field, p.Detail)
		}
	}
	id := r.adds("POST", "/api/v1/overlays", good)
	r.fails(409, "PUT", "/api/v1/overlays/"+id, good)
	r.undo()
	if r.Edit.Program().Show.Overlay(id) != nil {
		t.Error("it is not undone")
	}
}

// TestOverlaysStandAsTheyStoodAfterARestart.
func TestOverlaysStandAsTheyStoodAfterARestart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	var at struct{ Path string }
	r.must(200, "POST", "/api/v1/overlay-address", nil, &at)
	try := func(r *rig, action string, params map[string]string) {
		t.Helper()
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": action, "params": params}, &made)
		if e := r.entry(made.ID); e.Outcome != journal.Confirmed {
			t.Errorf("%s ended %s: %s", action, e.Outcome, e.Reason)
		}
	}
	try(r, "overlay-write", map[string]string{"overlay": "name-plate", "words": "Ada Lindqvist", "second": "Grinds mirrors"})
	try(r, "overlay-show", map[string]string{"overlay": "name-plate"})
	try(r, "overlay-show-for", map[string]string{"overlay": "viewers-question", "seconds": "1"})
	r.eventually("what is shown for a time goes by itself", func() bool { return r.readingOf("synaptor", "overlay/viewers-question/shown").Word == "off" })
	r.App.Close()
	again := startIn(t, data)
	pages := again.taken(at.Path)
	again.sees("it is as it was", pages, "name-plate", func(e overlay.Element) bool {
		return e.Shown && e.Text == "Ada Lindqvist" && e.Second == "Grinds mirrors"
	})
}

// TestOverlaysAreOpenInFortyPlaces, one of which never reads: all others see each change, and presses go on.
func TestOverlaysAreOpenInFortyPlaces(t *testing.T) {
	r := start(t).ready()
	var at struct{ Path string }
	r.must(200, "POST", "/api/v1/overlay-address", nil, &at)
	deaf, err := net.Dial("tcp", r.App.Addr)
	if err != nil {
		t.Fatal(err)
	}
	defer deaf.Close()
	if _, err := fmt.Fprintf(deaf, "GET %s/events HTTP/1.1\r\nHost: %s\r\n\r\n", at.Path, r.App.Addr); err != nil {
		t.Fatal(err)
	}
	var pages []<-chan overlay.Page
	for range 40 {
		pages = append(pages, r.taken(at.Path))
	}
	long := strings.Repeat("ж", 2000)
	for i := range 20 {
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": "overlay-write", "params": map[string]string{"overlay": "name-plate", "words": long, "second": fmt.Sprint(i)}}, &made)
		if e := r.entry(made.ID); e.Outcome != journal.Confirmed {
			t.Fatalf("it ended %s: %s", e.Outcome, e.Reason)
		}
		r.onMusic("e3", "press")
	}
	r.onMusic("e3", "press") // an odd number of times: it is shown
	for _, p := range pages {
		r.sees("each sees the last of it", p, "name-plate", func(e overlay.Element) bool { return e.Shown && e.Text == long && e.Second == "19" })
	}
	if e := r.entry(r.press("a1"), journal.Confirmed); e.Outcome != journal.Confirmed {
		t.Errorf("a press ended %s: %s", e.Outcome, e.Reason)
	}
}
