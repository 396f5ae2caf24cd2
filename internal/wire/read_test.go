package wire

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"
)

func TestWhatABridgeSaysIsReadOrToldWhatIsWrong(t *testing.T) {
	for text, says := range map[string]string{
		`{"type":"down","controller":"s","control":"a1","seq":1,"more":true}`:  "",
		`{"type":"swipe","controller":"s","control":"a1","seq":1,"amount":-1}`: "",
		`{"type":"turn","controller":"s","control":"d1","seq":9,"amount":-3}`:  "",
		`{"type":"beat"}`: "", `{"type":"ack","seq":0}`: "", `{"type":"battery","controller":"s","level":0}`: "",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l"},{"serial":"t","sheet":{}}]}`: "",
		`[]`: "not a message", `{"type":5}`: "not a message", `{}`: "has a type", `{"type":"welcome"}`: "says no",
		`{"type":"down","controller":"s","control":"a1"}`:                                                                   "sequence number",
		`{"type":"down","controller":"s","control":"a1","seq":1.5}`:                                                         "is no down",
		`{"type":"turn","controller":"s","control":"a1","seq":1}`:                                                           "detents",
		`{"type":"turn","controller":"s","control":"a1","seq":1,"amount":1e9}`:                                              "up to 1000",
		`{"type":"slide","controller":"s","control":"a1","seq":1,"amount":-0.1}`:                                            "from 0 to 1",
		`{"type":"swipe","controller":"s","control":"a1","seq":1,"amount":0.5}`:                                             "to the right",
		`{"type":"battery","controller":"s","level":1.1}`:                                                                   "from 0 to 1",
		`{"type":"error","text":" "}`:                                                                                       "has a text",
		`{"type":"ack","seq":-1}`:                                                                                           "not negative",
		`{"type":"hello","bridge":"b"}`:                                                                                     "has the version",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l"},{"serial":"s","layout":"l"}]}`: "said twice",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":" ","layout":"l"}]}`:                             "has a serial number",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l","shows":{"*":{"width":5000,"height":5,"picture":"png"}}}]}`: "1024 pixels",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l","shows":{"*":{"picture":"png"}}}]}`:                         "no size",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l","shows":{"*":{"width":5,"height":5,"picture":"bmp"}}}]}`:    "png, jpeg or rgb565",
	} {
		_, err := Read([]byte(text))
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", text, err, says)
		}
	}
	many := `{"type":"hello","version":2,"bridge":"b","controllers":[` + strings.TrimSuffix(strings.Repeat(`{"serial":"s","layout":"l"},`, MaxControllers+1), ",") + `]}`
	if _, err := Read([]byte(many)); err == nil || !strings.Contains(err.Error(), "at most 32") {
		t.Errorf("many controllers: %v", err)
	}
	m, err := Read([]byte(`{"type":"hello","version":2,"bridge":"` + strings.Repeat("b", 500) + `"}`))
	if h, is := m.(*Hello); err != nil || !is || len([]rune(h.Bridge)) != MaxText {
		t.Errorf("a long name: %v", err)
	}
}

func TestAPictureIsThatOfItsHash(t *testing.T) {
	frame := Frame([]byte("a picture"))
	if hash, body, err := ReadFrame(frame); err != nil || hash != Hash([]byte("a picture")) || string(body) != "a picture" {
		t.Errorf("%s %q %v", hash, body, err)
	}
	frame[40] ^= 1
	for what, f := range map[string][]byte{"damaged": frame, "short": frame[:20], "nothing": nil} {
		if _, _, err := ReadFrame(f); err == nil {
			t.Errorf("%s is read", what)
		}
	}
}

// FuzzRead: whatever a bridge says is read or told, and what was read is read again as it was.
func FuzzRead(f *testing.F) {
	for _, all := range messages {
		for _, m := range all {
			raw, err := json.Marshal(m)
			if err != nil {
				f.Fatal(err)
			}
			f.Add(raw)
		}
	}
	f.Add([]byte(`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l","shows":{"*":{"width":5,"height":5,"picture":"png","colours":["#fff"]}}}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		m, err := Read(text)
		if err != nil {
			if err.Error() == "" {
				t.Error("it says nothing")
			}
			return
		}
		raw, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		again, err := Read(raw)
		if err != nil || !reflect.DeepEqual(again, m) && string(mustJSON(t, again)) != string(raw) {
			t.Errorf("%s is read again as %+v, %v", raw, again, err)
		}
	})
}

func mustJSON(t *testing.T, v any) []byte {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}
