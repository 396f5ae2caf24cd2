package device

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Plain is the title of a sheet without the protocol behind it, as a first name for such a device.
func (s *Sheet) Plain() string {
	name, _, _ := strings.Cut(s.Title, " (")
	return name
}

// Summary says what a device has, by its indexes: 2 scene sets, 9 scenes.
func (t *Type) Summary(device string, k Known) string {
	var parts []string
	for _, name := range slices.Sorted(maps.Keys(t.Sheet.Index)) {
		ix := t.Sheet.Index[name]
		if ix.From == "" {
			continue
		}
		n := 0
		for _, c := range t.Choices(name, device, nil, k) {
			if !c.Gone {
				n++
			}
		}
		title := ix.Title
		if n != 1 {
			if title = ix.Plural; title == "" {
				title = ix.Title + "s"
			}
		}
		parts = append(parts, fmt.Sprintf("%d %s", n, title))
	}
	return strings.Join(parts, ", ")
}

// Word gives a value of a reading as a person knows it: the name of an input
// instead of its number, on and off instead of true and false.
func (t *Type) Word(k reading.Key, v reading.Value, w expr.World) string {
	def := t.Reading(k.Path)
	if def == nil || v == nil {
		return expr.Text(v)
	}
	if b, ok := v.(bool); ok {
		if b {
			return "on"
		}
		return "off"
	}
	if f, ok := v.(float64); ok {
		text := "-inf"
		if !math.IsInf(f, -1) {
			text = strconv.FormatFloat(math.Round(f*1000)/1000, 'f', -1, 64)
		}
		return strings.TrimSpace(text + " " + def.Unit)
	}
	if n, ok := v.(int); ok {
		return strings.TrimSpace(strconv.Itoa(n) + " " + def.Unit)
	}
	if name := t.NameOf(def.Of, expr.Text(v), k.Device, k.Path, w); name != "" {
		return name
	}
	return expr.Text(v)
}

// NameOf is the name that a device gives to a value of an index, or "". path is
// that of a reading whose own indexes narrow it down.
func (t *Type) NameOf(index, value, device, path string, w expr.World) string {
	from, named := t.names[index]
	if !named {
		return ""
	}
	vars := map[string]string{}
	if def := t.Reading(path); def != nil {
		vars, _ = def.path.match(path)
	}
	vars[index] = value
	if path, err := from.fill(vars); err == nil {
		return expr.Text(w.Reading(reading.Key{Device: device, Path: path}).Value)
	}
	k, ok := w.(Known)
	if !ok {
		return ""
	}
	for _, p := range k.Paths(device) {
		if got, ok := from.match(p); ok && got[index] == value && agrees(got, index, vars) {
			return expr.Text(w.Reading(reading.Key{Device: device, Path: p}).Value)
		}
	}
	return ""
}

// Names tells which index a reading names the values of, or "".
func (t *Type) Names(path string) string {
	def := t.Reading(path)
	if def == nil {
		return ""
	}
	for name, ix := range t.Sheet.Index {
		if ix.From == def.Path {
			return name
		}
	}
	return ""
}

// Ends tells which index a reading says of that one of its values is gone, or "".
func (t *Type) Ends(path string) string {
	def := t.Reading(path)
	if def == nil {
		return ""
	}
	for name, ix := range t.Sheet.Index {
		if ix.Gone != "" && ix.Gone == def.Path {
			return name
		}
	}
	return ""
}

// TitleOf gives the title of a concrete reading, such as Program of mix effect
// 1; what the device has named is called by its name.
func (t *Type) TitleOf(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		return t.called(def, def.Title, device, path, w)
	}
	return path
}

// HeadlineOf gives the short title of a concrete reading on the status line.
func (t *Type) HeadlineOf(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		return t.called(def, def.Headline, device, path, w)
	}
	return path
}

// called fills the indexes of a path into a title, by name where there is one.
func (t *Type) called(def *Reading, title, device, path string, w expr.World) string {
	vars, _ := def.path.match(path)
	for name, v := range vars {
		if !strings.Contains(title, "{"+name+"}") {
			continue
		}
		if named := t.NameOf(name, v, device, path, w); named != "" && !strings.HasSuffix(def.Path, "/name") {
			v = named
		}
		title = strings.ReplaceAll(title, "{"+name+"}", v)
	}
	return title
}

// SourceName is the name of the last index value in a path, by which a person
// knows what the reading is about; the last part of the path where there is
// none.
func (t *Type) SourceName(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		if ids := def.path.indexes(); len(ids) > 0 {
			vars, _ := def.path.match(path)
			last := ids[len(ids)-1]
			if named := t.NameOf(last, vars[last], device, path, w); named != "" {
				return named
			}
			return vars[last]
		}
		return def.Title
	}
	return path
}
