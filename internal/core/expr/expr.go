// Package expr is Synaptor's expression language: the expr library with a
// fixed environment and the static analysis that tells which readings an
// expression depends on.
//
// The environment is reading(path), expected(path), quality(path), name(path),
// text(value), event where something has just happened, and value where a message is made or read. Parameters are bound before compiling, so that a path such as
// 'mix/'+mix+'/program' folds to a constant; a path that still does not fold
// is an error, because nothing could tell when to evaluate it again.
package expr

import (
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"

	lib "github.com/expr-lang/expr"
	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/parser"
	"github.com/expr-lang/expr/vm"

	"synaptor/internal/core/reading"
)

// World answers what expressions ask.
type World interface {
	Reading(reading.Key) reading.Reading
}

// Eventful is a World in which an event has just happened: event.* gives what that brings along.
type Eventful interface {
	World
	Event() map[string]any
}

// EventOf is what the event of a world brings along; nil: nothing has happened there.
func EventOf(w World) map[string]any {
	if e, has := w.(Eventful); has {
		return e.Event()
	}
	return nil
}

// Scope says how names and paths of an expression are understood.
type Scope struct {
	// Device is the device that a path without a device belongs to. Empty in
	// expressions of a show, whose paths name their device.
	Device string
	// Bind gives parameters and index values their constant text.
	Bind map[string]string
	// Texts are parameters whose text is itself a template, with the paths of a
	// show: it is worked out where the expression is.
	Texts map[string]string
	// Request says that the texts are requests of HTTP, as they are written by hand: values are encoded where
	// they stand in the address (RFC 3986).
	Request bool
	// Passing says that the values come and go, as those of a dial that is turned: their
	// programs are remembered for a while only.
	Passing bool
}

// Program is a compiled expression. It may be used by several goroutines.
type Program struct {
	Source string
	Deps   []reading.Key // the readings it depends on, each once
	// OfEvent says that it uses event.*, so that its value is another one for each event.
	OfEvent bool
	vm      *vm.Program
	isTrue  bool // the constant true
}

type environment struct {
	Reading  func(string) any    `expr:"reading"`
	Expected func(string) any    `expr:"expected"`
	Quality  func(string) string `expr:"quality"`
	Name     func(string) string `expr:"name"`
	Text     func(any) string    `expr:"text"`
	InPath   func(any) string    `expr:"inPath"`  // only where a text is put in, see Scope.Request
	InQuery  func(any) string    `expr:"inQuery"` // likewise
	Event    map[string]any      `expr:"event"`
	Value    any                 `expr:"value"`
}

// Compile checks an expression and binds its parameters.
func Compile(source string, scope Scope) (*Program, error) {
	if len(source) > maxSource {
		return nil, fmt.Errorf("the expression is longer than %d characters", maxSource)
	}
	key, canKeep := scope.key(source)
	if !canKeep {
		return compile(source, scope)
	}
	if p, ok := compiled.get(key); ok {
		return p, nil
	}
	kept := &compiled
	if scope.Passing {
		if p, ok := passing.get(key); ok {
			return p, nil
		}
		kept = &passing
	}
	p, err := compile(source, scope)
	if err == nil {
		kept.put(key, p)
	}
	return p, err
}

func compile(source string, scope Scope) (*Program, error) {
	if err := check(source, scope.length); err != nil {
		return nil, fmt.Errorf("%s: %w", source, err)
	}
	p := &patcher{scope: scope, deps: map[reading.Key]bool{}}
	prog, err := lib.Compile(source, lib.Env(environment{}), lib.Patch(p), lib.MaxNodes(maxNodes),
		lib.DisableBuiltin("now"), lib.DisableBuiltin("repeat"))
	if p.err != nil {
		return nil, fmt.Errorf("%s: %w", source, p.err)
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", source, firstLine(err))
	}
	deps := slices.SortedFunc(maps.Keys(p.deps), func(a, b reading.Key) int {
		return strings.Compare(a.String(), b.String())
	})
	return &Program{Source: source, Deps: deps, OfEvent: p.ofEvent, vm: prog, isTrue: strings.TrimSpace(source) == "true"}, nil
}

func firstLine(err error) error {
	line, _, _ := strings.Cut(err.Error(), "\n")
	return errors.New(line)
}

// Constant reports whether the expression depends on no reading and on no event.
func (p *Program) Constant() bool { return len(p.Deps) == 0 && !p.OfEvent }

// runner is a machine with its environment, used again and again: making one
// costs more than most expressions do.
type runner struct {
	vm    vm.VM
	world World
	env   environment // its functions ask world
}

var runners = sync.Pool{New: func() any {
	r := &runner{}
	r.env = environment{
		Text:     Text,
		InPath:   func(v any) string { return EscapePath(Text(v)) },
		InQuery:  func(v any) string { return EscapeQuery(Text(v)) },
		Reading:  func(path string) any { return r.world.Reading(key(path)).Value },
		Expected: func(path string) any { return expected(r.world.Reading(key(path))) },
		Quality:  func(path string) string { return string(r.world.Reading(key(path)).Quality) },
		Name:     func(path string) string { return name(r.world, path) },
	}
	return r
}}

// Eval evaluates the expression.
func (p *Program) Eval(w World) (any, error) { return p.EvalWith(w, nil) }

// EvalWith evaluates the expression for a value that is sent or was received.
func (p *Program) EvalWith(w World, value any) (any, error) {
	r := runners.Get().(*runner)
	r.world, r.env.Value = w, value
	r.env.Event = EventOf(w)
	v, err := r.vm.Run(p.vm, &r.env)
	r.world, r.env.Value, r.env.Event = nil, nil, nil
	runners.Put(r)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", p.Source, firstLine(err))
	}
	return v, nil
}

