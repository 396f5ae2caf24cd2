package expr

import (
	"github.com/expr-lang/expr/ast"

	"synaptor/internal/core/reading"
)

// Kind is what sort of value an expression has.
type Kind string

// The kinds. Anything is what can be told only when it is worked out.
const (
	Anything Kind = ""
	YesNo    Kind = "true or false"
	Number   Kind = "a number"
	Words    Kind = "a text"
)

// Kind tells what sort of value the expression has, as far as that is known without
// working it out. of tells it of a reading.
func (p *Program) Kind(of func(reading.Key) Kind) Kind { return kindOfValue(p.vm.Node(), of) }

func kindOfValue(node ast.Node, of func(reading.Key) Kind) Kind {
	switch n := node.(type) {
	case *ast.BoolNode:
		return YesNo
	case *ast.IntegerNode, *ast.FloatNode:
		return Number
	case *ast.StringNode:
		return Words
	case *ast.ConstantNode:
		return kindOfConstant(n.Value)
	case *ast.UnaryNode:
		if n.Operator == "not" || n.Operator == "!" {
			return YesNo
		}
		return Number
	case *ast.ChainNode:
		return kindOfValue(n.Node, of)
	case *ast.ConditionalNode:
		return both(kindOfValue(n.Exp1, of), kindOfValue(n.Exp2, of))
	case *ast.BinaryNode:
		return kindOfBinary(n, of)
	case *ast.CallNode:
		if path, ok := readingOf(n); ok {
			return of(key(path))
		}
		if callee, named := n.Callee.(*ast.IdentifierNode); named {
			return results[callee.Value]
		}
	case *ast.BuiltinNode:
		return results[n.Name]
	}
	return Anything
}

// results are what functions give.
var results = map[string]Kind{"quality": Words, "name": Words, "text": Words, "upper": Words, "lower": Words, "trim": Words, "int": Number, "float": Number, "abs": Number,
	"round": Number, "floor": Number, "ceil": Number, "len": Number}

func kindOfBinary(n *ast.BinaryNode, of func(reading.Key) Kind) Kind {
	switch n.Operator {
	case "+", "??":
		return both(kindOfValue(n.Left, of), kindOfValue(n.Right, of))
	case "-", "*", "/", "%":
		return Number
	}
	return YesNo
}

func kindOfConstant(v any) Kind {
	switch v.(type) {
	case bool:
		return YesNo
	case string:
		return Words
	case int, float64:
		return Number
	}
	return Anything
}

func both(a, b Kind) Kind {
	if a != b {
		return Anything
	}
	return a
}
