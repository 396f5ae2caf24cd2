package device

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Report is a reading that a message brought.
type Report struct {
	Path  string
	Value reading.Value
}

// Match finds what a message reports. ok is false when no reading has its
// address; err says why a known address carries nonsense.
func (t *Type) Match(m Message) (r Report, ok bool, err error) {
	def := t.byWire.find(m.Address)
	if def == nil {
		return Report{}, false, nil
	}
	if len(m.Args) == 0 {
		return Report{}, true, fmt.Errorf("%s came without a value", m.Address)
	}
	v, err := def.fromWire(m.Args[0])
	if err != nil {
		return Report{}, true, fmt.Errorf("%s: %w", m.Address, err)
	}
	vars, _ := def.address.match(m.Address[1:])
	path, err := def.path.fill(vars)
	if err != nil {
		return Report{}, true, err
	}
	return Report{Path: path, Value: v}, true, nil
}

// Ask is the message that asks for one reading, or false when the device
// cannot be asked.
func (t *Type) Ask(path string) (Message, bool) {
	def := t.Reading(path)
	if t.Sheet.Link.Ask == nil || def == nil {
		return Message{}, false
	}
	vars, _ := def.path.match(path)
	address, err := def.address.fill(vars)
	if err != nil {
		return Message{}, false
	}
	m, err := evalMessage(*t.Sheet.Link.Ask, expr.Scope{Device: "x", Bind: map[string]string{"address": "/" + address}}, expr.Nothing{})
	return m, err == nil
}

// Start lists the messages that open a link.
func (t *Type) Start() []Message {
	var out []Message
	for _, spec := range t.Sheet.Link.Start {
		if m, err := evalMessage(spec, expr.Scope{Device: "x"}, expr.Nothing{}); err == nil {
			out = append(out, m)
		}
	}
	return out
}

func evalMessage(spec MessageSpec, scope expr.Scope, w expr.World) (Message, error) {
	p, err := compileMessage(spec, scope)
	if err != nil {
		return Message{}, err
	}
	return p.eval(w)
}

type messageProgram struct {
	address *expr.Template
	args    []any // *expr.Template, or a constant int or float64
}

func compileMessage(spec MessageSpec, scope expr.Scope) (*messageProgram, error) {
	address, err := expr.CompileTemplate(spec.Address, scope)
	if err != nil {
		return nil, err
	}
	p := &messageProgram{address: address}
	for _, a := range spec.Args {
		switch v := a.(type) {
		case string:
			t, err := expr.CompileTemplate(v, scope)
			if err != nil {
				return nil, err
			}
			p.args = append(p.args, t)
		case float64:
			if v == math.Trunc(v) {
				p.args = append(p.args, int(v))
			} else {
				p.args = append(p.args, v)
			}
		default:
			return nil, fmt.Errorf("%s: an argument is a number or a text", spec.Address)
		}
	}
	return p, nil
}

func (p *messageProgram) constant() bool {
	for _, a := range p.args {
		if t, ok := a.(*expr.Template); ok && !t.Constant() {
			return false
		}
	}
	return p.address.Constant()
}

func (p *messageProgram) eval(w expr.World) (Message, error) {
	address, err := p.address.Eval(w)
	if err != nil {
		return Message{}, err
	}
	m := Message{Address: expr.Text(address)}
	for _, a := range p.args {
		if t, ok := a.(*expr.Template); ok {
			v, err := t.Eval(w)
			if err != nil {
				return Message{}, err
			}
			if v == nil {
				return Message{}, fmt.Errorf("%s has no value yet", t.Source)
			}
			if b, isBool := v.(bool); isBool {
				v = boolInt(b)
			}
			a = v
		}
		m.Args = append(m.Args, a)
	}
	return m, nil
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// WireType is the type of the reading on the wire: int, float or text.
func (r *Reading) WireType() string {
	switch {
	case r.Wire != "":
		return r.Wire
	case r.Type == "bool" || r.Type == "int":
		return "int"
	case r.Type == "float" || r.Type == "db":
		return "float"
	}
	return "text"
}

// fromWire turns an argument of a message into the reading's value.
func (r *Reading) fromWire(arg any) (reading.Value, error) {
	if r.WireType() != "text" {
		n, ok := asNumber(arg)
		if !ok || math.IsNaN(n) {
			return nil, fmt.Errorf("%v is not a number", arg)
		}
		return r.normal(n)
	}
	s, ok := arg.(string)
	if !ok {
		return nil, fmt.Errorf("%v is not a text", arg)
	}
	return r.normal(s)
}

func asNumber(v any) (float64, bool) {
	switch n := v.(type) {
	case int:
		return float64(n), true
	case float64:
		return n, true
	case bool:
		return float64(boolInt(n)), true
	}
	return 0, false
}

// normal gives a value the type that the reading has inside.
func (r *Reading) normal(v any) (reading.Value, error) {
	switch r.Type {
	case "text", "choice":
		text := expr.Text(v)
		if len(r.Options) > 0 && !slices.Contains(r.Options, text) {
			return nil, fmt.Errorf("%q is none of %s", text, strings.Join(r.Options, ", "))
		}
		return text, nil
	}
	n, ok := asNumber(v)
	if s, isText := v.(string); isText {
		var err error
		n, err = strconv.ParseFloat(s, 64)
		ok = err == nil && !math.IsNaN(n)
	}
	if !ok {
		return nil, fmt.Errorf("%v is not a number", v)
	}
	switch {
	case r.Type == "db" && math.IsInf(n, -1):
		return n, nil // silence is below every minimum
	case math.IsInf(n, 0):
		return nil, fmt.Errorf("%v is not a value", v)
	case r.Min != nil && n < *r.Min, r.Max != nil && n > *r.Max:
		return nil, fmt.Errorf("%v is out of range", v)
	case r.Type == "bool":
		return n != 0, nil
	case r.Type == "int":
		return int(n), nil
	}
	return n, nil
}

// toWire turns the reading's value into the argument that sets it.
func (r *Reading) toWire(v reading.Value) (any, error) {
	switch r.WireType() {
	case "text":
		return expr.Text(v), nil
	case "int":
		if s, ok := v.(string); ok {
			n, err := strconv.Atoi(s)
			if err != nil {
				return nil, fmt.Errorf("%q is not a whole number", s)
			}
			return n, nil
		}
		if n, ok := asNumber(v); ok {
			return int(n), nil
		}
	case "float":
		if n, ok := asNumber(v); ok {
			return n, nil
		}
	}
	return nil, fmt.Errorf("%v cannot be sent for %s", v, r.Path)
}

// Outside gives a value as the API shows it: the device's own number where the
// wire carries a whole number, and the text -inf for minus infinity.
func (r *Reading) Outside(v reading.Value) any {
	if f, ok := v.(float64); ok && math.IsInf(f, -1) {
		return "-inf"
	}
	if s, ok := v.(string); ok && r != nil && r.WireType() == "int" {
		if n, err := strconv.Atoi(s); err == nil {
			return n
		}
	}
	return v
}
