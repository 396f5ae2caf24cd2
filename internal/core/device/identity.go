package device

import (
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
)

// Identified reports whether a value of the identifying reading is one that
// such a device gives.
func (t *Type) Identified(v any) bool { return t.like == nil || t.like.MatchString(expr.Text(v)) }

// TooOld gives the version that a device says it has where that is older than
// the sheet needs.
func (t *Type) TooOld(identity string) (version string, tooOld bool) {
	version = t.Version(identity)
	return version, version != "" && t.Sheet.Link.Identify.Minimum != "" && older(version, t.Sheet.Link.Identify.Minimum)
}

// Version finds the version in what a device says it is, or "".
func (t *Type) Version(identity string) string {
	if t.version == nil {
		return ""
	}
	if m := t.version.FindStringSubmatch(identity); m != nil {
		return m[1]
	}
	return ""
}

// older compares versions such as 3.2 and 3.10, part by part.
func older(a, b string) bool {
	as, bs := strings.Split(a, "."), strings.Split(b, ".")
	for i := range max(len(as), len(bs)) {
		x, y := 0, 0
		if i < len(as) {
			x, _ = strconv.Atoi(as[i])
		}
		if i < len(bs) {
			y, _ = strconv.Atoi(bs[i])
		}
		if x != y {
			return x < y
		}
	}
	return false
}

// Model finds the model of a device: by its id where one was chosen by hand,
// else by what it says it is. It is nil when it is not known.
func (t *Type) Model(chosen, identity string) *ModelSpec {
	for i, m := range t.Sheet.Models {
		if m.ID == chosen || chosen == "" && identity != "" && m.Like != "" && t.models[i].MatchString(identity) {
			return &t.Sheet.Models[i]
		}
	}
	return nil
}

// Defaults gives the readings of a model, in the order of their paths.
func (t *Type) Defaults(m *ModelSpec) []Report {
	var out []Report
	for path, v := range m.Has {
		if def := t.Reading(path); def != nil {
			if value, err := def.normal(v); err == nil {
				out = append(out, Report{path, value})
			}
		}
	}
	slices.SortFunc(out, func(a, b Report) int { return comparePaths(a.Path, b.Path) })
	return out
}
