package device

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/expr"
)

// Compile checks a sheet and makes it ready for use. It fails with Problems, which
// say all that is wrong and where.
func Compile(s *Sheet) (*Type, error) {
	t := &Type{Sheet: s, actions: map[string]*ActionSpec{}, Deadline: defaultDeadline}
	m := &mistakes{}
	if t.Driver = driverOf(s.Link, m); t.Driver == nil {
		return nil, m.found // nothing else makes sense without it
	}
	for _, step := range []func(*mistakes){t.compileLink, t.compileIndex, t.compileReadings, t.compileIdentify, t.compileModels,
		t.compileActions, t.compileKits, t.compileEvents, t.compilePictures} {
		step(m)
	}
	if len(m.found) > 0 {
		return nil, m.found
	}
	return t, nil
}

// maxRequests is the most requests that a device is sent at a time.
//
//limit:count requests that an HTTP device is sent at a time | at the sheet's line
const maxRequests = 32

func (t *Type) compileLink(m *mistakes) {
	link := t.Sheet.Link
	for _, d := range []struct {
		field, text string
		into        *time.Duration
	}{
		{"alive", link.Alive, &t.Alive}, {"deadline", link.Deadline, &t.Deadline}, {"renew", link.Renew, &t.Renew}, {"quiet", link.Quiet, &t.Quiet},
	} {
		if d.text == "" {
			continue
		}
		var err error
		if *d.into, err = plainDuration(d.text); err != nil {
			m.err("/link/"+d.field, err)
		}
	}
	t.linkBelongs(m)
	for i, spec := range link.Start {
		where := fmt.Sprintf("/link/start/%d", i)
		t.messageBelongs(m, where, spec)
		p, err := t.compileMessage(spec, expr.Scope{Device: "x"})
		m.err(where, err)
		if err == nil {
			t.start = append(t.start, p)
		}
	}
	if link.Ask != nil {
		t.messageBelongs(m, "/link/ask", *link.Ask)
		_, err := t.compileMessage(*link.Ask, expr.Scope{Device: "x", Bind: map[string]string{"address": "a", "path": "p"}})
		m.err("/link/ask", err)
	}
	if link.Set != nil {
		t.messageBelongs(m, "/link/set", *link.Set)
	}
	for _, r := range []struct {
		name string
		spec *ReplySpec
		ok   bool
	}{{"refusal", link.Refusal, false}, {"answer", link.Answer, true}} {
		if r.spec == nil {
			continue
		}
		t.fromBelongs(m, "/link/"+r.name, r.spec.FromSpec)
		s, err := t.compileReply(*r.spec, r.ok, r.name)
		m.err("/link/"+r.name, err)
		if err == nil {
			t.place(s)
		}
	}
}

func plainDuration(s string) (time.Duration, error) {
	d, err := time.ParseDuration(s)
	if err != nil || d <= 0 || d > time.Minute {
		return 0, fmt.Errorf("%q is not a duration between 1ms and 1m", s)
	}
	return d, nil
}

