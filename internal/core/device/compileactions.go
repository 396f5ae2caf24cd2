package device

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// compileActions tries every action with placeholder values, so that a sheet with a
// mistake fails when it is loaded and not when a key is pressed.
func (t *Type) compileActions(m *mistakes) {
	for i := range t.Sheet.Actions {
		a := &t.Sheet.Actions[i]
		if t.actions[a.ID] != nil {
			m.at(fmt.Sprintf("/actions/%d/id", i), "two actions are called %q", a.ID)
			continue
		}
		t.actions[a.ID] = a
		for j := range a.Params {
			p := &a.Params[j]
			p.silent = p.IsNumber() && slices.ContainsFunc(a.Effects, func(e EffectSpec) bool { return t.setsLevel(e, p.ID) })
		}
	}
	for i := range t.Sheet.Actions {
		where := fmt.Sprintf("/actions/%d", i)
		t.tryAction(m, where, &t.Sheet.Actions[i])
		t.tryTies(m, where, &t.Sheet.Actions[i])
	}
}

// tryTies notes what an action refers to that is not there.
func (t *Type) tryTies(m *mistakes, where string, a *ActionSpec) {
	for i, other := range a.Instead {
		if t.actions[other] == nil {
			m.at(fmt.Sprintf("%s/instead/%d", where, i), "there is no action %q", other)
		}
	}
	if p, ok := a.param(a.Fade); a.Fade != "" && (!ok || !p.IsNumber()) {
		m.at(where+"/fade", "there is no number %q among the parameters", a.Fade)
	}
	if a.Stop != "" && a.Stop != "present" && t.actions[a.Stop] == nil {
		m.at(where+"/stop", "there is no action %q; present sets it to where it is", a.Stop)
	}
	if _, ok := a.param(a.Shows); a.Shows != "" && !ok {
		m.at(where+"/shows", "there is no parameter %q", a.Shows)
	}
}

// param finds a parameter by its id.
func (a *ActionSpec) param(id string) (ParamSpec, bool) {
	for _, p := range a.Params {
		if p.ID == id {
			return p, true
		}
	}
	return ParamSpec{}, false
}

// trial is an action that is tried, with a value for each of its parameters.
type trial struct {
	*Type
	*mistakes
	scope expr.Scope
}

// tryAction tries every part of an action.
func (t *Type) tryAction(m *mistakes, where string, a *ActionSpec) {
	if len(a.Send) == 0 && len(a.Effects) == 0 {
		m.at(where, "an action needs send or effects, or nothing would happen")
	}
	params, ok := t.tryParams(m, where, a)
	if !ok {
		return
	}
	try := &trial{t, m, a.scope("x", params)}
	try.text(where+"/title", t.named(a, a.Title))
	try.text(where+"/face/label", t.named(a, a.Face.Label))
	try.text(where+"/face/where", a.Face.Where)
	try.text(where+"/face/glyphOf", a.Face.GlyphOf)
	try.duration(where+"/plays", a.Plays)
	try.duration(where+"/busy", a.Busy)
	for i, p := range a.Params {
		if p.defaultsToReading() {
			try.text(fmt.Sprintf("%s/params/%d/default", where, i), p.Default)
		}
	}
	for i, l := range a.Lamps {
		try.condition(fmt.Sprintf("%s/lamps/%d/when", where, i), l.When)
	}
	for i, n := range a.Needs {
		try.condition(fmt.Sprintf("%s/needs/%d/when", where, i), n.When)
		try.text(fmt.Sprintf("%s/needs/%d/say", where, i), n.Say)
	}
	for i, spec := range a.Send {
		try.message(fmt.Sprintf("%s/send/%d", where, i), spec)
	}
	for i, spec := range a.Effects {
		try.effect(fmt.Sprintf("%s/effects/%d", where, i), spec, len(a.Send) == 0)
	}
}

// tryParams gives each parameter a value that it can have; ok is false where one has
// none.
func (t *Type) tryParams(m *mistakes, where string, a *ActionSpec) (params map[string]string, ok bool) {
	params, ok = map[string]string{}, true
	seen := map[string]bool{}
	for i, p := range a.Params {
		at := fmt.Sprintf("%s/params/%d", where, i)
		m.twice(seen, at+"/id", "parameters", p.ID)
		if p.Of != "" {
			t.needsIndex(m, at+"/of", p.Of)
		}
		checkRange(m, at, p.Min, p.Max)
		if p.isText() && p.Max != nil && (*p.Max < 1 || *p.Max > longestText) {
			m.at(at+"/max", "a text has 1 to %d characters", longestText)
		}
		for _, f := range []field{{"min", p.Min != nil}, {"max", p.Max != nil && !p.isText()}} {
			if f.said && !p.IsNumber() {
				m.at(at+"/"+f.name, "only a number has a %s", f.name)
			}
		}
		if p.Min != nil && p.Max != nil && *p.Min > *p.Max {
			ok = false
			continue
		}
		params[p.ID] = placeholderFor(p)
		if text := p.check(params[p.ID]); text != "" {
			m.at(at, "%s", strings.TrimSuffix(text, "."))
			ok = false
		}
	}
	return params, ok
}

