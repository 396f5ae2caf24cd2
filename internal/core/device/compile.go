package device

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/expr"
)

// Compile checks a sheet and makes it ready for use. It fails with a *Problem
// that says where.
func Compile(s *Sheet) (*Type, error) {
	t := &Type{Sheet: s, actions: map[string]*ActionSpec{}, Deadline: defaultDeadline}
	var err error
	if t.Driver, err = driverOf(s.Link); err != nil {
		return nil, err
	}
	for _, step := range []func() error{t.compileLink, t.compileIndex, t.compileReadings, t.compileIdentify, t.compileModels,
		t.compileActions, t.compileKits, t.compileEvents, t.compilePictures} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	return t, nil
}

// maxRequests is the most requests that a device is sent at a time.
const maxRequests = 32

func (t *Type) compileLink() (err error) {
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
		if *d.into, err = plainDuration(d.text); err != nil {
			return &Problem{"/link/" + d.field, err.Error()}
		}
	}
	switch {
	case link.Requests != 0 && !t.Driver.Requests:
		return &Problem{"/link/requests", fmt.Sprintf("%s needs no number of requests: its messages do not wait for answers", t.Driver.Name)}
	case link.Requests < 0 || link.Requests > maxRequests:
		return &Problem{"/link/requests", fmt.Sprintf("a device takes 1 to %d requests at a time", maxRequests)}
	}
	for i, spec := range link.Start {
		p, err := t.compileMessage(spec, expr.Scope{Device: "x"})
		if err != nil {
			return &Problem{fmt.Sprintf("/link/start/%d", i), err.Error()}
		}
		t.start = append(t.start, p)
	}
	if link.Ask != nil {
		if _, err := t.compileMessage(*link.Ask, expr.Scope{Device: "x", Bind: map[string]string{"address": "a", "path": "p"}}); err != nil {
			return &Problem{"/link/ask", err.Error()}
		}
	}
	for _, r := range []struct {
		name string
		spec *ReplySpec
		ok   bool
	}{{"refusal", link.Refusal, false}, {"answer", link.Answer, true}} {
		if r.spec == nil {
			continue
		}
		s, err := t.compileReply(*r.spec, r.ok, r.name)
		if err != nil {
			return &Problem{"/link/" + r.name, err.Error()}
		}
		t.place(s)
	}
	return nil
}

func plainDuration(s string) (time.Duration, error) {
	d, err := time.ParseDuration(s)
	if err != nil || d <= 0 || d > time.Minute {
		return 0, fmt.Errorf("%q is not a duration between 1ms and 1m", s)
	}
	return d, nil
}

