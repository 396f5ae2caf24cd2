package device_test

import (
	"encoding/json"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
)

// TestAnEventNamesAPicture of the device, and no address: what it says is one part of the address that the sheet gives, and no way out of it.
func TestAnEventNamesAPicture(t *testing.T) {
	var s device.Sheet
	if err := json.Unmarshal([]byte(`{"sheet":"synaptor.device/1","type":"room.http","title":"Room","role":"chat",
		"link":{"driver":"http","transport":"http","port":80,"path":"/events"},
		"readings":[],"actions":[],
		"events":[{"id":"message","title":"{who} says {text}","from":{"address":"message"},"fields":{"who":"/who","text":"/text","picture":"/picture"}}],
		"pictures":[{"id":"viewer","title":"Picture of a viewer","named":"picture","url":"http://{host}:{port}/pictures/{picture}"}]}`), &s); err != nil {
		t.Fatal(err)
	}
	typ, err := device.Compile(&s)
	if err != nil {
		t.Fatal(err)
	}
	raised := func(picture any) string {
		t.Helper()
		got, err := typ.Match(device.Message{Address: "message", Body: map[string]any{"who": "Okular", "text": "where?", "picture": picture}})
		if err != nil || len(got.Events) != 1 || got.Events[0].Fields["who"] != "Okular" {
			t.Fatalf("raised %+v: %v", got.Events, err)
		}
		e := got.Events[0].Of("audience")
		return e.Of("audience").Fields["picture"] // once is enough
	}
	for picture, want := range map[any]string{"v3": "audience:viewer-v3", 7.0: "audience:viewer-7", "a b": "audience:viewer-a b", nil: "", "": "", "..": "", ".": "", "../status": "",
		"http://elsewhere/x.png": "", "{host}": "", "a\nb": ""} {
		if got := raised(picture); got != want {
			t.Errorf("%v names %q, want %q", picture, got, want)
		}
	}
	for source, want := range map[string]string{"viewer-v3": "http://h:80/pictures/v3", "viewer-a b?#": "http://h:80/pictures/a%20b%3F%23", "viewer-..": "", "viewer-a/b": "", "viewer-": "", "input-1": ""} {
		url, ok := typ.Picture(source, "audience", "h", 80, expr.Nothing{})
		if url != want || ok != (want != "") || typ.NamesPicture(source) != ok {
			t.Errorf("%s is at %q, %v", source, url, ok)
		}
	}
	if all := typ.PictureSources("audience", nil); len(all) > 0 {
		t.Errorf("%v can be chosen for a key", all)
	}
}
