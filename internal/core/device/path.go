package device

import (
	"fmt"
	"regexp"
	"strings"
)

// pattern is a path such as mix/{mix}/program, cut at its slashes.
type pattern struct {
	source string
	segs   []string // a placeholder keeps its braces
}

var segment = regexp.MustCompile(`^([A-Za-z0-9._-]+|\{[a-z][A-Za-z0-9]*\})$`)

func parsePattern(source string) (pattern, error) {
	p := pattern{source: source, segs: strings.Split(source, "/")}
	for _, s := range p.segs {
		if !segment.MatchString(s) {
			return p, fmt.Errorf("%q is not a path: %q is neither a word nor an {index}", source, s)
		}
	}
	return p, nil
}

func placeholder(seg string) (name string, ok bool) {
	if strings.HasPrefix(seg, "{") {
		return seg[1 : len(seg)-1], true
	}
	return "", false
}

// indexes lists the placeholders of the pattern.
func (p pattern) indexes() []string {
	var out []string
	for _, s := range p.segs {
		if n, ok := placeholder(s); ok {
			out = append(out, n)
		}
	}
	return out
}

// fill puts values into the placeholders.
func (p pattern) fill(vars map[string]string) (string, error) {
	out := make([]string, len(p.segs))
	for i, s := range p.segs {
		out[i] = s
		if n, ok := placeholder(s); ok {
			v, has := vars[n]
			if !has || v == "" {
				return "", fmt.Errorf("%s needs a value for {%s}", p.source, n)
			}
			out[i] = v
		}
	}
	return strings.Join(out, "/"), nil
}

// match takes a concrete path apart; nil when it does not fit.
func (p pattern) match(path string) (vars map[string]string, ok bool) {
	segs := strings.Split(path, "/")
	if len(segs) != len(p.segs) {
		return nil, false
	}
	vars = map[string]string{}
	for i, s := range p.segs {
		if n, isVar := placeholder(s); isVar {
			if segs[i] == "" {
				return nil, false
			}
			vars[n] = segs[i]
		} else if s != segs[i] {
			return nil, false
		}
	}
	return vars, true
}

// routes finds the pattern of a concrete address, segment by segment.
type routes struct {
	words map[string]*routes
	any   *routes
	def   *Reading
}

func (r *routes) add(segs []string, def *Reading) error {
	if len(segs) == 0 {
		if r.def != nil {
			return fmt.Errorf("%s and %s have the same address", r.def.Path, def.Path)
		}
		r.def = def
		return nil
	}
	if _, isVar := placeholder(segs[0]); isVar {
		if r.any == nil {
			r.any = &routes{}
		}
		return r.any.add(segs[1:], def)
	}
	if r.words == nil {
		r.words = map[string]*routes{}
	}
	next := r.words[segs[0]]
	if next == nil {
		next = &routes{}
		r.words[segs[0]] = next
	}
	return next.add(segs[1:], def)
}

func (r *routes) find(address string) *Reading {
	if address == "" {
		return r.def
	}
	head, rest, _ := strings.Cut(address[1:], "/")
	if rest != "" {
		rest = "/" + rest
	}
	if head == "" {
		return nil
	}
	if next := r.words[head]; next != nil {
		if def := next.find(rest); def != nil {
			return def
		}
	}
	if r.any != nil {
		return r.any.find(rest)
	}
	return nil
}
