package expr

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/expr-lang/expr/ast"

	"synaptor/internal/core/reading"
)

// Sentence is a condition that can be said in a few words: a reading, how it
// compares, and with what.
type Sentence struct {
	Reading string `json:"reading"` // device:path; or event:field
	Is      string `json:"is"`      // see Comparisons
	Value   any    `json:"value"`   // text, number or true and false
	// Or begins an alternative; else it must hold together with the one before.
	Or bool `json:"or,omitempty"`
}

// Condition writes sentences as one expression of a show: those of at least one
// alternative must all hold.
func Condition(list []Sentence) (string, error) {
	var b strings.Builder
	for i, s := range list {
		source, err := s.Source()
		switch {
		case err != nil:
			return "", err
		case i > 0 && s.Or:
			b.WriteString(" or ")
		case i > 0:
			b.WriteString(" and ")
		}
		b.WriteString(source)
	}
	return b.String(), nil
}

// Comparisons are the ways in which a sentence compares.
var Comparisons = []string{"==", "!=", "<", "<=", ">", ">=", "contains", "startsWith"}

// OfEvent is the device of sentences about what an event brings along.
const OfEvent = "event"

// TypedField is the field of an event that brings a text which is typed when a control is pressed; Typed is how a text parameter names it.
const (
	TypedField = "typed"
	Typed      = OfEvent + "." + TypedField
)

// eventField is what a field of an event can be called.
var eventField = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_]{0,39}$`)

// Source writes the sentence as an expression of a show.
func (s Sentence) Source() (string, error) {
	if !slices.Contains(Comparisons, s.Is) {
		return "", fmt.Errorf("%q compares nothing", s.Is)
	}
	device, path, ok := strings.Cut(s.Reading, ":")
	if !ok || device == "" || path == "" || device == OfEvent && !eventField.MatchString(path) {
		return "", fmt.Errorf("%q names no reading", s.Reading)
	}
	var value string
	switch v := s.Value.(type) {
	case string:
		value = strconv.Quote(v)
	case bool:
		value = strconv.FormatBool(v)
	case float64:
		value = strconv.FormatFloat(v, 'f', -1, 64)
	case int:
		value = strconv.Itoa(v)
	default:
		return "", fmt.Errorf("%v is no value to compare with", s.Value)
	}
	if device == OfEvent {
		return fmt.Sprintf("event.%s %s %s", path, s.Is, value), nil
	}
	return fmt.Sprintf("reading(%s) %s %s", strconv.Quote(s.Reading), s.Is, value), nil
}

// Sentences writes an expression as sentences: alternatives whose sentences must
// all hold. ok is false where it says more than sentences can.
func (p *Program) Sentences() (out []Sentence, ok bool) { return sentences(p.vm.Node()) }

// Absolute writes the expression as one of a show: with its parameters bound and
// the device of every path named.
func (p *Program) Absolute() string { return p.vm.Node().String() }

func sentences(n ast.Node) ([]Sentence, bool) {
	switch b := n.(type) {
	case *ast.CallNode:
		key, ok := readingOf(n)
		return []Sentence{{Reading: key, Is: "==", Value: true}}, ok
	case *ast.BinaryNode:
		switch b.Operator {
		case "and", "&&", "or", "||":
			l, ok1 := sentences(b.Left)
			r, ok2 := sentences(b.Right)
			if !ok1 || !ok2 {
				return nil, false
			}
			either := b.Operator == "or" || b.Operator == "||"
			r[0].Or = either
			all := append(l, r...)
			return all, either || !slices.ContainsFunc(all, func(s Sentence) bool { return s.Or })
		}
		key, ok := readingOf(b.Left)
		value, plain := constant(b.Right)
		if !ok || !plain || !slices.Contains(Comparisons, b.Operator) {
			return nil, false
		}
		return []Sentence{{Reading: key, Is: b.Operator, Value: value}}, true
	}
	return nil, false
}

// readingOf gives the reading that a node asks for, or the field of the event.
func readingOf(n ast.Node) (string, bool) {
	if m, ok := n.(*ast.MemberNode); ok {
		of, isName := m.Node.(*ast.IdentifierNode)
		field, isText := m.Property.(*ast.StringNode)
		if isName && isText && of.Value == OfEvent {
			return OfEvent + ":" + field.Value, true
		}
	}
	c, ok := n.(*ast.CallNode)
	if !ok || len(c.Arguments) != 1 {
		return "", false
	}
	callee, ok := c.Callee.(*ast.IdentifierNode)
	arg, text := c.Arguments[0].(*ast.StringNode)
	if !ok || !text || callee.Value != "reading" {
		return "", false
	}
	return arg.Value, true
}

func constant(n ast.Node) (any, bool) {
	switch c := n.(type) {
	case *ast.StringNode:
		return c.Value, true
	case *ast.BoolNode:
		return c.Value, true
	case *ast.IntegerNode:
		return float64(c.Value), true
	case *ast.FloatNode:
		return c.Value, true
	case *ast.UnaryNode:
		v, ok := constant(c.Node)
		f, number := v.(float64)
		return -f, ok && number && c.Operator == "-"
	}
	return nil, false
}

// isWords are the comparisons as a person says them.
var isWords = map[string]string{"==": "is", "!=": "is not", "<": "is below", "<=": "is at most", ">": "is above", ">=": "is at least", "contains": "contains", "startsWith": "begins with"}

// So says that what is called as a sentence itself, such as Imke is muted, is so or is not; ok is false where it is called otherwise.
func So(title string, is bool) (said string, ok bool) {
	before, after, ok := strings.Cut(title, " is ")
	if ok && !is {
		return before + " is not " + after, true
	}
	return title, ok
}

// saidOf says a sentence.
func saidOf(title string, s Sentence, word string) string {
	if is, isBool := s.Value.(bool); isBool && (s.Is == "==" || s.Is == "!=") {
		if said, ok := So(title, is == (s.Is == "==")); ok {
			return said
		}
	}
	return title + " " + isWords[s.Is] + " " + word
}

// InWords says sentences as a person would. title names a reading, word a value of it.
func InWords(list []Sentence, title func(reading.Key) string, word func(reading.Key, reading.Value) string) string {
	var b strings.Builder
	for i, s := range list {
		switch {
		case i > 0 && s.Or:
			b.WriteString(" or ")
		case i > 0:
			b.WriteString(" and ")
		}
		device, path, _ := strings.Cut(s.Reading, ":")
		k := reading.Key{Device: device, Path: path}
		b.WriteString(saidOf(title(k), s, word(k, s.Value)))
	}
	return b.String()
}
