package internal

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
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

// TestRawFieldsHaveAReason: ordinary parts are Carbon's, wrapped once in parts/form. A view makes no field itself, and says
// why it makes a button in a comment right before it.
func TestRawFieldsHaveAReason(t *testing.T) {
	raw := regexp.MustCompile(`<(button|input|select|textarea)\b`)
	for _, root := range []string{"../web/src/views", "../web/src/App.svelte"} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".svelte") {
				return err
			}
			source, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			lines := strings.Split(string(source), "\n")
			for i, line := range lines {
				found := raw.FindStringSubmatch(line)
				if found != nil && (found[1] != "button" || i == 0 || !strings.Contains(lines[i-1], "-->")) {
					t.Errorf("%s:%d: %s", path, i+1, strings.TrimSpace(line))
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}
