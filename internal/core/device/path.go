package device

import (
	"cmp"
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// pattern is a path such as mix/{mix}/program, cut at its slashes.
type pattern struct {
	source string
	segs   []string // a placeholder keeps its braces
}

var segment = regexp.MustCompile(`^([A-Za-z0-9._-]+|\{[a-z][A-Za-z0-9]*\})$`)

// indexValue is what a value of an index may look like: a part of a path.
var indexValue = regexp.MustCompile(`^[^/{}"'\\\x00-\x1f]{1,100}$`)

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
	for i, s := range p.segs {
		if _, isVar := placeholder(s); !isVar && s != segs[i] {
			return nil, false
		}
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

// vars lists the placeholders of a concrete path that fits, as name and value
// in turn.
func (p pattern) vars(path string) []string {
	var out []string
	for i := range p.segs {
		head, rest, _ := strings.Cut(path, "/")
		if n, isVar := placeholder(p.segs[i]); isVar {
			out = append(out, n, head)
		}
		path = rest
	}
	return out
}

// with fills the placeholders from names and values in turn.
func (p pattern) with(vars []string) (string, error) {
	var b strings.Builder
	for i, s := range p.segs {
		if i > 0 {
			b.WriteByte('/')
		}
		n, isVar := placeholder(s)
		if !isVar {
			b.WriteString(s)
			continue
		}
		at := -1
		for j := 0; j+1 < len(vars); j += 2 {
			if vars[j] == n {
				at = j + 1
			}
		}
		if at < 0 || !indexValue.MatchString(vars[at]) {
			return "", fmt.Errorf("%s came without a usable value for {%s}", p.source, n)
		}
		b.WriteString(vars[at])
	}
	return b.String(), nil
}

// routes finds what a concrete address is for, segment by segment.
type routes struct {
	words   map[string]*routes
	any     *routes
	sources []*source
}

func (r *routes) add(segs []string, src *source) {
	if len(segs) == 0 {
		r.sources = append(r.sources, src)
		return
	}
	if _, isVar := placeholder(segs[0]); isVar {
		if r.any == nil {
			r.any = &routes{}
		}
		r.any.add(segs[1:], src)
		return
	}
	if r.words == nil {
		r.words = map[string]*routes{}
	}
	next := r.words[segs[0]]
	if next == nil {
		next = &routes{}
		r.words[segs[0]] = next
	}
	next.add(segs[1:], src)
}

// find returns what is at an address, which begins with a slash or is empty.
// Words win over placeholders.
func (r *routes) find(address string) []*source {
	if address == "" {
		return r.sources
	}
	head, rest, _ := strings.Cut(address[1:], "/")
	if rest != "" {
		rest = "/" + rest
	}
	if head == "" {
		return nil
	}
	if next := r.words[head]; next != nil {
		if found := next.find(rest); found != nil {
			return found
		}
	}
	if r.any != nil {
		return r.any.find(rest)
	}
	return nil
}

// paths finds the family of readings that a concrete path belongs to.
type paths struct {
	words map[string]*paths
	any   *paths
	def   *Reading
}

func (p *paths) add(segs []string, def *Reading) error {
	for _, s := range segs {
		var next **paths
		if _, isVar := placeholder(s); isVar {
			next = &p.any
		} else {
			if p.words == nil {
				p.words = map[string]*paths{}
			}
			n := p.words[s]
			next = &n
			if n == nil {
				n = &paths{}
				p.words[s] = n
			}
		}
		if *next == nil {
			*next = &paths{}
		}
		p = *next
	}
	if p.def != nil {
		return fmt.Errorf("%s and %s are the same path", p.def.Path, def.Path)
	}
	p.def = def
	return nil
}

// find takes a path with a slash in front, or "".
func (p *paths) find(path string) *Reading {
	if path == "" {
		return p.def
	}
	head, rest, _ := strings.Cut(path[1:], "/")
	if rest != "" {
		rest = "/" + rest
	}
	if head == "" {
		return nil
	}
	if next := p.words[head]; next != nil {
		if def := next.find(rest); def != nil {
			return def
		}
	}
	if p.any != nil {
		return p.any.find(rest)
	}
	return nil
}

// comparePaths orders paths part by part, numbers by their size.
func comparePaths(a, b string) int {
	as, bs := strings.Split(a, "/"), strings.Split(b, "/")
	for i := range min(len(as), len(bs)) {
		x, errX := strconv.Atoi(as[i])
		y, errY := strconv.Atoi(bs[i])
		if errX == nil && errY == nil && x != y {
			return cmp.Compare(x, y)
		}
		if c := cmp.Compare(as[i], bs[i]); c != 0 {
			return c
		}
	}
	return cmp.Compare(len(as), len(bs))
}
