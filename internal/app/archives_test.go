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

// send posts bytes, and gives the status with the answer.
func (r *rig) send(path string, body []byte) (int, []byte) {
	r.Helper()
	req, err := http.NewRequest("POST", r.base+path, bytes.NewReader(body))
	if err != nil {
		r.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/octet-stream")
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
	if err := json.Unmarshal(raw, &doc); status != http.StatusOK || err != nil || doc.Name != "Meteor Night" || len(doc.Devices) != 9 || doc.Pictures != 1 || doc.Devices[1].Type != "Video switcher (OSC)" {
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
