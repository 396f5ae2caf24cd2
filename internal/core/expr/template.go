package expr

import (
	"fmt"
	"strings"

	"synaptor/internal/core/reading"
)

// Template is text with {…} expressions. A template that is a single {…} keeps
// the type of its value.
type Template struct {
	Source string
	parts  []part
}

type part struct {
	text string
	expr *Program // nil: text
}

// CompileTemplate checks a template. Braces cannot be nested; {{ and }} stand
// for braces themselves.
func CompileTemplate(source string, scope Scope) (*Template, error) {
	t := &Template{Source: source}
	var text strings.Builder
	flush := func() {
		if text.Len() > 0 {
			t.parts = append(t.parts, part{text: text.String()})
			text.Reset()
		}
	}
	for i := 0; i < len(source); i++ {
		switch {
		case strings.HasPrefix(source[i:], "{{"), strings.HasPrefix(source[i:], "}}"):
			text.WriteByte(source[i])
			i++
		case source[i] == '{':
			end := strings.IndexByte(source[i:], '}')
			if end < 0 {
				return nil, fmt.Errorf("%q has a { without its }", source)
			}
			p, err := Compile(source[i+1:i+end], scope)
			if err != nil {
				return nil, err
			}
			flush()
			t.parts = append(t.parts, part{expr: p})
			i += end
		case source[i] == '}':
			return nil, fmt.Errorf("%q has a } without its {", source)
		default:
			text.WriteByte(source[i])
		}
	}
	flush()
	return t, nil
}

// Deps lists the readings the template depends on.
func (t *Template) Deps() []reading.Key {
	var deps []reading.Key
	for _, p := range t.parts {
		if p.expr != nil {
			deps = append(deps, p.expr.Deps...)
		}
	}
	return deps
}

// Constant reports whether the template depends on no reading.
func (t *Template) Constant() bool { return len(t.Deps()) == 0 }

// Eval gives the template's value: text, or the value of its only expression.
func (t *Template) Eval(w World) (any, error) {
	if len(t.parts) == 1 && t.parts[0].expr != nil {
		return t.parts[0].expr.Eval(w)
	}
	var b strings.Builder
	for _, p := range t.parts {
		if p.expr == nil {
			b.WriteString(p.text)
			continue
		}
		v, err := p.expr.Eval(w)
		if err != nil {
			return nil, err
		}
		b.WriteString(Text(v))
	}
	return b.String(), nil
}

// Text gives the template's value as text; what cannot be evaluated is shown
// as an ellipsis.
func (t *Template) Text(w World) string {
	v, err := t.Eval(w)
	if err != nil {
		return "…"
	}
	return Text(v)
}

// Nothing is a World that knows no reading, for constant expressions.
type Nothing struct{}

// Reading implements World.
func (Nothing) Reading(reading.Key) reading.Reading {
	return reading.Reading{Quality: reading.Unknown}
}
