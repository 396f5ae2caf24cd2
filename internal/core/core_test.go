package core

import (
	"encoding/json"
	"io"
	"os/exec"
	"strings"
	"testing"
)

// allowed are the packages from outside the standard library that the core may
// use: the expression language, the fonts, and what recurrences mean.
var allowed = []string{"synaptor/internal/core", "github.com/expr-lang/expr", "golang.org/x/image", "github.com/robfig/cron", "golang.org/x/text/unicode/norm"}

// forbidden are packages of the standard library that do I/O or tell the time
// for real.
var forbidden = []string{"os", "os/exec", "net", "net/http", "database/sql", "time/tzdata", "log", "log/slog"}

func TestTheCoreReachesNothingOutside(t *testing.T) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "./...").Output()
	if err != nil {
		t.Fatalf("go list: %v", err)
	}
	d := json.NewDecoder(strings.NewReader(string(out)))
	for {
		var p struct {
			ImportPath string
			Imports    []string
		}
		if err := d.Decode(&p); err == io.EOF {
			return
		} else if err != nil {
			t.Fatal(err)
		}
		for _, imp := range p.Imports {
			if reason := refuse(imp); reason != "" {
				t.Errorf("%s imports %s: %s", p.ImportPath, imp, reason)
			}
		}
	}
}

func refuse(imp string) string {
	for _, f := range forbidden {
		if imp == f {
			return "the core does no I/O"
		}
	}
	first, _, _ := strings.Cut(imp, "/")
	if !strings.Contains(first, ".") && first != "synaptor" {
		return "" // the standard library
	}
	for _, a := range allowed {
		if imp == a || strings.HasPrefix(imp, a+"/") {
			return ""
		}
	}
	return "it is not among the packages the core may use"
}
