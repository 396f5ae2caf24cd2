package device

import (
	"encoding/json"
	"testing"
)

func TestARepliesTieIsAsTheSheetSays(t *testing.T) {
	osc := `"readings":[{"path":"a","title":"A","type":"int"}],"actions":[]`
	lines := `"readings":[{"path":"a","title":"A","type":"int","from":{"line":"A {value}"}}],"actions":[]`
	for what, c := range map[string]struct {
		link, rest string
		m          Message
		want       Reply
	}{
		"an argument repeats the address": {`{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","of":1}}`, osc,
			Message{Address: "/error", Args: []any{"locked", "/curtain/2"}}, Reply{Text: "locked", Tie: Repeated, Of: "/curtain/2"}},
		"it does not, this time": {`{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","of":1}}`, osc,
			Message{Address: "/error", Args: []any{"locked"}}, Reply{Text: "locked"}},
		"nothing is said": {`{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error"}}`, osc,
			Message{Address: "/error"}, Reply{}},
		"a member repeats the topic": {`{"driver":"mqtt","transport":"tcp","port":1,"refusal":{"address":"err","value":"/why","of":"/topic"}}`, osc,
			Message{Address: "err", Body: map[string]any{"why": "too hot", "topic": "lamp/1/set"}}, Reply{Text: "too hot", Tie: Repeated, Of: "lamp/1/set"}},
		"a line repeats the line": {`{"driver":"lines","transport":"tcp","port":1,"refusal":{"line":"ERR {of}: {value}"}}`, lines,
			Message{Address: "ERR PRESET 9: no such preset"}, Reply{Text: "no such preset", Tie: Repeated, Of: "PRESET 9"}},
		"answers come in order": {`{"driver":"lines","transport":"tcp","port":1,"answer":{"line":"OK","tie":"in-order"}}`, lines,
			Message{Address: "OK"}, Reply{OK: true, Tie: InOrder}},
	} {
		got, err := sheetOf(t, c.link, c.rest).Match(c.m)
		if err != nil || len(got.Replies) != 1 || got.Replies[0] != c.want {
			t.Errorf("%s: %+v (%v), want %+v", what, got.Replies, err, c.want)
		}
	}
}

func TestATieThatCannotBeIsRefusedAtItsLine(t *testing.T) {
	for what, link := range map[string]string{
		"a pointer into arguments": `{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","of":"/x"}}`,
		"an argument of a body":    `{"driver":"mqtt","transport":"tcp","port":1,"refusal":{"address":"error","of":1}}`,
		"both":                     `{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","of":1,"tie":"in-order"}}`,
		"half an argument":         `{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","of":0.5}}`,
		"refusals in order":        `{"driver":"osc","transport":"udp","port":1,"refusal":{"address":"/error","tie":"in-order"}}`,
		"an answer to nothing":     `{"driver":"osc","transport":"udp","port":1,"answer":{"address":"/ok"}}`,
		"another tie":              `{"driver":"osc","transport":"udp","port":1,"answer":{"address":"/ok","tie":"somehow"}}`,
	} {
		var s Sheet
		body := `{"sheet":"synaptor.device/1","type":"t","title":"T","role":"other","link":` + link + `,"readings":[{"path":"a","title":"A","type":"int"}],"actions":[]}`
		if err := json.Unmarshal([]byte(body), &s); err != nil {
			t.Fatal(err)
		}
		if _, err := Compile(&s); err == nil {
			t.Errorf("%s was taken", what)
		}
	}
}

func TestAReplyFitsWhatItRepeats(t *testing.T) {
	for _, c := range []struct {
		of, message string
		fits        bool
	}{
		{"/curtain/2", "/curtain/2 1", true}, {"curtain/2", "/curtain/2", true}, {"/curtain/2", "/curtain/20 1", false}, {"", "/curtain/2", false},
		{"PRESET 9", "PRESET 9", true}, {"PRESET", "PRESET 9", true}, {"PRESET 9", "PRESET 1", false},
	} {
		if got := (Reply{Of: c.of}).Fits(c.message); got != c.fits {
			t.Errorf("%q fits %q: %v", c.of, c.message, got)
		}
	}
}
