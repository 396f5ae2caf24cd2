package device

import "testing"

const odd = "A/B? 100% #1&x=ü"

// TestWhatAnAddressOfHTTPHoldsIsEncoded: what a person or a device calls something is a part of an address, and no more.
func TestWhatAnAddressOfHTTPHoldsIsEncoded(t *testing.T) {
	typ := sheetOf(t, `{"driver":"http","transport":"http","port":80,"report":[{"address":"state"}],"ask":{"address":"/status{address}"},
		"set":{"verb":"PUT","address":"{address}","body":{"value":"{value}"}}}`, `"index":{"key":{"title":"key","from":"key/{key}/name"}},
		"readings":[{"path":"key/{key}/name","title":"n","type":"text"},{"path":"key/{key}/on","title":"on","type":"bool"}],
		"actions":[{"id":"show","title":"Show","help":"h","suits":["press"],"params":[{"id":"name","title":"name","type":"text"}],
		"send":[{"verb":"PUT","address":"/scenes/{name}/on?by={name}","body":1},{"verb":"POST","address":"/say","body":{"text":"{name}"}}],"face":{"label":"x","glyph":"x"}},
		{"id":"on","title":"On","help":"h","suits":["press"],"params":[{"id":"key","title":"key","of":"key"}],"effects":[{"set":"key/{key}/on","to":"true"}],"face":{"label":"x","glyph":"x"}},
		{"id":"send","title":"Send","help":"h","suits":["press"],"params":[{"id":"message","title":"m","type":"message"}],"send":[{"written":"message"}],"face":{"label":"x","glyph":"x"}}],
		"pictures":[{"id":"key","title":"Key","over":"key","url":"http://{host}:{port}/{key}.png?of={key}"}]`)
	w := world(map[string]any{"desk:channel/1/name": odd})
	for _, c := range []struct {
		action string
		params map[string]string
		want   []string
	}{
		{"show", map[string]string{"name": odd}, []string{"PUT /scenes/A%2FB%3F%20100%25%20%231&x=%C3%BC/on?by=A%2FB%3F%20100%25%20%231%26x%3D%C3%BC 1", `POST /say {"text":"` + `A/B? 100% #1\u0026x=ü"}`}},
		{"show", map[string]string{"name": ".."}, []string{"PUT /scenes/%2E%2E/on?by=.. 1", `POST /say {"text":".."}`}},
		{"show", map[string]string{"name": "{reading('desk:channel/1/name')}"}, []string{"PUT /scenes/A%2FB%3F%20100%25%20%231&x=%C3%BC/on?by=A%2FB%3F%20100%25%20%231%26x%3D%C3%BC 1", `POST /say {"text":"` + `A/B? 100% #1\u0026x=ü"}`}},
		{"on", map[string]string{"key": "a b?#"}, []string{`PUT /key/a%20b%3F%23/on {"value":true}`}},
		{"send", map[string]string{"message": `PUT /a/{reading('desk:channel/1/name')}?q={reading('desk:channel/1/name')} {"t":"{reading('desk:channel/1/name')}"}`},
			[]string{`PUT /a/A%2FB%3F%20100%25%20%231&x=%C3%BC?q=A%2FB%3F%20100%25%20%231%26x%3D%C3%BC {"t":"A/B? 100% #1\u0026x=ü"}`}},
	} {
		b, err := typ.Bind("d", c.action, c.params, 25)
		if err != nil {
			t.Errorf("%s %v: %v", c.action, c.params, err)
			continue
		}
		got, err := b.Messages(w)
		if err != nil || len(got) != len(c.want) {
			t.Errorf("%s %v sends %v, %v", c.action, c.params, got, err)
			continue
		}
		for i, m := range got {
			if m.String() != c.want[i] {
				t.Errorf("%s %v sends\n%s, want\n%s", c.action, c.params, m, c.want[i])
			}
		}
	}
	if m, ok := typ.Ask("key/a b?#/on"); !ok || m.Address != "/status/key/a%20b%3F%23/on" {
		t.Errorf("asks %v", m)
	}
	if url, ok := typ.Picture("key-a b?#", "d", "h", 80, w); !ok || url != "http://h:80/a%20b%3F%23.png?of=a%20b%3F%23" {
		t.Errorf("a picture is at %s", url)
	}
}