func (t *Type) compileIndex(m *mistakes) {
	t.names, t.gone = map[string]pattern{}, map[string]pattern{}
	for _, name := range slices.Sorted(maps.Keys(t.Sheet.Index)) {
		ix, where := t.Sheet.Index[name], "/index/"+name
		switch {
		case (ix.Range == "") == (ix.From == ""):
			m.at(where, "an index has either a range or from")
		case ix.Range != "":
			_, err := parseRange(ix.Range)
			m.err(where+"/range", err)
			if ix.Gone != "" {
				m.at(where+"/gone", "only what the device names can be gone: a range has no gone")
			}
		default:
			p, err := parsePattern(ix.From)
			if err != nil || !strings.HasSuffix(ix.From, "{"+name+"}/name") {
				m.at(where+"/from", "must be a path that ends in {%s}/name", name)
				continue
			}
			t.names[name] = p
			if gone, err := parsePattern(ix.Gone); err == nil {
				t.gone[name] = gone
			}
			for _, other := range p.indexes() {
				t.needsIndex(m, where+"/from", other)
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(t.Sheet.Tapers)) {
		if text := t.Sheet.Tapers[name].check(); text != "" {
			m.at("/tapers/"+name, "%s", text)
		}
	}
}

// needsIndex notes an index that is not there.
func (t *Type) needsIndex(m *mistakes, where, name string) {
	if _, ok := t.Sheet.Index[name]; !ok {
		m.at(where, "there is no index %q", name)
	}
}

func parseRange(s string) ([]string, error) {
	lo, hi, ok := strings.Cut(s, "..")
	a, err1 := strconv.Atoi(lo)
	b, err2 := strconv.Atoi(hi)
	if !ok || err1 != nil || err2 != nil || b < a {
		return nil, fmt.Errorf("%q is not a range such as 1..4", s)
	}
	if a < -maxIndex || b > maxIndex || b-a >= maxRange {
		return nil, fmt.Errorf("%q is too large: a range has at most %d values, none beyond %d", s, maxRange, maxIndex)
	}
	out := make([]string, 0, b-a+1)
	for i := range b - a + 1 {
		out = append(out, strconv.Itoa(a+i))
	}
	return out, nil
}

func (t *Type) compileReadings(m *mistakes) {
	for i, spec := range t.Sheet.Readings {
		where := fmt.Sprintf("/readings/%d", i)
		r := &Reading{ReadingSpec: spec, json: t.Driver.tellsTypes()}
		var err error
		if r.path, err = parsePattern(spec.Path); err != nil {
			m.err(where+"/path", err)
			continue
		}
		for _, ix := range r.path.indexes() {
			t.needsIndex(m, where+"/path", ix)
		}
		if spec.Of != "" {
			t.needsIndex(m, where+"/of", spec.Of)
		}
		if spec.Taper != "" {
			if r.taper = t.Sheet.Tapers[spec.Taper]; r.taper == nil || spec.Type != "db" {
				m.at(where+"/taper", "there is no taper %q, or this is no level", spec.Taper)
			}
		}
		checkValues(m, where, spec)
		if err := t.byPath.add(r.path.segs, r); err != nil {
			m.err(where+"/path", err)
			continue
		}
		t.compileSources(m, r, where)
		t.compileSet(m, r, where)
		t.readings = append(t.readings, r)
	}
	t.checkSilence(m)
}

// compileSet tries the message that sets a reading.
func (t *Type) compileSet(m *mistakes, r *Reading, where string) {
	if r.Set != nil {
		t.messageBelongs(m, where+"/set", *r.Set)
		if !r.Set.uses("value") {
			m.at(where+"/set", "a message that sets a reading has {value} in it")
		}
	}
	vars := map[string]string{}
	for _, ix := range r.path.indexes() {
		vars[ix] = "1"
	}
	_, err := t.setter(r, vars)
	m.err(where+"/set", err)
}

// compileSources finds out where a reading is reported.
func (t *Type) compileSources(m *mistakes, r *Reading, where string) {
	derived := strings.TrimPrefix(t.Sheet.Link.Base+"/"+r.Path, "/")
	r.address = pattern{source: derived, segs: strings.Split(derived, "/")}
	if r.Assumed {
		return
	}
	from, shared := r.From, len(r.From) == 0
	if shared {
		for _, spec := range t.Sheet.Link.Report {
			if spec.Value == "" && t.Driver.Carries == Body {
				spec.Value = "/" + r.Path
			}
			from = append(from, spec)
		}
	}
	if len(from) == 0 {
		if !t.Driver.Derives {
			m.at(where, "say where it is reported (from), or where all are (report of the link)")
			return
		}
		from = []FromSpec{{}}
	}
	for i, spec := range from {
		if !shared {
			t.fromBelongs(m, where+"/from", spec)
		}
		s, err := t.compileFrom(r, spec, derived)
		if err != nil {
			m.err(where+"/from", err)
			continue
		}
		if spec.Any {
			t.anything = s
			continue
		}
		if i == 0 && t.Driver.SameAddress {
			r.address = s.address
		}
		if s.line == nil && s.body == nil && t.taken(s) {
			m.at(where+"/from", "%s is reported at this address already", t.byWire.find("/" + s.address.source)[0].reading.Path)
			continue
		}
		t.place(s)
	}
}

// compileFrom makes one source of a reading.
func (t *Type) compileFrom(r *Reading, spec FromSpec, derived string) (*source, error) {
	s, err := t.compileSource(spec, derived)
	if err != nil {
		return nil, err
	}
	s.reading = r
	if spec.Any {
		return s, nil
	}
	if s.line != nil && !slices.Contains(s.names, "value") {
		return nil, fmt.Errorf("the line %q has no {value}: say where in it the value is", spec.Line)
	}
	if err := sameIndexes(r.path.indexes(), s.indexes()); err != nil {
		return nil, err
	}
	if spec.Full {
		s.full, err = t.compileFull(s)
	}
	return s, err
}

// taken reports whether another reading has the argument of an address.
func (t *Type) taken(s *source) bool {
	for _, o := range t.byWire.find("/" + s.address.source) {
		if o.reading != nil && o.arg == s.arg && len(o.address.indexes()) == len(s.address.indexes()) {
			return true
		}
	}
	return false
}

func sameIndexes(path, from []string) error {
	a, b := slices.Sorted(slices.Values(path)), slices.Sorted(slices.Values(from))
	if slices.Equal(a, slices.Compact(b)) {
		return nil
	}
	return fmt.Errorf("the path has the indexes %v, what reports it has %v; they must be the same", path, from)
}

func (t *Type) compileIdentify(m *mistakes) {
	if id := t.Sheet.Link.Identify; id != nil {
		t.identity(m, id)
	} else if t.Sheet.Link.Alive != "" {
		m.at("/link/alive", "alive asks for the reading that identifies the device: say which that is (identify)")
	}
	for _, name := range slices.Sorted(maps.Keys(t.Sheet.Index)) {
		ix := t.Sheet.Index[name]
		for _, of := range []struct{ field, path string }{{"from", ix.From}, {"gone", ix.Gone}} {
			if of.path == "" {
				continue
			}
			at := slices.IndexFunc(t.readings, func(r *Reading) bool { return r.Path == of.path })
			switch {
			case at < 0:
				m.at("/index/"+name+"/"+of.field, "there is no reading %q", of.path)
			case of.field == "gone" && t.readings[at].Type != "bool":
				m.at("/index/"+name+"/"+of.field, "%s is not true or false", of.path)
			}
		}
	}
}

// identity compiles how the device is recognised.
func (t *Type) identity(m *mistakes, id *Identify) {
	if t.Reading(id.Reading) == nil {
		m.at("/link/identify/reading", "there is no reading %q", id.Reading)
	}
	if t.Sheet.Link.Alive == "" {
		m.at("/link/alive", "alive is missing: say how often the device is asked whether it is there")
	} else if t.Sheet.Link.Ask == nil {
		m.at("/link/alive", "alive asks the device whether it is there, and nothing says how it is asked (ask)")
	}
	var err error
	if t.like, err = regexp.Compile(id.Like); err != nil {
		m.err("/link/identify/like", err)
	}
	if id.Version != "" {
		if t.version, err = regexp.Compile(id.Version); err != nil || t.version.NumSubexp() < 1 {
			m.at("/link/identify/version", "must be a regular expression with a group that is the version")
		}
	} else if id.Minimum != "" {
		m.at("/link/identify/minimum", "a minimum needs version, which says where the version is")
	}
}

func (t *Type) compileModels(m *mistakes) {
	seen := map[string]bool{}
	for i, model := range t.Sheet.Models {
		where := fmt.Sprintf("/models/%d", i)
		m.twice(seen, where+"/id", "models", model.ID)
		re, err := regexp.Compile(model.Like)
		m.err(where+"/like", err)
		t.models = append(t.models, re)
		for _, id := range model.Lacks {
			if !slices.ContainsFunc(t.Sheet.Actions, func(a ActionSpec) bool { return a.ID == id }) {
				m.at(where+"/lacks", "there is no action %q", id)
			}
		}
		for _, path := range slices.Sorted(maps.Keys(model.Has)) {
			at := where + "/has" + Pointer(path)
			def := t.Reading(path)
			if def == nil {
				m.at(at, "there is no reading %q", path)
				continue
			}
			_, err := def.normal(model.Has[path])
			m.err(at, err)
		}
	}
}

// What the range of an index may hold: so many values, none beyond the largest.
const (
	//limit:count values of an index that is a range | at the sheet's line
	maxRange = 1000
	//limit:count number in such a range | at the sheet's line
	maxIndex = 1_000_000
)