func placeholderFor(p ParamSpec) string {
	switch {
	case p.Default != "" && !strings.Contains(p.Default, "{"):
		return p.Default
	case len(p.Options) > 0:
		return p.Options[0]
	case p.Min != nil:
		return strconv.FormatFloat(*p.Min, 'f', -1, 64)
	case p.Max != nil:
		return strconv.FormatFloat(*p.Max, 'f', -1, 64)
	}
	return "1"
}

// known notes readings that the sheet has not. A name may be that of a thing, whose
// reading is below its path.
func (t *trial) known(where string, deps []reading.Key) {
	for _, k := range deps {
		if t.Reading(k.Path) == nil && t.Reading(k.Path+"/name") == nil {
			t.at(where, "there is no reading %q", k.Path)
		}
	}
}

// text tries a template.
func (t *trial) text(where, source string) *expr.Template {
	made, err := expr.CompileTemplate(source, t.scope)
	if err != nil {
		t.err(where, err)
		return nil
	}
	t.known(where, made.Deps())
	return made
}

// duration tries a duration, which may be worked out.
func (t *trial) duration(where, source string) {
	made := t.text(where, source)
	if made == nil || !made.Constant() {
		return
	}
	text, err := made.Eval(expr.Nothing{})
	if err != nil {
		t.err(where, err)
		return
	}
	d, err := parseDuration(expr.Text(text), 25)
	if err != nil || d < 0 {
		t.at(where, "%q is not a duration, such as 2s, 40ms or 25f", expr.Text(text))
	}
}

// condition tries what is to be true or false.
func (t *trial) condition(where, source string) {
	p := t.expression(where, source)
	if p == nil {
		return
	}
	if kind := p.Kind(t.kindOf); kind != expr.Anything && kind != expr.YesNo {
		t.at(where, "%s is %s; a condition is true or false", source, kind)
	}
}

// expression tries an expression; nil where it is wrong.
func (t *trial) expression(where, source string) *expr.Program {
	p, err := expr.Compile(source, t.scope)
	if err != nil {
		t.err(where, err)
		return nil
	}
	t.known(where, p.Deps)
	return p
}

// kindOf tells what sort of value a reading has.
func (t *Type) kindOf(k reading.Key) expr.Kind {
	def := t.Reading(k.Path)
	if def == nil {
		return expr.Anything
	}
	return map[string]expr.Kind{"bool": expr.YesNo, "int": expr.Number, "float": expr.Number, "db": expr.Number, "text": expr.Words, "choice": expr.Words}[def.Type]
}

// message tries a message.
func (t *trial) message(where string, spec MessageSpec) {
	t.messageBelongs(t.mistakes, where, spec)
	p, err := t.compileMessage(spec, t.scope)
	if err != nil {
		t.err(where, err)
		return
	}
	t.known(where, p.deps())
}

// effect tries what an action brings about.
func (t *trial) effect(where string, spec EffectSpec, derive bool) {
	e, err := t.bindEffect("x", spec, t.scope, derive)
	if e.def == nil {
		t.err(where+"/set", err)
		return
	}
	before := len(t.found)
	t.duration(where+"/after", spec.After)
	t.duration(where+"/over", spec.Over)
	if spec.Grace != "" {
		_, err := plainDuration(spec.Grace)
		t.err(where+"/grace", err)
	}
	p := t.expression(where+"/to", spec.To)
	if p == nil {
		return
	}
	if err != nil && len(t.found) == before {
		t.err(where+"/set", err)
		return
	}
	if p.Constant() {
		v, err := p.Eval(expr.Nothing{})
		if err == nil && v != nil {
			_, err = e.def.normal(v)
		}
		t.err(where+"/to", err)
		return
	}
	wants := t.kindOf(e.key)
	if kind := p.Kind(t.kindOf); kind != expr.Anything && kind != wants && wants != expr.Words {
		t.at(where+"/to", "%s is %s, and %s is %s", spec.To, kind, spec.Set, wants)
	}
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