// Holds evaluates a condition. One that cannot be evaluated does not hold.
func (p *Program) Holds(w World) bool {
	if p.isTrue {
		return true
	}
	v, err := p.Eval(w)
	b, ok := v.(bool)
	return err == nil && ok && b
}

func expected(r reading.Reading) any {
	if r.Quality == reading.Pending {
		return r.Expected
	}
	return r.Value
}

// name gives the name that a device gave to something: the reading name below
// the path, or the reading itself, or the last part of the path.
func name(w World, path string) string {
	k := key(path)
	if s, ok := w.Reading(reading.Key{Device: k.Device, Path: k.Path + "/name"}).Value.(string); ok && s != "" {
		return s
	}
	return k.Path[strings.LastIndexByte(k.Path, '/')+1:]
}

func key(path string) reading.Key {
	device, rest, _ := strings.Cut(path, ":")
	return reading.Key{Device: device, Path: rest}
}

// patcher binds parameters, folds paths, names their device and notes what the
// expression depends on.
type patcher struct {
	scope Scope
	deps  map[reading.Key]bool
	// ofEvent says that event was named.
	ofEvent bool
	err     error
}

// Visit implements ast.Visitor; children are visited before their parent.
func (p *patcher) Visit(node *ast.Node) {
	switch n := (*node).(type) {
	case *ast.IdentifierNode:
		p.ofEvent = p.ofEvent || n.Value == "event"
		if v, ok := p.scope.Bind[n.Value]; ok {
			ast.Patch(node, &ast.StringNode{Value: v})
		} else if source, ok := p.scope.Texts[n.Value]; ok {
			p.text(node, source)
		}
	case *ast.BinaryNode:
		l, lok := n.Left.(*ast.StringNode)
		r, rok := n.Right.(*ast.StringNode)
		if n.Operator == "+" && lok && rok {
			ast.Patch(node, &ast.StringNode{Value: l.Value + r.Value})
		}
	case *ast.CallNode:
		if callee, ok := n.Callee.(*ast.IdentifierNode); ok {
			p.call(callee.Value, n)
		}
	}
}

// length is how long the text is that a parameter stands for. One that is a template itself is checked where it is put
// in.
func (s Scope) length(name string) (n int, known bool) {
	if v, ok := s.Bind[name]; ok {
		return len(v), true
	}
	_, ok := s.Texts[name]
	return longestReading, ok
}

// text puts the expression that a template stands for in place of its name.
func (p *patcher) text(node *ast.Node, source string) {
	parts, err := cutLoose(source)
	if err != nil {
		p.err = err
		return
	}
	var sum ast.Node = &ast.StringNode{}
	before := ""
	for _, part := range parts {
		before += part.text
		var n ast.Node = &ast.StringNode{Value: part.text}
		if part.source != "" {
			if err := check(part.source, Scope{}.length); err != nil {
				p.err = err
				return
			}
			tree, err := parser.Parse(part.source)
			if err != nil {
				p.err = firstLine(err)
				return
			}
			inner := &patcher{deps: p.deps}
			ast.Walk(&tree.Node, inner)
			if inner.err != nil {
				p.err = inner.err
				return
			}
			p.ofEvent = p.ofEvent || inner.ofEvent
			n = &ast.CallNode{Callee: &ast.IdentifierNode{Value: p.scope.placed(before)}, Arguments: []ast.Node{tree.Node}}
		}
		sum = &ast.BinaryNode{Operator: "+", Left: sum, Right: n}
	}
	ast.Patch(node, sum)
}

// placed names the function that makes a value a text behind what stands before it.
func (s Scope) placed(before string) string {
	_, address, verb := strings.Cut(strings.TrimLeft(before, " "), " ")
	switch address = strings.TrimLeft(address, " "); {
	case !s.Request || !verb || strings.Contains(address, " "):
		return "text"
	case strings.Contains(address, "?"):
		return "inQuery"
	}
	return "inPath"
}

// EscapePath encodes a text as a part of a path (RFC 3986, 3.3): it stays one part, whatever is in it.
func EscapePath(text string) string {
	if text == "." || text == ".." {
		return strings.ReplaceAll(text, ".", "%2E")
	}
	return url.PathEscape(text)
}

// EscapeQuery encodes a text as a value in a query (RFC 3986, 3.4).
func EscapeQuery(text string) string { return strings.ReplaceAll(url.QueryEscape(text), "+", "%20") }

func (p *patcher) call(fn string, n *ast.CallNode) {
	switch fn {
	case "reading", "expected", "quality", "name":
	default:
		return
	}
	if len(n.Arguments) != 1 {
		return // the checker says so
	}
	arg, ok := n.Arguments[0].(*ast.StringNode)
	if !ok {
		p.err = fmt.Errorf("the path given to %s must be known in advance", fn)
		return
	}
	device, path, qualified := strings.Cut(arg.Value, ":")
	if !qualified {
		device, path = p.scope.Device, arg.Value
	}
	if device == "" || path == "" {
		p.err = fmt.Errorf("%q names no device; write device:path", arg.Value)
		return
	}
	k := reading.Key{Device: device, Path: path}
	n.Arguments[0] = &ast.StringNode{Value: k.String()}
	if fn == "name" {
		k.Path += "/name"
	}
	p.deps[k] = true
}

// Text turns a value into the text that labels and messages show.
func Text(v any) string {
	switch x := v.(type) {
	case nil:
		return ""
	case string:
		return x
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64)
	}
	return fmt.Sprint(v)
}
