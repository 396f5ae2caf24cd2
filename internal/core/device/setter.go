package device

import (
	"math"
	"regexp"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// converted is a parameter in an effect, as it is or made a number.
var converted = regexp.MustCompile(`^(?:int|float|text)\(([a-z][a-zA-Z0-9]*)\)$`)

// Setter finds the action that sets a reading to a value, and nothing else: one that
// does it at once before one that takes its time. device is the id that its readings
// are known by, w answers for parameters that the reading does not fix. A nil value
// asks whether there is any. ok is false where there is no such action.
func (t *Type) Setter(device, path string, v reading.Value, w expr.World) (action string, params map[string]string, ok bool) {
	slow := false
	for i := range t.Sheet.Actions {
		a := &t.Sheet.Actions[i]
		if len(a.Effects) != 1 || ok && (!slow || a.Effects[0].takesTime()) {
			continue
		}
		if p, sets := t.sets(a, device, path, v, w); sets {
			action, params, ok, slow = a.ID, p, true, a.Effects[0].takesTime()
		}
	}
	return action, params, ok
}

// literal is a value as the parameter takes it: what is in a text is no expression, whoever has written it.
func (p ParamSpec) literal(v reading.Value) string {
	text, isText := v.(string)
	if !isText || !p.isText() {
		return ValueText(v)
	}
	return strings.NewReplacer("{", "{{", "}", "}}").Replace(text)
}

func (e EffectSpec) takesTime() bool { return e.After != "" || e.Over != "" }

// sets gives the parameters with which an action sets a reading to a value.
func (t *Type) sets(a *ActionSpec, device, path string, v reading.Value, w expr.World) (params map[string]string, ok bool) {
	e := a.Effects[0]
	p, err := parsePattern(e.Set)
	if err != nil {
		return nil, false
	}
	params, fits := p.match(path)
	if !fits {
		return nil, false
	}
	from := e.To
	if m := converted.FindStringSubmatch(from); m != nil {
		from = m[1]
	}
	byParam := false
	for _, spec := range a.Params {
		if spec.ID == from {
			byParam = true
			if v != nil {
				params[spec.ID] = spec.literal(v)
			}
		}
	}
	if !byParam {
		to, err := expr.Compile(e.To, expr.Scope{})
		if err != nil || !to.Constant() {
			return nil, false
		}
		if fixed, err := to.Eval(expr.Nothing{}); err != nil || v != nil && !reading.Equal(fixed, v, 0) {
			return nil, false
		}
	}
	if v == nil {
		return params, true
	}
	for _, spec := range a.Params {
		if params[spec.ID] == "" {
			params[spec.ID] = spec.DefaultNow(device, w)
		}
	}
	_, err = t.bindParams(a, params)
	return params, err == nil
}

// ValueText writes a value of a reading as a parameter: -inf is minus infinity.
func ValueText(v reading.Value) string {
	if f, isNumber := v.(float64); isNumber && math.IsInf(f, -1) {
		return "-inf"
	}
	return strings.TrimSpace(expr.Text(v))
}
