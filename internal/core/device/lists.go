package device

import (
	"errors"
	"fmt"
)

// List is what a message that lists all values of an index had.
type List struct {
	Index string
	// Within are the values of the other indexes that it is about: the set whose scenes they are.
	Within map[string]string
	Has    map[string]bool
}

// compileFull checks that a source lists all values of an index, and gives its name.
func (t *Type) compileFull(s *source) (string, error) {
	index := ""
	for name, ix := range t.Sheet.Index {
		if ix.From == s.reading.ReadingSpec.Path {
			index = name
		}
	}
	if index == "" {
		return "", errors.New("only what names the values of an index can be a full list of them")
	}
	if t.Sheet.Index[index].Gone == "" {
		return "", fmt.Errorf("the index %s needs gone, which says that a value is no longer there", index)
	}
	for _, step := range s.body {
		if step.name == index {
			return index, nil
		}
	}
	return "", fmt.Errorf("the value has to run over {%s}", index)
}

// list notes what a full list has: an entry for each set of the other indexes.
func (s *source) list(outside []string, emitted [][]string) []List {
	lists := map[string]*List{}
	key := func(within map[string]string) string { return fmt.Sprint(within) }
	note := func(vars []string) *List {
		within := pairs(vars)
		delete(within, s.full)
		l := lists[key(within)]
		if l == nil {
			l = &List{s.full, within, map[string]bool{}}
			lists[key(within)] = l
		}
		return l
	}
	if len(emitted) == 0 {
		note(outside) // an empty list
	}
	for _, vars := range emitted {
		note(vars).Has[pairs(vars)[s.full]] = true
	}
	var out []List
	for _, l := range lists {
		out = append(out, *l)
	}
	return out
}

// pairs makes a map of names and values that follow each other.
func pairs(vars []string) map[string]string {
	out := map[string]string{}
	for i := 0; i+1 < len(vars); i += 2 {
		out[vars[i]] = vars[i+1]
	}
	return out
}

// Missing gives what a full list means for what is known: the readings that say what is gone, and
// what is there after all.
func (t *Type) Missing(l List, paths []string) (out []Report) {
	names, gone := t.names[l.Index], t.gone[l.Index]
	for _, path := range paths {
		vars, ok := names.match(path)
		if !ok || !within(vars, l) {
			continue
		}
		if p, err := gone.fill(vars); err == nil {
			out = append(out, Report{p, !l.Has[vars[l.Index]]})
		}
	}
	return out
}

// within reports whether a value belongs to what a list is about.
func within(vars map[string]string, l List) bool {
	for k, v := range l.Within {
		if have, ok := vars[k]; ok && have != v {
			return false
		}
	}
	return true
}
