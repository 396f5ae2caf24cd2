package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

// licences is the text of the licences of all that a build has inside: Go, the modules that the program is linked with, and the packages of the interface.
func (t target) licences() ([]byte, error) {
	var out bytes.Buffer
	out.WriteString("What is inside Synaptor, beside itself, and under which licence.\n")
	if err := t.modules(&out); err != nil {
		return nil, err
	}
	if err := packages(&out, "web"); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// modules writes the licences of the modules that a target is linked with, and of Go itself.
func (t target) modules(out *bytes.Buffer) error {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return err
	}
	if err := licence(out, "Go and its standard library", strings.TrimSpace(string(root))); err != nil {
		return err
	}
	c := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/synaptor")
	c.Env = t.env()
	list, err := c.Output()
	if err != nil {
		return fmt.Errorf("what it is linked with: %w", err)
	}
	lines := strings.Fields(strings.ReplaceAll(strings.ReplaceAll(string(list), " ", "\x00"), "\t", "\x01"))
	slices.Sort(lines)
	for _, line := range slices.Compact(lines) {
		name, dir, _ := strings.Cut(line, "\x01")
		if err := licence(out, strings.ReplaceAll(name, "\x00", " "), dir); err != nil {
			return err
		}
	}
	return nil
}

// imported finds what a source of the interface imports from a package.
var imported = regexp.MustCompile(`(?:from|import)\s*\(?["']((?:@[\w.-]+/)?[\w-][\w.-]*)`)

// packages writes the licences of the packages that the interface is built of: those that its sources import, and what these need.
func packages(out *bytes.Buffer, web string) error {
	var lock struct {
		Packages map[string]struct {
			Version      string
			Dependencies map[string]string
		}
	}
	raw, err := os.ReadFile(filepath.Join(web, "package-lock.json"))
	if err == nil {
		err = json.Unmarshal(raw, &lock)
	}
	if err != nil {
		return err
	}
	inside := map[string]bool{}
	var need func(name string)
	need = func(name string) {
		p, has := lock.Packages["node_modules/"+name]
		if !has || inside[name] || strings.HasPrefix(name, "@types/") {
			return
		}
		inside[name] = true
		for other := range p.Dependencies {
			need(other)
		}
	}
	err = filepath.WalkDir(filepath.Join(web, "src"), func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		source, err := os.ReadFile(path)
		for _, m := range imported.FindAllSubmatch(source, -1) {
			need(string(m[1]))
		}
		return err
	})
	if err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(inside)) {
		dir := filepath.Join(web, "node_modules", name)
		if err := licence(out, name+" "+lock.Packages["node_modules/"+name].Version, dir); err != nil {
			return err
		}
	}
	return nil
}

// licence writes the licence of what lies in a folder; it fails where there is none.
func licence(out *bytes.Buffer, name, dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	found := false
	for _, e := range entries {
		upper := strings.ToUpper(e.Name())
		if e.IsDir() || !slices.ContainsFunc([]string{"LICENSE", "LICENCE", "COPYING", "NOTICE"}, func(s string) bool { return strings.HasPrefix(upper, s) }) {
			continue
		}
		body, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return err
		}
		found = true
		fmt.Fprintf(out, "\n%s\n%s, %s\n\n%s\n", strings.Repeat("=", 80), name, e.Name(), bytes.TrimSpace(body))
	}
	if found {
		return nil
	}
	var about struct{ License string }
	raw, err := os.ReadFile(filepath.Join(dir, "package.json"))
	if err == nil && json.Unmarshal(raw, &about) == nil && about.License != "" {
		fmt.Fprintf(out, "\n%s\n%s\n\n%s, as its package says; it has no text of it.\n", strings.Repeat("=", 80), name, about.License)
		return nil
	}
	return fmt.Errorf("%s has no licence in %s", name, dir)
}
