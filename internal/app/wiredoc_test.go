package app_test

import (
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"
)

// matches tells whether a message has what a document shows of it.
func matches(want, got any) bool {
	switch want := want.(type) {
	case map[string]any:
		m, is := got.(map[string]any)
		for k, v := range want {
			if !is || !matches(v, m[k]) {
				return false
			}
		}
		return true
	case []any:
		l, is := got.([]any)
		if !is || len(l) != len(want) {
			return false
		}
		for i := range want {
			if !matches(want[i], l[i]) {
				return false
			}
		}
		return true
	case string:
		s, is := got.(string)
		return is && (want == "…" && s != "" || s == want)
	}
	return fmt.Sprint(want) == fmt.Sprint(got)
}

// TestTheDocumentsConversationsAreAsTheyStand replays docs/wire-protocol.md.
func TestTheDocumentsConversationsAreAsTheyStand(t *testing.T) {
	doc, err := os.ReadFile("../../docs/wire-protocol.md")
	if err != nil {
		t.Fatal(err)
	}
	all := regexp.MustCompile("(?s)```wire\n(.*?)```").FindAllStringSubmatch(string(doc), -1)
	if len(all) < 8 {
		t.Fatalf("the document has %d conversations", len(all))
	}
	r := start(t).ready()
	r.attach("8K-1")
	for i, c := range all {
		r.entry(r.press("a1")) // each begins with the first key on air
		b := r.wire()
		for _, line := range strings.Split(strings.TrimSpace(c[1]), "\n") {
			arrow, text, _ := strings.Cut(line, " ")
			if arrow == "→" {
				b.say(text)
				continue
			}
			var want map[string]any
			if err := json.Unmarshal([]byte(text), &want); err != nil {
				t.Fatalf("conversation %d: %s: %v", i+1, text, err)
			}
			b.hears(want["type"].(string), func(m map[string]any) bool { return matches(want, m) })
		}
		_ = b.ws.CloseNow()
		r.eventually("it has left", func() bool { return !r.board("8K-1").Here })
	}
}
