package device

import (
	"fmt"
	"regexp"
	"strings"
)

// Promoted makes a sheet of messages that were written by hand for a plain
// device: an action for each, in their order. taken tells which types there are.
func (t *Type) Promoted(title string, taken func(string) bool, messages []string) *Sheet {
	s := &Sheet{Format: SheetFormat, Title: title, Role: t.Sheet.Role, Description: "Made of messages written by hand.", Link: t.Sheet.Link,
		Readings: t.Sheet.Readings}
	base := "own." + idFrom(title)
	s.Type = base
	for n := 2; taken(s.Type); n++ {
		s.Type = fmt.Sprintf("%s-%d", base, n)
	}
	ids := map[string]bool{}
	for _, text := range messages {
		id := "send-" + idFrom(text)
		for n := 2; ids[id]; n++ {
			id = fmt.Sprintf("send-%s-%d", idFrom(text), n)
		}
		ids[id] = true
		label := text
		if r := []rune(text); len(r) > 60 {
			label = string(r[:60]) + "…"
		}
		label = strings.NewReplacer("{", "{{", "}", "}}").Replace(label)
		s.Actions = append(s.Actions, ActionSpec{ID: id, Title: "Send " + label, Help: "Sends " + label + ".", Suits: []string{"press"},
			Params: []ParamSpec{{ID: "message", Title: "message", Type: "message", Default: text}},
			Send:   []MessageSpec{{Written: "message"}}, Face: FaceSpec{Label: label, Glyph: "message"}})
	}
	return s
}

var noWord = regexp.MustCompile(`[^a-z0-9]+`)

// idFrom makes a short word of a text, for ids.
func idFrom(text string) string {
	w := strings.Trim(noWord.ReplaceAllString(strings.ToLower(text), "-"), "-")
	if len(w) > 40 {
		w = strings.Trim(w[:40], "-")
	}
	if w == "" {
		w = "message"
	}
	return w
}
