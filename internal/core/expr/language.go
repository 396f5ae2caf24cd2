package expr

import (
	"fmt"
	"strings"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/parser"
)

// The language is what is listed here, and no more: nothing that goes round, names something or makes a list that is longer
// than what is written. So what an expression costs is known before it runs.
const (
	//limit:count characters of an expression | at the field
	maxSource = 2000 // characters of one expression
	//limit:count parts of an expression | at the field
	maxNodes = 300 // nodes of one expression
	//limit:count values of a list in an expression | at the field
	maxList = 50 // values of a list
	//limit:bytes a text that an expression makes | at the field
	maxText = 20_000 // bytes that a text can become
	//limit:bytes what an expression looks at | at the field
	maxCost = 200_000 // bytes that are looked at, all nodes together

	longestReading = 1024 // bytes of a text that a device reports
	longestNumber  = 32
	longestWord    = 16 // a quality, true and false
)

// Entry is a part of the language, for its documentation.
type Entry struct{ Write, Means string }

// Functions are those that can be called.
var Functions = []Entry{
	{"reading(path)", "what a device reports: `reading('dome-switcher:mix/1/program')`; in a sheet without the device"},
	{"expected(path)", "what it is about to be, while a command is on its way; else what it is"},
	{"quality(path)", "`confirmed`, `pending`, `assumed` or `unknown`"},
	{"name(path)", "what the device calls something: the reading `name` below the path"},
	{"text(value)", "a value as labels show it"},
	{"int(value)", "a whole number, also from a text"},
	{"float(value)", "a number, also from a text"},
	{"abs(number)", "without its sign"},
	{"round(number)", "to the nearest whole number"},
	{"floor(number)", "down to a whole number"},
	{"ceil(number)", "up to a whole number"},
	{"min(a, b, …)", "the least"},
	{"max(a, b, …)", "the most"},
	{"len(text)", "how many characters"},
	{"upper(text)", "in capitals"},
	{"lower(text)", "in small letters"},
	{"trim(text)", "without spaces around it"},
	{"split(text, by)", "its parts, as a list: `split(name('out/1'), ' ')[0]`"},
}

// Operators are those that there are.
var Operators = []Entry{
	{"+ - * / %", "numbers; + joins texts, too"},
	{"== != < <= > >=", "compare"},
	{"and or not", "also written `&&`, `||` and `!`"},
	{"a ? b : c", "b where a holds, else c"},
	{"a ?? b", "b where a is nothing"},
	{"a in [b, c]", "one of a list that is written out"},
	{"contains startsWith endsWith", "of texts"},
	{"x.field x[0]", "a field of an event, a part of a list"},
}

// Limits say how much an expression may be.
var Limits = []Entry{
	{fmt.Sprint(maxSource), "characters of an expression"},
	{fmt.Sprint(maxNodes), "parts of an expression"},
	{fmt.Sprint(maxList), "values of a list"},
	{fmt.Sprint(maxText), "bytes that a text of it can become"},
	{fmt.Sprint(maxCost), "bytes that are looked at to work it out"},
}

var (
	functions = func() map[string]bool {
		out := map[string]bool{}
		for _, f := range Functions {
			name, _, _ := strings.Cut(f.Write, "(")
			out[name] = true
		}
		return out
	}()
	operators = map[string]bool{"+": true, "-": true, "*": true, "/": true, "%": true, "==": true, "!=": true, "<": true, "<=": true, ">": true, ">=": true,
		"and": true, "or": true, "not": true, "&&": true, "||": true, "!": true, "??": true, "in": true, "contains": true, "startsWith": true, "endsWith": true}
)

// check says why an expression is none of the language, or costs too much. bound gives how long the text is that a
// name stands for.
func check(source string, bound func(name string) (length int, known bool)) error {
	tree, err := parser.Parse(source)
	if err != nil {
		return firstLine(err)
	}
	c := &checker{bound: bound}
	c.longest(tree.Node)
	if c.err == nil && c.cost > maxCost {
		c.err = fmt.Errorf("this is too much work: it looks at up to %d bytes; %d is the most", c.cost, maxCost)
	}
	return c.err
}

// checker walks an expression once.
type checker struct {
	bound func(name string) (length int, known bool)
	cost  int
	err   error
}

func (c *checker) no(format string, args ...any) int {
	if c.err == nil {
		c.err = fmt.Errorf(format, args...)
	}
	return 0
}

// longest gives how many bytes the text of a node can have, all that is in it looked at.
func (c *checker) longest(node ast.Node) (n int) {
	if c.err != nil {
		return 0
	}
	defer func() {
		c.cost += n
		if n > maxText {
			c.no("a text of it can become %d bytes long; %d is the most", n, maxText)
		}
	}()
	switch n := node.(type) {
	case *ast.NilNode, *ast.BoolNode:
		return longestWord
	case *ast.IntegerNode, *ast.FloatNode:
		return longestNumber
	case *ast.StringNode:
		return len(n.Value)
	case *ast.IdentifierNode:
		if length, known := c.bound(n.Value); known {
			return length
		}
		return longestReading // value and event; the compiler knows whether it is any other
	case *ast.UnaryNode:
		if !operators[n.Operator] {
			return c.no("%s is no part of expressions", n.Operator)
		}
		return max(longestNumber, c.longest(n.Node))
	case *ast.BinaryNode:
		return c.binary(n)
	case *ast.ConditionalNode:
		c.longest(n.Cond)
		return max(c.longest(n.Exp1), c.longest(n.Exp2))
	case *ast.ChainNode:
		return c.longest(n.Node)
	case *ast.MemberNode:
		c.longest(n.Property)
		return c.longest(n.Node)
	case *ast.ArrayNode:
		if len(n.Nodes) > maxList {
			return c.no("a list has at most %d values", maxList)
		}
		return c.sum(n.Nodes)
	case *ast.CallNode:
		callee, named := n.Callee.(*ast.IdentifierNode)
		if !named {
			return c.no("only functions can be called")
		}
		return c.called(callee.Value, n.Arguments)
	case *ast.BuiltinNode:
		return c.called(n.Name, n.Arguments)
	}
	return c.no("%s is no part of expressions", kindOf(node))
}

// kindOf is what a node is called that is none of the language.
func kindOf(node ast.Node) string {
	switch node.(type) {
	case *ast.PredicateNode, *ast.PointerNode:
		return "going through a list"
	case *ast.VariableDeclaratorNode, *ast.SequenceNode:
		return "naming a value"
	case *ast.SliceNode:
		return "cutting a text or a list"
	case *ast.MapNode, *ast.PairNode:
		return "a list with names"
	}
	return "this"
}

func (c *checker) sum(nodes []ast.Node) (n int) {
	for _, a := range nodes {
		n += c.longest(a)
	}
	return n
}

func (c *checker) binary(n *ast.BinaryNode) int {
	switch {
	case n.Operator == "..":
		return c.no("a range is no part of expressions")
	case !operators[n.Operator]:
		return c.no("%s is no part of expressions", n.Operator)
	}
	l, r := c.longest(n.Left), c.longest(n.Right)
	switch n.Operator {
	case "+":
		return l + r
	case "??":
		return max(l, r)
	}
	return longestNumber
}

func (c *checker) called(name string, args []ast.Node) int {
	if !functions[name] {
		return c.no("there is no function %s", name)
	}
	n := c.sum(args)
	switch name {
	case "reading", "expected", "name":
		return longestReading
	case "quality":
		return longestWord
	case "upper", "lower", "trim", "text", "split":
		return max(n, longestNumber)
	}
	return longestNumber
}
