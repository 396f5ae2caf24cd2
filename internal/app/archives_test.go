package app_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"io"
	"net/http"
	"strings"
	"testing"

	"synaptor/internal/demo"
	"synaptor/internal/link"
)

// bytesOf reads an answer as it is.
func (r *rig) bytesOf(path string) []byte {
	r.Helper()
	resp, err := r.client.Get(r.base + path)
	if err != nil {
		r.Fatal(err)
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	if err != nil || resp.StatusCode != http.StatusOK {
		r.Fatalf("%s: %d, %v", path, resp.StatusCode, err)
	}
	return body
}

// post posts JSON, and gives the status with the bytes of the answer.
func (r *rig) post(path string, body any) (int, []byte) {
	r.Helper()
	raw, err := json.Marshal(body)
	if err != nil {
		r.Fatal(err)
	}
	return r.sendAs("application/json", path, raw)
}

// send posts bytes, and gives the status with the answer.
func (r *rig) send(path string, body []byte) (int, []byte) {
	r.Helper()
	return r.sendAs("application/octet-stream", path, body)
}

func (r *rig) sendAs(kind, path string, body []byte) (int, []byte) {
	r.Helper()
	req, err := http.NewRequest("POST", r.base+path, bytes.NewReader(body))
	if err != nil {
		r.Fatal(err)
	}
	req.Header.Set("Content-Type", kind)
	req.Header.Set("Sec-Fetch-Site", "same-origin")
	resp, err := r.client.Do(req)
	if err != nil {
		r.Fatal(err)
	}
	defer resp.Body.Close()
	out, err := io.ReadAll(resp.Body)
	if err != nil {
		r.Fatal(err)
	}
	return resp.StatusCode, out
}

func TestAnArchiveBecomesAShowThatGivesTheSameArchive(t *testing.T) {
	r := start(t).ready()
	var logo bytes.Buffer
	if err := png.Encode(&logo, image.NewNRGBA(image.Rect(0, 0, 40, 30))); err != nil {
		t.Fatal(err)
	}
	status, picture := r.upload("Logo", logo.Bytes())
	if status != http.StatusCreated {
		t.Fatalf("the picture: %d", status)
	}
	m := r.at("a1")
	r.must(200, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"picture": picture}}, nil)
	const export = "/api/v1/archive?assumptions=none"
	first := r.bytesOf(export)
	if !bytes.Equal(first, r.bytesOf(export)) {
		t.Error("the same show gives other bytes")
	}

	var doc struct {
		Token, Name string
		Devices     []struct{ Name, Type, Address, Problem string }
		Pictures    int
	}
	status, raw := r.send("/api/v1/archives", first)
	if err := json.Unmarshal(raw, &doc); status != http.StatusOK || err != nil || doc.Name != "Meteor Night" || len(doc.Devices) != demoDevices || doc.Pictures != 1 || doc.Devices[1].Type != "Video switcher (OSC)" {
		t.Fatalf("%d %s, %v", status, raw, err)
	}
	if p := r.fails(422, "POST", "/api/v1/archives/"+doc.Token+"/show", map[string]any{"name": ""}); p.Field != "name" {
		t.Errorf("without a name: %+v", p)
	}
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/archives/"+doc.Token+"/show", map[string]any{"name": "Meteor Night"}, &made)
	r.opens(made.ID, false)
	if again := r.bytesOf(export); !bytes.Equal(first, again) {
		t.Error("export, import and export again give other bytes")
	}
	if body := r.bytesOf("/api/v1/media/" + picture); len(body) == 0 {
		t.Error("the picture did not travel")
	}
	if r.device("stream-pc").HasPassword {
		t.Error("a password travelled")
	}

	r.fails(404, "POST", "/api/v1/archives/nobody/show", map[string]any{"name": "x"})
	before := len(r.shows().Shows)
	for what, body := range map[string][]byte{"cut off": first[:len(first)/2], "rubbish": []byte("rubbish"), "nothing": nil} {
		status, raw := r.send("/api/v1/archives", body)
		if status != http.StatusUnprocessableEntity || !strings.Contains(string(raw), "archive") {
			t.Errorf("%s: %d %s", what, status, raw)
		}
	}
	if n := len(r.shows().Shows); n != before {
		t.Errorf("there are %d shows, and were %d", n, before)
	}
}

// TestPasswordsTravelSealedWhereTheyAreAskedFor: only the passphrase opens them.
func TestPasswordsTravelSealedWhereTheyAreAskedFor(t *testing.T) {
	r := start(t).ready()
	var made struct{ ID string }
	if p := r.fails(422, "POST", "/api/v1/archive", map[string]any{"passphrase": "short"}); p.Field != "passphrase" {
		t.Errorf("a short passphrase: %+v", p)
	}
	status, sealed := r.post("/api/v1/archive", map[string]any{"passphrase": "a long passphrase"})
	for _, password := range demo.Passwords() {
		if status != http.StatusOK || bytes.Contains(sealed, []byte(password)) {
			t.Errorf("%d, or a password is in it as it is", status)
		}
	}
	var doc struct {
		Token  string
		Sealed bool
	}
	_, raw := r.send("/api/v1/archives", sealed)
	if err := json.Unmarshal(raw, &doc); err != nil || !doc.Sealed {
		t.Fatalf("%s, %v", raw, err)
	}
	at := "/api/v1/archives/" + doc.Token + "/show"
	if p := r.fails(422, "POST", at, map[string]any{"name": "Sealed", "passphrase": "another passphrase"}); p.Field != "passphrase" {
		t.Errorf("another passphrase: %+v", p)
	}
	r.must(201, "POST", at, map[string]any{"name": "Sealed", "passphrase": "a long passphrase"}, &made)
	r.opens(made.ID, false)
	if !r.device("stream-pc").HasPassword {
		t.Error("the passwords did not travel")
	}
	r.eventually("the stream PC lets Synaptor in", func() bool { return r.phase("stream-pc").Phase == link.Up })
}
