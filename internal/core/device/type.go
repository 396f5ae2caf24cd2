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

// Message is one message of a device in typed form; arguments are int, float64
// or string.
type Message struct {
	Address string
	Args    []any
}

// Type is a compiled device sheet.
type Type struct {
	Sheet    *Sheet
	Alive    time.Duration
	Deadline time.Duration
	Renew    time.Duration // 0: never
	Quiet    time.Duration // 0: the identifying reading ends the full state
	readings []*Reading
	byPath   routes
	byWire   routes
	actions  map[string]*ActionSpec
	like     *regexp.Regexp
}

// Reading is one compiled family of readings.
type Reading struct {
	ReadingSpec
	path    pattern
	address pattern
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
	for _, step := range []func() error{t.compileLink, t.compileIndex, t.compileReadings, t.compileIdentify, t.compileActions, t.compileKits} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	return t, nil
}

func (t *Type) compileLink() (err error) {
	if t.Alive, err = plainDuration(t.Sheet.Link.Alive); err != nil {
		return &Problem{"/link/alive", err.Error()}
	}
	for field, d := range map[string]struct {
		text string
		into *time.Duration
	}{
		"deadline": {t.Sheet.Link.Deadline, &t.Deadline},
		"renew":    {t.Sheet.Link.Renew, &t.Renew},
		"quiet":    {t.Sheet.Link.Quiet, &t.Quiet},
	} {
		if d.text == "" {
			continue
		}
		if *d.into, err = plainDuration(d.text); err != nil {
			return &Problem{"/link/" + field, err.Error()}
		}
	}
	if t.like, err = regexp.Compile(t.Sheet.Link.Identify.Like); err != nil {
		return &Problem{"/link/identify/like", err.Error()}
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
			if p, err := parsePattern(ix.From); err != nil || !strings.HasSuffix(ix.From, "{"+name+"}/name") || len(p.indexes()) != 1 {
				return &Problem{where + "/from", fmt.Sprintf("must be a path that ends in {%s}/name", name)}
			}
		}
	}
	return nil
}

func parseRange(s string) ([]string, error) {
	lo, hi, ok := strings.Cut(s, "..")
	a, err1 := strconv.Atoi(lo)
	b, err2 := strconv.Atoi(hi)
	if !ok || err1 != nil || err2 != nil || b < a || b-a > 1000 {
		return nil, fmt.Errorf("%q is not a range such as 1..4", s)
	}
	out := make([]string, 0, b-a+1)
	for i := a; i <= b; i++ {
		out = append(out, strconv.Itoa(i))
	}
	return out, nil
}

func (t *Type) compileReadings() error {
	for i, spec := range t.Sheet.Readings {
		where := fmt.Sprintf("/readings/%d", i)
		r := &Reading{ReadingSpec: spec}
		var err error
		if r.path, err = parsePattern(spec.Path); err != nil {
			return &Problem{where + "/path", err.Error()}
		}
		address := strings.TrimPrefix(spec.Address, "/")
		if address == "" {
			address = spec.Path
		}
		if r.address, err = parsePattern(address); err != nil {
			return &Problem{where + "/address", err.Error()}
		}
		for _, ix := range r.path.indexes() {
			if _, ok := t.Sheet.Index[ix]; !ok {
				return &Problem{where + "/path", fmt.Sprintf("there is no index %q", ix)}
			}
		}
		if !slices.Equal(r.path.indexes(), r.address.indexes()) {
			return &Problem{where + "/address", "path and address must have the same indexes in the same order"}
		}
		if spec.Of != "" {
			if _, ok := t.Sheet.Index[spec.Of]; !ok {
				return &Problem{where + "/of", fmt.Sprintf("there is no index %q", spec.Of)}
			}
		}
		if spec.Type == "choice" && spec.Of == "" && len(spec.Options) == 0 {
			return &Problem{where, "a choice needs of or options"}
		}
		if err := t.byPath.add(r.path.segs, r); err != nil {
			return &Problem{where + "/path", err.Error()}
		}
		if err := t.byWire.add(r.address.segs, r); err != nil {
			return &Problem{where + "/address", err.Error()}
		}
		t.readings = append(t.readings, r)
	}
	return nil
}

func (t *Type) compileIdentify() error {
	if t.Reading(t.Sheet.Link.Identify.Reading) == nil {
		return &Problem{"/link/identify/reading", fmt.Sprintf("there is no reading %q", t.Sheet.Link.Identify.Reading)}
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
	}
	return nil
}

func placeholderFor(p ParamSpec) string {
	switch {
	case p.Default != "":
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
func (t *Type) Identified(v any) bool { return t.like.MatchString(expr.Text(v)) }
