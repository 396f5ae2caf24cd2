package internal

import (
	"fmt"
	"go/ast"
	"go/constant"
	"go/token"
	"go/types"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"golang.org/x/tools/go/packages"
)

// topics are what limits are about, by package, in the order of the document.
var topics = []struct{ title, pkg string }{
	{"A show", "core/show"}, {"Macros", "core/macro"}, {"Expressions", "core/expr"}, {"Faces", "core/face"}, {"Pictures", "media"}, {"Pages", "core/input"},
	{"Search", "core/find"}, {"Sheets", "sheet"}, {"What sheets say and devices report", "core/device"}, {"Readings", "core/reading"}, {"Links", "link"},
	{"OSC", "link/osc"}, {"Text lines", "link/lines"}, {"JSON-RPC", "link/jsonrpc"}, {"HTTP devices", "link/httpdev"}, {"MQTT", "link/mqtt"}, {"The engine", "engine"},
	{"Findings", "mirror"}, {"Edits", "edit"}, {"Shows", "shows"}, {"The data folder", "store"}, {"The journal", "journal"}, {"Markers", "core/markers"}, {"Nights", "night"}, {"Archives", "archive"}, {"Inputs and live clients", "attach"}, {"Bridges", "attach/bridges"}, {"Hands", "attach/hands"}, {"People", "people"}, {"Addresses", "doors"}, {"Certificates", "certs"}, {"What announces itself", "announce"}, {"Rights", "access"}, {"What hands say", "core/hands"}, {"MIDI", "core/midi"}, {"Reflexes", "core/reflex"}, {"What a reflex would have done", "plan"}, {"Hardware of all kinds", "attach/hardware"}, {"The wire", "wire"}, {"The reference bridge", "bridge"}, {"Simulated boards", "board"}, {"Painted faces", "paint"}, {"The API", "web"},
}

// bounding are names of constants that have to be in the document.
var bounding = regexp.MustCompile(`^[mM]ax[A-Z]|Limit$`)

// limit is a constant with its //limit: line: a unit, what it bounds, and where that is said.
type limit struct{ most, what, said string }

// TestTheDocumentHasEveryLimit makes docs/limits.md from the constants; with UPDATE=1 it writes it.
func TestTheDocumentHasEveryLimit(t *testing.T) {
	const path = "../docs/limits.md"
	var b strings.Builder
	b.WriteString("# Limits\n\nWhat comes from outside, and what grows, has a most. This is all of them: what is bounded, how much it may be, and where somebody is told.\n" +
		"(Made from the `//limit:` lines of the constants by `internal/limits_test.go`.)\n")
	found := limits(t)
	for _, topic := range topics {
		list := found[topic.pkg]
		if delete(found, topic.pkg); len(list) == 0 {
			t.Errorf("%s has no limit any more", topic.pkg)
			continue
		}
		fmt.Fprintf(&b, "\n## %s\n\n| what | at most | where it is said |\n|---|---|---|\n", topic.title)
		for _, l := range list {
			fmt.Fprintf(&b, "| %s | %s | %s |\n", l.what, l.most, l.said)
		}
	}
	for pkg := range found {
		t.Errorf("%s has limits, and no title in the document", pkg)
	}
	if os.Getenv("UPDATE") != "" {
		if err := os.WriteFile(path, []byte(b.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := os.ReadFile(path); err != nil || string(got) != b.String() {
		t.Errorf("docs/limits.md is not what the constants are (%v); UPDATE=1 go test ./internal writes it", err)
	}
}

// limits finds the limits of each package, in the order of its files.
func limits(t *testing.T) map[string][]limit {
	t.Helper()
	loaded, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedImports}, "./...")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]limit{}
	for _, p := range loaded {
		name := strings.TrimPrefix(p.PkgPath, "synaptor/internal/")
		if strings.HasPrefix(name, "bench") {
			continue
		}
		for _, err := range p.Errors {
			t.Errorf("%s: %v", name, err)
		}
		for _, decl := range constants(p.Syntax) {
			for _, s := range decl.Specs {
				spec := s.(*ast.ValueSpec)
				l, is := limitOf(spec, decl, p.Types)
				switch id := spec.Names[0].Name; {
				case is && l.most == "":
					t.Errorf("%s: the limit of %s cannot be read", p.Fset.Position(spec.Pos()), id)
				case is:
					out[name] = append(out[name], l)
				case bounding.MatchString(id):
					t.Errorf("%s: %s bounds something, and has no //limit: line for docs/limits.md", p.Fset.Position(spec.Pos()), id)
				}
			}
		}
	}
	return out
}

// constants lists the declarations of constants in files, also those within functions.
func constants(files []*ast.File) (out []*ast.GenDecl) {
	for _, f := range files {
		ast.Inspect(f, func(n ast.Node) bool {
			if decl, ok := n.(*ast.GenDecl); ok && decl.Tok == token.CONST {
				out = append(out, decl)
			}
			return true
		})
	}
	return out
}

// limitOf reads the //limit: line of a constant.
func limitOf(spec *ast.ValueSpec, decl *ast.GenDecl, pkg *types.Package) (l limit, is bool) {
	doc := spec.Doc
	if doc == nil && len(decl.Specs) == 1 {
		doc = decl.Doc
	}
	if doc == nil {
		return l, false
	}
	for _, line := range doc.List {
		text, found := strings.CutPrefix(line.Text, "//limit:")
		if !found {
			continue
		}
		unit, rest, _ := strings.Cut(text, " ")
		l.what, l.said, _ = strings.Cut(rest, " | ")
		c, ok := pkg.Scope().Lookup(spec.Names[0].Name).(*types.Const)
		if ok && l.what != "" && l.said != "" {
			l.most = measure(c, unit)
		}
		return l, true
	}
	return l, false
}

// measure gives a constant as a person reads it.
func measure(c *types.Const, unit string) string {
	n, ok := constant.Int64Val(constant.ToInt(c.Val()))
	switch {
	case !ok:
		return ""
	case c.Type().String() == "time.Duration":
		return time.Duration(n).String()
	case unit == "bytes" && n >= 1<<20 && n%(1<<20) == 0:
		return fmt.Sprintf("%d MB", n>>20)
	case unit == "bytes" && n >= 1<<10 && n%(1<<10) == 0:
		return fmt.Sprintf("%d kB", n>>10)
	case unit == "pixels" && n >= 1<<20:
		return fmt.Sprintf("%d million pixels", n>>20)
	case unit != "count":
		return grouped(n) + " " + unit
	}
	return grouped(n)
}

// grouped writes a number with commas.
func grouped(n int64) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}
