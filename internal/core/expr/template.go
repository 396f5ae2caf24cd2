package expr

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

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

// piece is a part of a template's source: text, or an expression.
type piece struct {
	text   string
	source string // of the expression; empty: text
	at     int    // the character it starts at, from 1
}

// cutTemplate takes a template apart. Braces cannot be nested; {{ and }} stand
// for braces themselves.
func cutTemplate(source string) ([]piece, error) {
	var out []piece
	var text strings.Builder
	flush := func() {
		if text.Len() > 0 {
			out = append(out, piece{text: text.String()})
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
				return nil, fmt.Errorf("at character %d: a { without its }", character(source, i))
			}
			flush()
			inner := strings.TrimSpace(source[i+1 : i+end])
			if inner == "" {
				return nil, fmt.Errorf("at character %d: an empty {}", character(source, i))
			}
			out = append(out, piece{source: inner, at: character(source, i+1)})
			i += end
		case source[i] == '}':
			return nil, fmt.Errorf("at character %d: a } without its {", character(source, i))
		default:
			text.WriteByte(source[i])
		}
	}
	flush()
	return out, nil
}

// character counts the characters of a text up to a byte, from 1.
func character(source string, at int) int { return utf8.RuneCountInString(source[:at]) + 1 }

// cutLoose is cutTemplate for texts that people write by hand, which may hold
// JSON: a { before a quote or a } stands for itself, and so does a } alone.
func cutLoose(source string) ([]piece, error) {
	var plain strings.Builder
	open := false // inside of an expression
	for i := 0; i < len(source); i++ {
		c := source[i]
		switch {
		case strings.HasPrefix(source[i:], "{{"), strings.HasPrefix(source[i:], "}}") && !open && !strings.HasPrefix(source[i:], "}}}"):
			plain.WriteString(source[i : i+2])
			i++
			continue
		case c == '{' && !open:
			rest := strings.TrimLeft(source[i+1:], " ")
			if rest == "" || rest[0] == '"' || rest[0] == '}' {
				plain.WriteString("{{")
				continue
			}
			open = true
		case c == '}' && !open:
			plain.WriteString("}}")
			continue
		case c == '}':
			open = false
		}
		plain.WriteByte(c)
	}
	return cutTemplate(plain.String())
}

// CompileTemplate checks a template.
func CompileTemplate(source string, scope Scope) (*Template, error) {
	pieces, err := cutTemplate(source)
	if err != nil {
		return nil, err
	}
	t := &Template{Source: source}
	for _, p := range pieces {
		if p.source == "" {
			t.parts = append(t.parts, part{text: p.text})
			continue
		}
		e, err := Compile(p.source, scope)
		if err != nil {
			return nil, fmt.Errorf("at character %d: %w", p.at, err)
		}
		t.parts = append(t.parts, part{expr: e})
	}
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

// Constant reports whether the template depends on no reading and on no event.
func (t *Template) Constant() bool {
	return !slices.ContainsFunc(t.parts, func(p part) bool { return p.expr != nil && !p.expr.Constant() })
}

// Eval gives the template's value: text, or the value of its only expression.
func (t *Template) Eval(w World) (any, error) { return t.EvalWith(w, nil) }

// EvalWith is Eval for a value that is sent.
func (t *Template) EvalWith(w World, value any) (any, error) {
	if len(t.parts) == 1 && t.parts[0].expr != nil {
		return t.parts[0].expr.EvalWith(w, value)
	}
	return t.Put(w, value, func(_, _, value string) string { return value })
}

// Put gives the template's value as text, with each expression's value as put has it stand: source is the
// expression, before what comes before it.
func (t *Template) Put(w World, value any, put func(source, before, value string) string) (string, error) {
	var b strings.Builder
	for _, p := range t.parts {
		if p.expr == nil {
			b.WriteString(p.text)
			continue
		}
		v, err := p.expr.EvalWith(w, value)
		if err != nil {
			return "", err
		}
		b.WriteString(put(p.expr.Source, b.String(), Text(v)))
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
