package device

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Bound is an action with its parameters, ready to be sent to one device.
type Bound struct {
	Device string
	Action *ActionSpec
	Params map[string]string
	Title  *expr.Template
	Label  *expr.Template
	Where  *expr.Template
	// Glyph gives the name of the glyph that the device has for it; nil: it has none.
	Glyph *expr.Template
	Lamps []Lamp

	sends   []*messageProgram
	plays   *expr.Template
	busy    *expr.Template
	effects []boundEffect
	needs   []boundNeed
	affects []reading.Key
	frames  float64
	// gone are the readings that say that what was chosen is not there any more.
	gone []reading.Key
}

// Lamp is a compiled lamp.
type Lamp struct {
	When *expr.Program
	Role string // empty: none
	Look *Look  // what else it changes of the face; nil: nothing
}

// Look is what a lamp changes of a face besides its state. Empty fields change
// nothing.
type Look struct {
	Label                            *expr.Template
	Glyph, Background, Text, Picture string
	Blink                            bool
}

type boundEffect struct {
	key   reading.Key
	def   *Reading
	to    *expr.Program
	after *expr.Template
	over  *expr.Template
	grace time.Duration
	set   *messageProgram // sets the reading; nil where the action says what to send
}

type boundNeed struct {
	when *expr.Program
	say  *expr.Template
}

// Effect is what an action is about to bring about.
type Effect struct {
	Key       reading.Key
	Value     reading.Value
	Tolerance float64
	// After is how long the device takes on purpose until the value is there, Over the part of
	// that in which it is on its way, Grace how much longer it may take; 0: as usual.
	After, Over, Grace time.Duration
	// Assumed says that no report will come.
	Assumed bool
}

// ParamError says which parameter of an action is wrong.
type ParamError struct {
	Param string
	Text  string
}

// Error implements error.
func (e *ParamError) Error() string { return e.Text }

// Bind fixes the parameters of an action. device is the id that its readings
// are known by; frameRate (frames per second) turns durations in frames into
// time. A missing or wrong parameter is a *ParamError.
func (t *Type) Bind(device, action string, params map[string]string, frameRate float64) (*Bound, error) {
	return t.bind(device, action, params, frameRate, false)
}

// BindPassing is Bind for a value that comes and goes: of a dial that is turned, of a fade.
func (t *Type) BindPassing(device, action string, params map[string]string, frameRate float64) (*Bound, error) {
	return t.bind(device, action, params, frameRate, true)
}

func (t *Type) bind(device, action string, params map[string]string, frameRate float64, passing bool) (*Bound, error) {
	a := t.actions[action]
	if a == nil {
		return nil, fmt.Errorf("%s has no action %q", t.Sheet.Title, action)
	}
	bind, err := t.bindParams(a, params)
	if err != nil {
		return nil, err
	}
	b := &Bound{Device: device, Action: a, Params: bind, frames: frameRate}
	scope := a.scope(device, bind)
	scope.Passing = passing
	if b.Title, err = expr.CompileTemplate(t.named(a, a.Title), scope); err != nil {
		return nil, err
	}
	if b.Label, err = expr.CompileTemplate(t.named(a, a.Face.Label), scope); err != nil {
		return nil, err
	}
	if a.Face.GlyphOf != "" {
		if b.Glyph, err = expr.CompileTemplate(a.Face.GlyphOf, scope); err != nil {
			return nil, &Problem{"/face/glyphOf", err.Error()}
		}
	}
	if b.Where, err = expr.CompileTemplate(a.Face.Where, scope); err != nil {
		return nil, err
	}
	if b.plays, err = expr.CompileTemplate(a.Plays, scope); err != nil {
		return nil, err
	}
	if b.busy, err = expr.CompileTemplate(a.Busy, scope); err != nil {
		return nil, err
	}
	for i, l := range a.Lamps {
		when, err := expr.Compile(l.When, scope)
		if err != nil {
			return nil, part("lamps", i, err)
		}
		b.Lamps = append(b.Lamps, Lamp{When: when, Role: l.Role})
	}
	b.gone = t.goneKeys(a, device, bind)
	return b, t.bindCommand(b, a, scope)
}

// goneKeys lists the readings that say that what the parameters of an action
// choose is gone.
func (t *Type) goneKeys(a *ActionSpec, device string, params map[string]string) (out []reading.Key) {
	vars := map[string]string{}
	for _, p := range a.Params {
		if p.Of != "" {
			vars[p.Of] = params[p.ID]
		}
	}
	for _, p := range a.Params {
		ix := t.Sheet.Index[p.Of]
		if p.Of == "" || ix.Gone == "" {
			continue
		}
		if from, err := parsePattern(ix.Gone); err == nil {
			if path, err := from.fill(vars); err == nil {
				out = append(out, reading.Key{Device: device, Path: path})
			}
		}
	}
	return out
}

// Title is what an action with its parameters is called. It fails as Bind does.
func (t *Type) Title(device, action string, params map[string]string) (*expr.Template, error) {
	a := t.Action(action)
	if a == nil {
		return nil, fmt.Errorf("there is no action %q", action)
	}
	bind, err := t.bindParams(a, params)
	if err != nil {
		return nil, err
	}
	return expr.CompileTemplate(t.named(a, a.Title), a.scope(device, bind))
}

// IsNumber reports whether a parameter is a number, which a hand can turn.
func (p ParamSpec) IsNumber() bool { return p.Type == "int" || p.Type == "float" || p.Type == "db" }

