package internal

import (
	"encoding/json"
	"errors"
	"io"
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// mayUse says what the packages of the live core may import of Synaptor besides the core
// itself: dependencies point inwards. What is not listed here is free.
var mayUse = map[string][]string{
	"program":    {"sheet"},
	"plan":       {"program"},
	"engine":     {"program", "plan", "link", "access", "journal", "incident"},
	"inspect":    {"background", "program", "plan"},
	"mirror":     {"background", "program", "plan", "inspect", "engine", "link", "feed", "journal", "incident"},
	"link":       {"incident"},
	"store":      {"journal", "incident"},
	"people":     {"access", "store"},
	"journal":    {"incident"},
	"night":      {"program", "journal"},
	"help":       {},
	"sheet":      {},
	"feed":       {},
	"access":     {},
	"incident":   {},
	"background": {},
	"archive":    {"program", "plan", "sheet"},
	"edit":       {"background", "program", "plan", "engine", "mirror", "sheet", "store", "feed", "media", "incident"},
	"shows":      {"archive", "edit", "engine", "mirror", "store", "journal"},
	"attach":     {"access", "program", "engine", "mirror", "feed", "journal", "incident", "link", "sheet", "paint", "wire"},
	"paint":      {},
	"wire":       {},
	"bridge":     {"wire", "incident"},
	"board":      {"wire"},
	"terminal":   {"board", "wire"},
}

func TestDependenciesPointInwards(t *testing.T) {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "./...").Output()
	if err != nil {
		t.Fatalf("go list: %v", err)
	}
	seen := map[string]bool{}
	for d := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p struct {
			ImportPath string
			Imports    []string
		}
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			t.Fatal(err)
		}
		from := room(p.ImportPath)
		may, listed := mayUse[from]
		if !listed || strings.HasSuffix(p.ImportPath, "test") {
			continue
		}
		seen[from] = true
		for _, imp := range p.Imports {
			to := room(imp)
			if to != "" && to != "core" && to != from && !slices.Contains(may, to) {
				t.Errorf("%s imports %s", p.ImportPath, imp)
			}
		}
	}
	for from := range mayUse {
		if !seen[from] {
			t.Errorf("there is no package %s any more", from)
		}
	}
}

// room is the first folder below internal that an import path is in; "" for others.
func room(path string) string {
	rest, in := strings.CutPrefix(path, "synaptor/internal/")
	if !in {
		return ""
	}
	room, _, _ := strings.Cut(rest, "/")
	return room
}
