package device

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
)

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
		for j := range a.Params {
			p := &a.Params[j]
			p.silent = p.IsNumber() && slices.ContainsFunc(a.Effects, func(e EffectSpec) bool { return t.setsLevel(e, p.ID) })
		}
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
		if a.Stop != "" && a.Stop != "present" && t.actions[a.Stop] == nil {
			return &Problem{fmt.Sprintf("/actions/%d/stop", i), fmt.Sprintf("there is no action %q; present sets it to where it is", a.Stop)}
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

// setsLevel reports whether an effect sets a level to a parameter, as it is or made a number.
func (t *Type) setsLevel(e EffectSpec, param string) bool {
	to := e.To
	if m := converted.FindStringSubmatch(to); m != nil {
		to = m[1]
	}
	p, err := parsePattern(e.Set)
	if to != param || err != nil {
		return false
	}
	return slices.ContainsFunc(t.Sheet.Readings, func(r ReadingSpec) bool {
		_, same := p.match(r.Path)
		return r.Type == "db" && (r.Path == e.Set || same)
	})
}
