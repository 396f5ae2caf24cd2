// Package version compares states of a show, brings one back, and says which of those that are kept may go.
package version

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/show"
)

// What has become of a thing between two states.
const (
	Added   = "added"
	Removed = "removed"
	Changed = "changed"
)

// Difference is one thing that two states of a show do not have alike.
type Difference struct {
	Kind  show.Kind `json:"kind"`
	ID    string    `json:"id"`
	Title string    `json:"title"` // the newer one; of what was removed the older one
	What  string    `json:"what"`
	// Fields are what is different of a thing that was changed, in words.
	Fields []string `json:"fields"`
	// Alone says that it can come back without the rest: a step comes with its macro, a key with its page where that is gone.
	Alone bool `json:"alone"`
}

// order is that in which differences are told.
var order = []show.Kind{show.KindSettings, show.KindDevice, show.KindController, show.KindLink, show.KindProfile, show.KindPage, show.KindMapping, show.KindMacro, show.KindStep, show.KindReflex, show.KindTimer, show.KindSafe, show.KindOverlay, show.KindAccepted}

// Compare tells what has become of everything that is not alike in two states, by kind and title.
func Compare(before, after *show.Show) []Difference {
	out := []Difference{}
	refs := append(before.Refs(), after.Refs()...)
	seen := map[show.Ref]bool{}
	for _, r := range refs {
		if seen[r] {
			continue
		}
		seen[r] = true
		a, b := before.Get(r), after.Get(r)
		switch {
		case a == nil:
			out = append(out, Difference{r.Kind, r.ID, title(after, b), Added, []string{}, alone(b, after)})
		case b == nil:
			out = append(out, Difference{r.Kind, r.ID, title(before, a), Removed, []string{}, alone(a, after)})
		default:
			if fields := differ(show.Encode(a), show.Encode(b)); len(fields) > 0 {
				out = append(out, Difference{r.Kind, r.ID, title(after, b), Changed, fields, alone(a, after)})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Difference) int {
		if d := slices.Index(order, a.Kind) - slices.Index(order, b.Kind); d != 0 {
			return d
		}
		return strings.Compare(strings.ToLower(a.Title), strings.ToLower(b.Title))
	})
	return out
}

// title is what a thing is called where it is; a step is told with its macro, a key with its page.
func title(s *show.Show, e show.Entity) string {
	switch e := e.(type) {
	case *show.Step:
		if m := s.Macro(e.Macro); m != nil {
			return e.Title() + " in " + m.Name
		}
	case *show.Link:
		if c := s.Controller(e.Controller); c != nil {
			return e.Title() + " of " + c.Name
		}
	case *show.Mapping:
		for _, at := range e.Placements {
			if p := s.Page(at.Page); p != nil {
				return strings.TrimPrefix(e.Name+", ", ", ") + at.Control + " on " + p.Name
			}
		}
	}
	return e.Title()
}

// words are fields that are called otherwise.
var words = map[string]string{"x": "place on the desk", "y": "place on the desk", "host": "address", "secret": "password", "placements": "where it is", "responses": "what it does",
	"action": "what it does", "params": "what it does", "slug": "address of its own", "start": "first pages", "holdMs": "hold time", "doubleMs": "double time", "ms": "time",
	"gapMs": "gap after", "limitMs": "limit", "latencyMs": "latency", "position": "order", "parent": "place among the steps", "when": "condition", "off": "switched off", "match": "serial number", "map": "which control is which", "dimAfterS": "dimming", "wakeActs": "what the waking touch does", "on": "what starts it", "then": "what it does", "unless": "never while", "everyMs": "how often", "per": "how often", "beyond": "what comes too often", "length": "what comes too often"}

// differ lists the fields that two states of a thing do not have alike.
func differ(a, b json.RawMessage) []string {
	if bytes.Equal(a, b) {
		return nil
	}
	var was, is map[string]json.RawMessage
	if json.Unmarshal(a, &was) != nil || json.Unmarshal(b, &is) != nil {
		return []string{"all of it"}
	}
	found := map[string]bool{}
	for _, m := range []map[string]json.RawMessage{was, is} {
		for name := range m {
			if bytes.Equal(was[name], is[name]) {
				continue
			}
			if w, has := words[name]; has {
				name = w
			}
			found[apart(name)] = true
		}
	}
	return slices.Sorted(maps.Keys(found))
}

// apart writes a field's name as words: frameRate is frame rate.
func apart(name string) string {
	var b strings.Builder
	for _, r := range name {
		if r >= 'A' && r <= 'Z' {
			b.WriteByte(' ')
			r += 'a' - 'A'
		}
		b.WriteRune(r)
	}
	return b.String()
}

// Value is what a part of a thing was, and what it is; empty: it is not there.
type Value struct {
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Values tells part by part what is different between two states of a thing, either of which may be nil.
func Values(before, after show.Entity) []Value {
	was, is := map[string]string{}, map[string]string{}
	parts(before, was)
	parts(after, is)
	paths := map[string]bool{}
	for _, m := range []map[string]string{was, is} {
		for p := range m {
			paths[p] = true
		}
	}
	out := []Value{}
	for _, p := range slices.Sorted(maps.Keys(paths)) {
		if was[p] != is[p] {
			out = append(out, Value{field(p), was[p], is[p]})
		}
	}
	return out
}

// parts gives what is in a thing as texts, by path.
func parts(e show.Entity, out map[string]string) {
	if e == nil || reflect.ValueOf(e).IsNil() {
		return
	}
	var body any
	if json.Unmarshal(show.Encode(e), &body) == nil {
		flatten("", body, out)
	}
	delete(out, "/id")
}

func flatten(at string, v any, out map[string]string) {
	switch v := v.(type) {
	case map[string]any:
		for name, part := range v {
			flatten(at+"/"+name, part, out)
		}
	case []any:
		for i, part := range v {
			flatten(fmt.Sprintf("%s/%d", at, i), part, out)
		}
	case nil:
	default:
		out[at] = fmt.Sprint(v)
	}
}

// field is what a part is called: its own name, after that of what it is in.
func field(path string) string {
	var named []string
	for _, p := range strings.Split(path, "/") {
		if _, err := strconv.Atoi(p); err != nil && p != "" {
			named = append(named, p)
		}
	}
	last := named[len(named)-1]
	if w, has := words[last]; has && len(named) == 1 {
		return w
	}
	if last == "ms" {
		last = "time, ms"
	}
	if len(named) > 1 && !slices.Contains([]string{"placements", "responses", "action", "params"}, named[len(named)-2]) {
		last = named[len(named)-2] + " " + last
	}
	return apart(last)
}
