package device

import (
	"errors"
	"fmt"
	"math"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// messageProgram is a compiled message: what in it stands for expressions is
// worked out when it is sent.
type messageProgram struct {
	verb    string
	address *expr.Template
	args    []any // *expr.Template, or a constant
	body    any   // likewise, in maps and lists
	written *expr.Template
	driver  *Driver
}

func (t *Type) compileMessage(spec MessageSpec, scope expr.Scope) (*messageProgram, error) {
	p := &messageProgram{verb: spec.Verb, driver: t.Driver}
	var err error
	if spec.Written != "" {
		scope.Request = len(t.Driver.Verbs) > 0
		p.written, err = expr.CompileTemplate("{"+spec.Written+"}", scope)
		return p, err
	}
	address := spec.Address
	if spec.Line != "" {
		address = spec.Line
	}
	if address == "" {
		return nil, errors.New("a message needs an address or a line")
	}
	if p.address, err = expr.CompileTemplate(address, scope); err != nil {
		return nil, err
	}
	for _, a := range spec.Args {
		c, err := compileLeaf(a, scope)
		if err != nil {
			return nil, err
		}
		switch c.(type) {
		case *expr.Template, int, float64:
			p.args = append(p.args, c)
		default:
			return nil, fmt.Errorf("%s: an argument is a number or a text", address)
		}
	}
	p.body, err = compileLeaf(spec.Body, scope)
	if verbs := p.driver.Verbs; p.verb == "" && len(verbs) > 0 {
		if p.verb = verbs[0]; spec.Body != nil {
			p.verb = verbs[1]
		}
	}
	return p, err
}

// compileLeaf compiles the texts in a value of JSON.
func compileLeaf(v any, scope expr.Scope) (any, error) {
	switch x := v.(type) {
	case string:
		return expr.CompileTemplate(x, scope)
	case float64:
		if x == math.Trunc(x) && math.Abs(x) < 1<<53 {
			return int(x), nil
		}
	case map[string]any:
		out := make(map[string]any, len(x))
		for k, inner := range x {
			c, err := compileLeaf(inner, scope)
			if err != nil {
				return nil, err
			}
			out[k] = c
		}
		return out, nil
	case []any:
		out := make([]any, len(x))
		for i, inner := range x {
			c, err := compileLeaf(inner, scope)
			if err != nil {
				return nil, err
			}
			out[i] = c
		}
		return out, nil
	}
	return v, nil
}

// constant reports whether the message is the same whatever the readings are.
func (p *messageProgram) constant() bool {
	return (p.address == nil || p.address.Constant()) && (p.written == nil || p.written.Constant()) && constantLeaf(p.args) && constantLeaf(p.body)
}

func constantLeaf(v any) bool {
	switch x := v.(type) {
	case *expr.Template:
		return x.Constant()
	case map[string]any:
		for _, inner := range x {
			if !constantLeaf(inner) {
				return false
			}
		}
	case []any:
		for _, inner := range x {
			if !constantLeaf(inner) {
				return false
			}
		}
	}
	return true
}

// deps lists the readings that the message depends on; each may stand there twice.
func (p *messageProgram) deps() (out []reading.Key) {
	for _, t := range []*expr.Template{p.address, p.written} {
		if t != nil {
			out = append(out, t.Deps()...)
		}
	}
	var in func(v any)
	in = func(v any) {
		switch v := v.(type) {
		case *expr.Template:
			out = append(out, v.Deps()...)
		case map[string]any:
			for _, o := range v {
				in(o)
			}
		case []any:
			for _, o := range v {
				in(o)
			}
		}
	}
	in(p.args)
	in(p.body)
	return out
}

// eval gives the message as things stand; value is what it sets, if anything.
func (p *messageProgram) eval(w expr.World, value any) (Message, error) {
	if p.written != nil {
		text, err := p.written.Eval(w)
		if err != nil {
			return Message{}, err
		}
		return Parse(p.driver.Name, expr.Text(text))
	}
	address, err := p.address.Put(w, value, p.driver.inAddress)
	if err != nil {
		return Message{}, err
	}
	m := Message{Verb: p.verb, Address: address}
	for _, a := range p.args {
		v, err := evalLeaf(a, w, value)
		if err != nil {
			return Message{}, err
		}
		if b, isBool := v.(bool); isBool {
			v = boolInt(b)
		}
		m.Args = append(m.Args, v)
	}
	m.Body, err = evalLeaf(p.body, w, value)
	return m, err
}

func evalLeaf(v any, w expr.World, value any) (any, error) {
	switch x := v.(type) {
	case *expr.Template:
		out, err := x.EvalWith(w, value)
		if err == nil && out == nil {
			err = fmt.Errorf("%s has no value yet", x.Source)
		}
		return out, err
	case map[string]any:
		out := make(map[string]any, len(x))
		for k, inner := range x {
			e, err := evalLeaf(inner, w, value)
			if err != nil {
				return nil, err
			}
			out[k] = e
		}
		return out, nil
	case []any:
		out := make([]any, len(x))
		for i, inner := range x {
			e, err := evalLeaf(inner, w, value)
			if err != nil {
				return nil, err
			}
			out[i] = e
		}
		return out, nil
	}
	return v, nil
}

// Ask is the message that asks for one reading, or false when the device
// cannot be asked.
func (t *Type) Ask(path string) (Message, bool) {
	def := t.Reading(path)
	if t.Sheet.Link.Ask == nil || def == nil {
		return Message{}, false
	}
	vars, _ := def.path.match(path)
	p, err := t.compileMessage(*t.Sheet.Link.Ask, t.readingScope(def, vars))
	if err != nil {
		return Message{}, false
	}
	m, err := p.eval(expr.Nothing{}, nil)
	return m, err == nil
}

// Start lists the messages that open a link.
func (t *Type) Start() []Message {
	var out []Message
	for _, p := range t.start {
		if m, err := p.eval(expr.Nothing{}, nil); err == nil {
			out = append(out, m)
		}
	}
	return out
}

// readingScope binds what a message about one reading may use: its indexes, its
// path and its address.
func (t *Type) readingScope(def *Reading, vars map[string]string) expr.Scope {
	bind := map[string]string{}
	for n, v := range vars {
		bind[n] = v
	}
	bind["path"], _ = def.path.fill(vars)
	address := def.path
	if def.address.source != "" {
		address = def.address
	}
	encoded := map[string]string{}
	for n, v := range vars {
		encoded[n] = t.Driver.inAddress(n, "", v)
	}
	bind["address"], _ = address.fill(encoded)
	bind["address"] = t.Driver.slash() + bind["address"]
	return expr.Scope{Device: "x", Bind: bind}
}

// setter compiles the message that sets a reading; nil and no error where none
// is known.
func (t *Type) setter(def *Reading, vars map[string]string) (*messageProgram, error) {
	scope := t.readingScope(def, vars)
	spec := def.Set
	if spec == nil {
		spec = t.Sheet.Link.Set
	}
	if spec == nil {
		spec = t.Driver.Set
	}
	if spec == nil && t.Driver.Carries == Line && len(def.From) > 0 && def.From[0].Line != "" {
		spec = &MessageSpec{Line: def.From[0].Line}
	}
	if spec == nil {
		return nil, nil
	}
	return t.compileMessage(*spec, scope)
}
