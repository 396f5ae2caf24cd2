package media

import (
	"regexp"
	"strings"
)

// svgFunctions are the functions of CSS and of transforms that a drawing needs.
var svgFunctions = words(`rgb rgba hsl hsla matrix translate scale rotate skewx skewy`)

var (
	// function is a name with an opening bracket, and what follows in it.
	function = regexp.MustCompile(`([^\s,;()]*)\s*\(([^()]*)`)
	// within is what points to a part of the same drawing.
	within = regexp.MustCompile(`^\s*["']?\s*#([^\s"'()\\]+)\s*["']?\s*$`)
)

// plain tells whether a value of an attribute stays within the drawing. What CSS
// could read as something else is not plain: escapes, comments, and functions that
// are not known to be harmless (CSS Syntax 3, 4.3).
func plain(value string) bool {
	if strings.ContainsAny(value, `\@{}`) || strings.Contains(value, "/*") {
		return false
	}
	for _, f := range function.FindAllStringSubmatch(value, -1) {
		name := strings.ToLower(f[1])
		if name == "url" && within.MatchString(f[2]) {
			continue
		}
		if !svgFunctions[name] {
			return false
		}
	}
	return true
}

// pointsTo lists the ids that a value of an attribute points to.
func pointsTo(name, value string) (ids []string) {
	if name == "href" {
		if id, is := strings.CutPrefix(strings.TrimSpace(value), "#"); is {
			ids = append(ids, id)
		}
		return ids
	}
	for _, f := range function.FindAllStringSubmatch(value, -1) {
		if m := within.FindStringSubmatch(f[2]); m != nil && strings.EqualFold(f[1], "url") {
			ids = append(ids, m[1])
		}
	}
	return ids
}
