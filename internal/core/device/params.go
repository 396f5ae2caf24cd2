package device

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// bindParams gives the parameters of an action, with the defaults of those that are not given. It fails with a *ParamError.
func (t *Type) bindParams(a *ActionSpec, params map[string]string) (map[string]string, error) {
	bind := map[string]string{}
	for _, p := range a.Params {
		v := params[p.ID]
		if v == "" && !p.defaultsToReading() {
			v = p.Default
		}
		if text := p.check(v); text != "" {
			return nil, &ParamError{p.ID, text}
		}
		bind[p.ID] = v
	}
	for _, id := range slices.Sorted(maps.Keys(params)) {
		if _, known := bind[id]; !known {
			return nil, &ParamError{id, fmt.Sprintf("%q has no parameter %q.", a.Title, id)}
		}
	}
	return bind, nil
}

// maxText is how many characters a parameter that is a text has, where its sheet does not say so.
//
//limit:count characters of a text that an action is given | at the form
const maxText = 2000

// longestText is the most that a sheet may allow.
//
//limit:count characters of a text that a sheet may have an action be given | at the sheet
const longestText = 10_000

func (p ParamSpec) isText() bool { return p.Type == "text" || p.Type == "message" }

// Takes reports whether a value is one that the parameter can have.
func (p ParamSpec) Takes(v string) bool { return p.check(v) == "" }

func (p ParamSpec) check(v string) string {
	switch {
	case v == "":
		return fmt.Sprintf("Choose %s.", withArticle(p.Title))
	case p.Of != "" && !indexValue.MatchString(v):
		return fmt.Sprintf("%q is not a value for %s.", v, p.Title)
	case len(p.Options) > 0 && !slices.Contains(p.Options, v):
		return fmt.Sprintf("%q is none of %s.", v, strings.Join(p.Options, ", "))
	case (p.Type == "db" || p.silent) && v == "-inf":
	case p.isText():
		most := maxText
		if p.Max != nil {
			most = int(*p.Max)
		}
		if n := utf8.RuneCountInString(v); n > most {
			return fmt.Sprintf("This is longer than %d characters: %d.", most, n)
		}
	case p.Type == "int" || p.Type == "float" || p.Type == "db":
		n, err := strconv.ParseFloat(v, 64)
		if err != nil || !finite(n) || p.Type == "int" && (math.Abs(n) > maxWhole || n != math.Trunc(n)) {
			return fmt.Sprintf("%q is not a number.", v)
		}
		if p.Min != nil && n < *p.Min || p.Max != nil && n > *p.Max {
			return fmt.Sprintf("%s is out of range.", v)
		}
	}
	return ""
}
