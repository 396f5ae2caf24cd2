package show

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"
)

func TestTheCanonicalFormIsReadAgainToTheByte(t *testing.T) {
	d := NewDraft(Empty())
	d.Put(&Settings{ID: SettingsID, Name: "Meteor <Night> & \u2028 \"more\"", FrameRate: 25})
	d.Put(&Page{ID: "cut", Name: "Cut"})
	d.Put(&Mapping{ID: "k<1>", Placements: []Placement{{Page: "cut", Control: "a1"}}, Face: Face{Label: "{reading('a:b')}"}})
	s := d.Now()
	body := s.Canonical()
	var compact bytes.Buffer
	if err := json.Compact(&compact, body); err != nil || !bytes.Equal(compact.Bytes(), body) {
		t.Errorf("it is %s, %v", body, err)
	}
	again, err := Read(bytes.NewReader(body), 1<<20, 100)
	if err != nil || !bytes.Equal(again.Canonical(), body) {
		t.Errorf("read it is %s, %v", again.Canonical(), err)
	}
	if got := Empty().Canonical(); string(got) != "[]" {
		t.Errorf("an empty show is %s", got)
	}
	for what, text := range map[string]string{"too many things": string(body), "no list": "{}", "a list without end": "[", "something after it": "[] 1", "twice": `[{"kind":"page","id":"a","body":{"id":"a"}},{"kind":"page","id":"a","body":{"id":"a"}}]`} {
		if _, err := Read(strings.NewReader(text), 1<<20, 2); err == nil {
			t.Errorf("%s is read", what)
		}
	}
	if _, err := Read(bytes.NewReader(body), 10, 100); err == nil || !strings.Contains(err.Error(), "10 is the most") {
		t.Errorf("a large thing: %v", err)
	}
}
