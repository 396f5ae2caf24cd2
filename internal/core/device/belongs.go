package device

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// field is a field of a sheet, and whether it says something.
type field struct {
	name string
	said bool
}

// foreign notes the fields that say something to another driver.
func (t *Type) foreign(m *mistakes, where string, fields ...field) {
	for _, f := range fields {
		if f.said {
			m.at(where+"/"+f.name, "%s has no %s: this is a field of another driver", t.Driver.Name, f.name)
		}
	}
}

// linkBelongs notes what of a link is not its driver's.
func (t *Type) linkBelongs(m *mistakes) {
	link := t.Sheet.Link
	t.foreign(m, "/link", field{"path", link.Path != "" && !t.Driver.Path}, field{"topics", len(link.Topics) > 0 && !t.Driver.Topics})
	switch {
	case t.Driver.Local && link.Port != 0:
		m.at("/link/port", "%s needs no port: it reaches this computer", t.Driver.Name)
	case !t.Driver.Local && (link.Port < 1 || link.Port > math.MaxUint16):
		m.at("/link/port", "a port is a number from 1 to %d", math.MaxUint16)
	}
	switch {
	case link.Requests != 0 && !t.Driver.Requests:
		m.at("/link/requests", "%s needs no number of requests: its messages do not wait for answers", t.Driver.Name)
	case link.Requests < 0 || link.Requests > maxRequests:
		m.at("/link/requests", "a device takes 1 to %d requests at a time", maxRequests)
	}
	login := link.Login
	switch {
	case login == nil:
		return
	case len(t.Driver.Logins) == 0:
		m.at("/link/login", "%s has no way to sign in", t.Driver.Name)
		return
	case !slices.Contains(t.Driver.Logins, login.Kind):
		m.at("/link/login/kind", "with %s a device is signed in to by %s, not by %q", t.Driver.Name, strings.Join(t.Driver.Logins, " or "), login.Kind)
		return
	}
	challenge := login.Kind == "challenge"
	if challenge && (login.Greeting == "" || login.Method == "") {
		m.at("/link/login", "a challenge needs greeting, which brings it, and method, which answers it")
	}
	for _, f := range []field{{"greeting", login.Greeting != ""}, {"method", login.Method != ""}} {
		if f.said && !challenge {
			m.at("/link/login/"+f.name, "only a challenge has a %s", f.name)
		}
	}
}

// messageBelongs notes what of a message is not its driver's.
func (t *Type) messageBelongs(m *mistakes, where string, s MessageSpec) {
	in := t.Driver.Carries
	t.foreign(m, where, field{"line", s.Line != "" && in != Line}, field{"address", s.Address != "" && in == Line},
		field{"args", len(s.Args) > 0 && in != Arguments}, field{"body", s.Body != nil && in != Body}, field{"verb", s.Verb != "" && len(t.Driver.Verbs) == 0})
	if s.Written != "" && (s.Address != "" || s.Line != "" || s.Verb != "" || len(s.Args) > 0 || s.Body != nil) {
		m.at(where+"/written", "a message that is written by hand has nothing beside it")
	}
}

// fromBelongs notes what of a source is not its driver's.
func (t *Type) fromBelongs(m *mistakes, where string, f FromSpec) {
	in := t.Driver.Carries
	t.foreign(m, where, field{"line", f.Line != "" && in != Line}, field{"address", f.Address != "" && in == Line}, field{"arg", f.Arg != 0 && in != Arguments},
		field{"value", f.Value != "" && in != Body}, field{"full", f.Full && in != Body})
}

// uses reports whether a name stands in a placeholder of the message.
func (s MessageSpec) uses(name string) bool {
	var in func(v any) bool
	in = func(v any) bool {
		switch v := v.(type) {
		case string:
			_, rest, open := strings.Cut(v, "{")
			return open && strings.Contains(rest, name)
		case []any:
			return slices.ContainsFunc(v, in)
		case map[string]any:
			for _, o := range v {
				if in(o) {
					return true
				}
			}
		}
		return false
	}
	return in(s.Address) || in(s.Line) || in(s.Body) || in(s.Args)
}

// checkValues notes what is wrong with the values that a reading can have.
func checkValues(m *mistakes, where string, r ReadingSpec) {
	number := r.Type == "int" || r.Type == "float" || r.Type == "db"
	for _, f := range []field{{"min", r.Min != nil}, {"max", r.Max != nil}, {"tolerance", r.Tolerance != 0}} {
		if f.said && !number {
			m.at(where+"/"+f.name, "only a number has a %s", f.name)
		}
	}
	checkRange(m, where, r.Min, r.Max)
	switch {
	case r.Type == "choice" && r.Of == "" && len(r.Options) == 0:
		m.at(where, "a choice needs of or options")
	case r.Type != "choice" && r.Of != "":
		m.at(where+"/of", "only a choice is one of an index")
	case r.Type != "choice" && len(r.Options) > 0:
		m.at(where+"/options", "only a choice has options")
	}
	if r.Gather != nil {
		if _, err := (&Reading{ReadingSpec: r}).normal(r.Gather.Value); err != nil {
			m.at(where+"/gather/value", "%s", err)
		}
	}
	if r.Over != nil {
		if _, err := (&Reading{ReadingSpec: r}).normal(r.Over.Value); err != nil {
			m.at(where+"/over/value", "%s", err)
		}
	}
}

// checkRange notes a range that is empty.
func checkRange(m *mistakes, where string, least, most *float64) {
	if least != nil && most != nil && *least > *most {
		m.at(where+"/min", "the minimum %v is above the maximum %v", *least, *most)
	}
}

// checkSilence notes readings that are silenced by what is not there.
func (t *Type) checkSilence(m *mistakes) {
	for i, r := range t.Sheet.Readings {
		if r.SilencedBy == "" {
			continue
		}
		where := fmt.Sprintf("/readings/%d/silencedBy", i)
		at := slices.IndexFunc(t.readings, func(o *Reading) bool { return o.Path == r.SilencedBy })
		switch {
		case at < 0:
			m.at(where, "there is no reading %q", r.SilencedBy)
		case t.readings[at].Type != "bool":
			m.at(where, "%s is not true or false", r.SilencedBy)
		}
		if own, err := parsePattern(r.Path); err == nil && at >= 0 {
			for _, ix := range t.readings[at].path.indexes() {
				if !slices.Contains(own.indexes(), ix) {
					m.at(where, "the path %s has no {%s} to tell which %s", r.Path, ix, r.SilencedBy)
				}
			}
		}
	}
}

// Pointer makes a JSON pointer (RFC 6901) of its parts.
func Pointer(parts ...string) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteByte('/')
		b.WriteString(strings.NewReplacer("~", "~0", "/", "~1").Replace(p))
	}
	return b.String()
}
