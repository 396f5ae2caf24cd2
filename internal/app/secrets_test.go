package app_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"synaptor/internal/journal"
)

const parrot = `{
  "sheet": "synaptor.device/1", "type": "parrot.http", "title": "Parrot", "role": "other",
  "link": { "driver": "http", "transport": "http", "port": 80, "login": { "kind": "bearer" }, "alive": "500ms",
    "identify": { "reading": "model" }, "ask": { "address": "{address}" } },
  "readings": [{ "path": "model", "title": "Model", "type": "text", "from": { "address": "/model", "value": "/model" } },
    { "path": "said", "title": "Said", "type": "text", "from": { "address": "/model", "value": "/said" } }],
  "actions": [{ "id": "say", "title": "Say", "help": "Says it.", "suits": ["press"], "send": [{ "verb": "POST", "address": "/say", "body": 1 }],
    "face": { "label": "{reading('said')}", "glyph": "message" } }]
}`

// TestATokenThatADeviceSaysBackIsKeptNowhere: not in the readings, not in the journal, not in the archive, not in any file.
func TestATokenThatADeviceSaysBackIsKeptNowhere(t *testing.T) {
	const token = "orrery-7-perihelion"
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			w.WriteHeader(http.StatusUnprocessableEntity)
			fmt.Fprintf(w, `{"detail":"%s may not speak"}`, r.Header.Get("Authorization"))
			return
		}
		fmt.Fprintf(w, `{"model":"Parrot","said":"you are %s"}`, r.Header.Get("Authorization"))
	}))
	defer s.Close()
	_, port, _ := net.SplitHostPort(s.Listener.Addr().String())
	data := t.TempDir()
	r := startIn(t, data)
	r.must(201, "POST", "/api/v1/sheets", parrot, nil)
	id := r.adds("POST", "/api/v1/devices", `{"name":"Parrot","type":"parrot.http","host":"127.0.0.1","port":`+port+`,"password":"`+token+`"}`)
	r.eventually("it says the token back, and that is masked", func() bool {
		return strings.Contains(r.text("/api/v1/readings?device="+id), "you are Bearer •••")
	})
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/devices/"+id+"/try", map[string]any{"action": "say"}, &made)
	if e := r.entry(made.ID, journal.Refused); !strings.Contains(e.Reason, "••• may not speak") {
		t.Errorf("the refusal is %q", e.Reason)
	}
	for _, path := range []string{"/api/v1/show", "/api/v1/journal", "/api/v1/readings", "/api/v1/devices/" + id + "/wire"} {
		if strings.Contains(r.text(path), token) {
			t.Errorf("%s has the token", path)
		}
	}
	packed := []byte(r.text("/api/v1/archive"))
	z, err := zip.NewReader(bytes.NewReader(packed), int64(len(packed)))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range z.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if body, err := io.ReadAll(in); err != nil || bytes.Contains(body, []byte(token)) {
			t.Errorf("%s of the archive has the token (%v)", f.Name, err)
		}
	}
	r.Close()
	err = filepath.WalkDir(data, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		body, err := os.ReadFile(path)
		if bytes.Contains(body, []byte(token)) {
			t.Errorf("%s has the token", path)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}