func (t *Type) compileIndex() error {
	t.names, t.gone = map[string]pattern{}, map[string]pattern{}
	for name, ix := range t.Sheet.Index {
		where := "/index/" + name
		switch {
		case (ix.Range == "") == (ix.From == ""):
			return &Problem{where, "an index has either a range or from"}
		case ix.Range != "":
			if _, err := parseRange(ix.Range); err != nil {
				return &Problem{where + "/range", err.Error()}
			}
		default:
			p, err := parsePattern(ix.From)
			if err != nil || !strings.HasSuffix(ix.From, "{"+name+"}/name") {
				return &Problem{where + "/from", fmt.Sprintf("must be a path that ends in {%s}/name", name)}
			}
			t.names[name] = p
			if gone, err := parsePattern(ix.Gone); err == nil {
				t.gone[name] = gone
			}
			for _, other := range p.indexes() {
				if _, ok := t.Sheet.Index[other]; !ok {
					return &Problem{where + "/from", fmt.Sprintf("there is no index %q", other)}
				}
			}
		}
	}
	for name, taper := range t.Sheet.Tapers {
		if text := taper.check(); text != "" {
			return &Problem{"/tapers/" + name, text}
		}
	}
	return nil
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

func (t *Type) compileReadings() error {
	for i, spec := range t.Sheet.Readings {
		where := fmt.Sprintf("/readings/%d", i)
		r := &Reading{ReadingSpec: spec, json: t.Driver.tellsTypes()}
		var err error
		if r.path, err = parsePattern(spec.Path); err != nil {
			return &Problem{where + "/path", err.Error()}
		}
		for _, ix := range r.path.indexes() {
			if _, ok := t.Sheet.Index[ix]; !ok {
				return &Problem{where + "/path", fmt.Sprintf("there is no index %q", ix)}
			}
		}
		if spec.Of != "" {
			if _, ok := t.Sheet.Index[spec.Of]; !ok {
				return &Problem{where + "/of", fmt.Sprintf("there is no index %q", spec.Of)}
			}
		}
		if spec.Type == "choice" && spec.Of == "" && len(spec.Options) == 0 {
			return &Problem{where, "a choice needs of or options"}
		}
		if spec.Taper != "" {
			if r.taper = t.Sheet.Tapers[spec.Taper]; r.taper == nil || spec.Type != "db" {
				return &Problem{where + "/taper", fmt.Sprintf("there is no taper %q, or this is no level", spec.Taper)}
			}
		}
		if err := t.byPath.add(r.path.segs, r); err != nil {
			return &Problem{where + "/path", err.Error()}
		}
		if err := t.compileSources(r, where); err != nil {
			return err
		}
		vars := map[string]string{}
		for _, ix := range r.path.indexes() {
			vars[ix] = "1"
		}
		if _, err := t.setter(r, vars); err != nil {
			return &Problem{where + "/set", err.Error()}
		}
		t.readings = append(t.readings, r)
	}
	return nil
}

// compileSources finds out where a reading is reported.
func (t *Type) compileSources(r *Reading, where string) error {
	derived := strings.TrimPrefix(t.Sheet.Link.Base+"/"+r.Path, "/")
	r.address = pattern{source: derived, segs: strings.Split(derived, "/")}
	if r.Assumed {
		return nil
	}
	from := r.From
	if len(from) == 0 {
		for _, spec := range t.Sheet.Link.Report {
			if spec.Value == "" && t.Driver.Carries == Body {
				spec.Value = "/" + r.Path
			}
			from = append(from, spec)
		}
	}
	if len(from) == 0 {
		if !t.Driver.Derives {
			return &Problem{where, "say where it is reported (from), or where all are (report of the link)"}
		}
		from = []FromSpec{{}}
	}
	for i, spec := range from {
		s, err := t.compileSource(spec, derived)
		if err == nil && !spec.Any {
			err = sameIndexes(r.path.indexes(), s.indexes())
		}
		if err != nil {
			return &Problem{where + "/from", err.Error()}
		}
		s.reading = r
		if spec.Full {
			if s.full, err = t.compileFull(s); err != nil {
				return &Problem{where + "/from", err.Error()}
			}
		}
		if spec.Any {
			t.anything = s
			continue
		}
		if i == 0 && t.Driver.SameAddress {
			r.address = s.address
		}
		if s.line == nil && s.body == nil && t.taken(s) {
			return &Problem{where + "/from", fmt.Sprintf("%s is reported at this address already", t.byWire.find("/" + s.address.source)[0].reading.Path)}
		}
		t.place(s)
	}
	return nil
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

func (t *Type) compileIdentify() (err error) {
	id := t.Sheet.Link.Identify
	if id != nil {
		if t.Reading(id.Reading) == nil {
			return &Problem{"/link/identify/reading", fmt.Sprintf("there is no reading %q", id.Reading)}
		}
		if t.Alive == 0 {
			return &Problem{"/link/alive", "alive is missing: say how often the device is asked whether it is there"}
		}
		if t.like, err = regexp.Compile(id.Like); err != nil {
			return &Problem{"/link/identify/like", err.Error()}
		}
		if id.Version != "" {
			if t.version, err = regexp.Compile(id.Version); err != nil || t.version.NumSubexp() < 1 {
				return &Problem{"/link/identify/version", "must be a regular expression with a group that is the version"}
			}
		}
	}
	for name, ix := range t.Sheet.Index {
		for field, path := range map[string]string{"from": ix.From, "gone": ix.Gone} {
			if path != "" && !slices.ContainsFunc(t.readings, func(r *Reading) bool { return r.Path == path }) {
				return &Problem{"/index/" + name + "/" + field, fmt.Sprintf("there is no reading %q", path)}
			}
		}
	}
	return nil
}

func (t *Type) compileModels() error {
	for i, m := range t.Sheet.Models {
		re, err := regexp.Compile(m.Like)
		if err != nil {
			return &Problem{fmt.Sprintf("/models/%d/like", i), err.Error()}
		}
		t.models = append(t.models, re)
		for path, v := range m.Has {
			def := t.Reading(path)
			if def == nil {
				return &Problem{fmt.Sprintf("/models/%d/has", i), fmt.Sprintf("there is no reading %q", path)}
			}
			if _, err := def.normal(v); err != nil {
				return &Problem{fmt.Sprintf("/models/%d/has", i), fmt.Sprintf("%s: %v", path, err)}
			}
		}
	}
	return nil
}

// What the range of an index may hold: so many values, none beyond the largest.
const (
	maxRange = 1000
	maxIndex = 1_000_000
)
