package app_test

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"image"
	"image/png"
	"io"
	"maps"
	"net/http"
	"strings"
	"testing"

	"synaptor/internal/journal"
)

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
		want := 422
		if name == "large.png" {
			want = 413
		}
		if status, text := r.upload(name, body); status != want || !strings.HasSuffix(text, ".") {
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
}

func TestTheValuesThatAReadingCanHaveAreListed(t *testing.T) {
	r := start(t).ready()
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
	bomb := map[string]any{"label": "{len(reduce(1..40, #acc + #acc, 'x'))}"}
	if p := r.fails(422, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": bomb}); !strings.Contains(p.Detail, "there is no function reduce") {
		t.Errorf("a label that grows without a bound: %+v", p)
	}
	if p := r.fails(422, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": map[string]any{"label": strings.Repeat("x", 500)}}); !strings.Contains(p.Detail, "400 is the most") {
		t.Errorf("%+v", p)
	}
}

func TestPagesArePrinted(t *testing.T) {
	r := start(t).ready()
	r.must(204, "PUT", "/api/v1/pages/cut/notes", map[string]any{"notes": map[string]string{"a4": "guest <mic> & light"}}, nil)
	r.must(200, "PUT", "/api/v1/mappings/cut-a1", map[string]any{"rev": r.rev("cut-a1"), "name": "", "face": map[string]any{"label": "on\x00\x1b air"}}, nil)
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

func (r *rig) rev(mapping string) int64 {
	r.Helper()
	for _, m := range r.doc().Mappings {
		if m.ID == mapping {
			return m.Rev
		}
	}
	return 0
}
