package internal

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
)

// What is too long to be read in one go.
const (
	maxFile     = 400 // lines
	maxFunction = 80  // lines
)

func TestNoFileAndNoFunctionIsTooLong(t *testing.T) {
	files := token.NewFileSet()
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
			return err
		}
		f, err := parser.ParseFile(files, path, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		if n := files.Position(f.FileEnd).Line; n > maxFile {
			t.Errorf("%s has %d lines; %d is the most", path, n, maxFile)
		}
		for _, d := range f.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok {
				continue
			}
			if n := files.Position(fn.End()).Line - files.Position(fn.Pos()).Line + 1; n > maxFunction {
				t.Errorf("%s: %s has %d lines; %d is the most", files.Position(fn.Pos()), fn.Name.Name, n, maxFunction)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
