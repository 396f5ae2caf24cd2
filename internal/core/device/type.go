package device

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/expr"
)

// Type is a compiled device sheet.
type Type struct {
	Sheet    *Sheet
	Driver   *Driver
	Alive    time.Duration // 0: never asked
	Deadline time.Duration
	Renew    time.Duration // 0: never
	Quiet    time.Duration // 0: the identifying reading ends the full state
	readings []*Reading
	byPath   paths
	byWire   routes
	lines    []*source
	anything *source // takes what nothing else takes
	start    []*messageProgram
	actions  map[string]*ActionSpec
	like     *regexp.Regexp
	version  *regexp.Regexp // nil: not known
	models   []*regexp.Regexp
}

// Reading is one compiled family of readings.
type Reading struct {
	ReadingSpec
	path    pattern
	address pattern // the address made of the path, or the one it says
	taper   TaperSpec
	json    bool // its protocol tells true from 1
}

// Problem is something wrong in a sheet; Where is a JSON pointer (RFC 6901).
type Problem struct {
	Where string
	Text  string
}

// Error implements error.
func (p *Problem) Error() string { return p.Where + ": " + p.Text }

const defaultDeadline = 250 * time.Millisecond

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
	if link.Refusal != nil {
		s, err := t.compileSource(*link.Refusal, "refusal")
		if err != nil {
			return &Problem{"/link/refusal", err.Error()}
		}
		s.refusal = true
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

// What the range of an index may hold.
const (
	maxRange = 1000
	maxIndex = 1_000_000
)

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

// compileActions binds every action once to placeholder values, so that a sheet
// with a mistake fails when it is loaded and not when a key is pressed.
func (t *Type) compileActions() error {
	for i := range t.Sheet.Actions {
		a := &t.Sheet.Actions[i]
		where := fmt.Sprintf("/actions/%d", i)
		if t.actions[a.ID] != nil {
			return &Problem{where + "/id", fmt.Sprintf("two actions are called %q", a.ID)}
		}
		if len(a.Send) == 0 && len(a.Effects) == 0 {
			return &Problem{where, "an action needs send or effects, or nothing would happen"}
		}
		t.actions[a.ID] = a
		params := map[string]string{}
		for j, p := range a.Params {
			if p.Of != "" {
				if _, ok := t.Sheet.Index[p.Of]; !ok {
					return &Problem{fmt.Sprintf("%s/params/%d/of", where, j), fmt.Sprintf("there is no index %q", p.Of)}
				}
			}
			params[p.ID] = placeholderFor(p)
		}
		if _, err := t.Bind("x", a.ID, params, 25); err != nil {
			var inner *Problem
			if errors.As(err, &inner) {
				return &Problem{where + inner.Where, inner.Text}
			}
			return &Problem{where, err.Error()}
		}
	}
	for i, a := range t.Sheet.Actions {
		for _, other := range a.Instead {
			if t.actions[other] == nil {
				return &Problem{fmt.Sprintf("/actions/%d/instead", i), fmt.Sprintf("there is no action %q", other)}
			}
		}
		if a.Fade != "" && !slices.ContainsFunc(a.Params, func(p ParamSpec) bool { return p.ID == a.Fade && p.IsNumber() }) {
			return &Problem{fmt.Sprintf("/actions/%d/fade", i), fmt.Sprintf("there is no number %q among the parameters", a.Fade)}
		}
		if a.Shows != "" && !slices.ContainsFunc(a.Params, func(p ParamSpec) bool { return p.ID == a.Shows }) {
			return &Problem{fmt.Sprintf("/actions/%d/shows", i), fmt.Sprintf("there is no parameter %q", a.Shows)}
		}
	}
	return nil
}

func placeholderFor(p ParamSpec) string {
	switch {
	case p.Default != "" && !strings.Contains(p.Default, "{"):
		return p.Default
	case len(p.Options) > 0:
		return p.Options[0]
	case p.Min != nil:
		return strconv.FormatFloat(*p.Min, 'f', -1, 64)
	}
	return "1"
}

func (t *Type) compileKits() error {
	for i, k := range t.Sheet.Kits {
		where := fmt.Sprintf("/kits/%d", i)
		for j, key := range k.Keys {
			if t.actions[key.Action] == nil {
				return &Problem{fmt.Sprintf("%s/keys/%d/action", where, j), fmt.Sprintf("there is no action %q", key.Action)}
			}
		}
		for j, also := range k.Also {
			if t.actions[also.Action] == nil {
				return &Problem{fmt.Sprintf("%s/also/%d/action", where, j), fmt.Sprintf("there is no action %q", also.Action)}
			}
		}
		if len(k.Keys) > 0 {
			continue
		}
		a := t.actions[k.Action]
		if a == nil {
			return &Problem{where + "/action", fmt.Sprintf("there is no action %q", k.Action)}
		}
		if !slices.ContainsFunc(a.Params, func(p ParamSpec) bool { return p.ID == k.Over && p.Of != "" }) {
			return &Problem{where + "/over", fmt.Sprintf("%q is not a parameter of %s that runs over an index", k.Over, k.Action)}
		}
		if k.Only != "" {
			if _, err := expr.Compile(k.Only, expr.Scope{Device: "x", Bind: map[string]string{k.Over: "1"}}); err != nil {
				return &Problem{where + "/only", err.Error()}
			}
		}
	}
	return nil
}

func (t *Type) compilePictures() error {
	for i, p := range t.Sheet.Pictures {
		where := fmt.Sprintf("/pictures/%d", i)
		if _, ok := t.Sheet.Index[p.Over]; !ok {
			return &Problem{where + "/over", fmt.Sprintf("there is no index %q", p.Over)}
		}
		if _, err := expr.CompileTemplate(p.URL, expr.Scope{Device: "x", Bind: map[string]string{"host": "h", "port": "1", p.Over: "1"}}); err != nil {
			return &Problem{where + "/url", err.Error()}
		}
	}
	return nil
}

// Reading finds the family that a concrete path belongs to, or nil.
func (t *Type) Reading(path string) *Reading { return t.byPath.find("/" + path) }

// Action finds an action by id, or nil.
func (t *Type) Action(id string) *ActionSpec { return t.actions[id] }

// Kit finds a kit by id, or nil.
func (t *Type) Kit(id string) *KitSpec {
	for i := range t.Sheet.Kits {
		if t.Sheet.Kits[i].ID == id {
			return &t.Sheet.Kits[i]
		}
	}
	return nil
}

// Identified reports whether a value of the identifying reading is one that
// such a device gives.
func (t *Type) Identified(v any) bool { return t.like == nil || t.like.MatchString(expr.Text(v)) }

// Answers reports whether the protocol answers every message.
func (t *Type) Answers() bool { return t.Driver.Answers }

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