// StartedBy reports whether a gesture can start an action: a turn or a slide
// needs a parameter that it can move, a talk needs an action with two halves, and
// anything else starts what a press starts.
func (a *ActionSpec) StartedBy(gesture string) bool {
	if slices.Contains(a.Suits, gesture) {
		return true
	}
	switch gesture {
	case "push-turn":
		return slices.Contains(a.Suits, "turn") || slices.ContainsFunc(a.Params, ParamSpec.IsNumber)
	case "turn", "slide":
		return slices.ContainsFunc(a.Params, ParamSpec.IsNumber)
	case "talk":
		return len(a.Instead) >= 2
	}
	return slices.Contains(a.Suits, "press")
}

// LabelWithout is the label of a bound action without a parameter that is not
// fixed, since a hand moves it: what comes before it, or the whole label where
// nothing does.
func (t *Type) LabelWithout(b *Bound, param string) *expr.Template {
	head, _, _ := strings.Cut(b.Action.Face.Label, "{"+param)
	if head = strings.TrimSpace(head); head == "" {
		return b.Label
	}
	label, err := expr.CompileTemplate(t.named(b.Action, head), b.Action.scope(b.Device, b.Params))
	if err != nil {
		return b.Label
	}
	return label
}

// scope sorts parameters into values and texts with expressions of the show.
func (a *ActionSpec) scope(device string, bind map[string]string) expr.Scope {
	scope := expr.Scope{Device: device, Bind: map[string]string{}, Texts: map[string]string{}}
	for _, p := range a.Params {
		if v := bind[p.ID]; p.isText() && strings.ContainsAny(v, "{}") {
			scope.Texts[p.ID] = v
		} else {
			scope.Bind[p.ID] = v
		}
	}
	return scope
}

// part says which part of an action an error belongs to.
func part(list string, i int, err error) error {
	return &Problem{fmt.Sprintf("/%s/%d", list, i), err.Error()}
}

func (t *Type) bindCommand(b *Bound, a *ActionSpec, scope expr.Scope) error {
	for i, spec := range a.Send {
		p, err := t.compileMessage(spec, scope)
		if err != nil {
			return part("send", i, err)
		}
		b.sends = append(b.sends, p)
	}
	for i, spec := range a.Effects {
		e, err := t.bindEffect(b.Device, spec, scope, len(a.Send) == 0)
		if err != nil {
			return part("effects", i, err)
		}
		b.effects = append(b.effects, e)
		b.affects = append(b.affects, e.key)
	}
	for i, spec := range a.Needs {
		when, err := expr.Compile(spec.When, scope)
		if err != nil {
			return part("needs", i, err)
		}
		say, err := expr.CompileTemplate(spec.Say, scope)
		if err != nil {
			return part("needs", i, err)
		}
		b.needs = append(b.needs, boundNeed{when, say})
	}
	return nil
}

func (t *Type) bindEffect(device string, spec EffectSpec, scope expr.Scope, derive bool) (e boundEffect, err error) {
	p, err := parsePattern(spec.Set)
	if err != nil {
		return e, err
	}
	path, err := p.fill(scope.Bind)
	if err != nil {
		return e, err
	}
	if e.def = t.Reading(path); e.def == nil {
		return e, fmt.Errorf("there is no reading %q", spec.Set)
	}
	e.key = reading.Key{Device: device, Path: path}
	if e.to, err = expr.Compile(spec.To, scope); err != nil {
		return e, err
	}
	if e.after, err = expr.CompileTemplate(spec.After, scope); err != nil {
		return e, err
	}
	if spec.Grace != "" {
		if e.grace, err = plainDuration(spec.Grace); err != nil {
			return e, err
		}
	}
	if e.over, err = expr.CompileTemplate(spec.Over, scope); err != nil || !derive {
		return e, err
	}
	vars, _ := e.def.path.match(path)
	if e.set, err = t.setter(e.def, vars); err == nil && e.set == nil {
		err = fmt.Errorf("nothing says how %s is set: give the action a send, or the reading a set", spec.Set)
	}
	return e, err
}

func withArticle(noun string) string {
	if noun != "" && strings.ContainsRune("aeiou", rune(noun[0])) {
		return "an " + noun
	}
	return "a " + noun
}

// named lets {input} in a title stand for the name of the input that was
// chosen, where the device names its inputs.
func (t *Type) named(a *ActionSpec, text string) string {
	for _, p := range a.Params {
		if ix := t.Sheet.Index[p.Of]; ix.From != "" {
			text = strings.ReplaceAll(text, "{"+p.ID+"}", "{name("+nameExpression(ix.From, p.ID, p.Of, a)+")}")
		}
	}
	return text
}

// nameExpression is the expression of the path that an index value is named
// under. Other indexes before it are parameters of the action of that index.
func nameExpression(from, param, index string, a *ActionSpec) string {
	var parts []string
	for _, s := range strings.Split(strings.TrimSuffix(from, "/name"), "/") {
		n, isVar := placeholder(s)
		switch {
		case !isVar:
			parts = append(parts, "'"+s+"'")
		case n == index:
			parts = append(parts, param)
		default:
			by := n
			for _, p := range a.Params {
				if p.Of == n {
					by = p.ID
				}
			}
			parts = append(parts, by)
		}
	}
	return strings.Join(parts, "+'/'+")
}
