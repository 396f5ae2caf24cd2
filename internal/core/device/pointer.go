package device

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// pointer is a JSON pointer (RFC 6901) with placeholders: {name} runs over the
// members of an object or the places of an array; {name:field} runs over the
// objects of an array, or stays at one object, and takes its field.
type pointer []pointerStep

type pointerStep struct {
	word  string
	name  string // of the placeholder; empty: a word
	field string
}

var pointerEscapes = strings.NewReplacer("~1", "/", "~0", "~")

// parsePointer reads a pointer; "" is the whole body.
func parsePointer(text string) (pointer, error) {
	if text == "" {
		return pointer{}, nil
	}
	if text[0] != '/' {
		return nil, fmt.Errorf("%q is not a JSON pointer: it begins with a slash", text)
	}
	var out pointer
	for _, s := range strings.Split(text[1:], "/") {
		inner, isVar := strings.CutPrefix(s, "{")
		if !isVar {
			out = append(out, pointerStep{word: pointerEscapes.Replace(s)})
			continue
		}
		inner, closed := strings.CutSuffix(inner, "}")
		name, field, _ := strings.Cut(inner, ":")
		if !closed || !segment.MatchString("{"+name+"}") {
			return nil, fmt.Errorf("%q is not a JSON pointer: %q is neither a word nor an {index}", text, s)
		}
		out = append(out, pointerStep{name: name, field: field})
	}
	return out, nil
}

func (p pointer) indexes() []string {
	var out []string
	for _, s := range p {
		if s.name != "" {
			out = append(out, s.name)
		}
	}
	return out
}

// found is a value with the placeholders that led to it, as name and value in
// turn.
type found func(value any, vars []string)

// walk calls emit for everything in a body that the pointer points at. What is
// not there is passed over: a body may tell a part only.
func (p pointer) walk(body any, vars []string, emit found) {
	if len(p) == 0 {
		emit(body, vars)
		return
	}
	step, rest := p[0], p[1:]
	with := func(name string) []string { return append(slices.Clip(vars), step.name, name) }
	switch b := body.(type) {
	case map[string]any:
		if step.name == "" {
			if v, ok := b[step.word]; ok {
				rest.walk(v, vars, emit)
			}
			return
		}
		if step.field != "" {
			if id, ok := plainText(b[step.field]); ok {
				rest.walk(b, with(id), emit)
			}
			return
		}
		for _, k := range slices.SortedFunc(maps.Keys(b), comparePaths) {
			rest.walk(b[k], with(k), emit)
		}
	case []any:
		for i, v := range b {
			switch {
			case step.name == "":
				if step.word == strconv.Itoa(i) {
					rest.walk(v, vars, emit)
				}
			case step.field == "":
				rest.walk(v, with(strconv.Itoa(i)), emit)
			default:
				if obj, ok := v.(map[string]any); ok {
					if id, ok := plainText(obj[step.field]); ok {
						rest.walk(obj, with(id), emit)
					}
				}
			}
		}
	}
}

// plainText gives a text or a whole number as the text of an index value.
func plainText(v any) (string, bool) {
	switch x := v.(type) {
	case string:
		return x, x != ""
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64), true
	case int:
		return strconv.Itoa(x), true
	}
	return "", false
}
