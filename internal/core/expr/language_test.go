package expr

import (
	"fmt"
	"os"
	"strings"
	"testing"
)

func TestWhatCouldCostTooMuchIsNoExpression(t *testing.T) {
	sum := func(n int, what string) string { return strings.TrimSuffix(strings.Repeat(what+" + ", n), " + ") }
	for source, why := range map[string]string{
		"len(reduce(1..40, #acc + #acc, 'x'))":         "there is no function reduce",
		"count(1..999000, count(1..999000, true) > 0)": "there is no function count",
		"1..999000":                         "a range is no part",
		"len(1..999000)":                    "a range is no part",
		"4 in 1..999000":                    "a range is no part",
		"map([1, 2], # + 1)":                "there is no function map",
		"let x = 'a'; x + x":                "naming a value is no part",
		"'a'; 'b'":                          "naming a value is no part",
		"{'a': 1}":                          "a list with names is no part",
		"'abc'[0:2]":                        "cutting a text or a list is no part",
		"repeat('x', 1000000)":              "there is no function repeat",
		"replace('aaa', 'a', 'aaaaaaaaaa')": "there is no function replace",
		"join(split('a b', ' '), 'long')":   "there is no function join",
		"'aaaaaaaaaaaaaaaaaaaaaaaa!' matches '(a+)+$'": "matches is no part",
		"9 ** 9 ** 9":                 "** is no part",
		"now()":                       "there is no function now",
		"toJSON(event)":               "there is no function toJSON",
		"event.text.field()":          "only functions can be called",
		"1 in [" + sum(51, "1") + "]": "",
		"1 in [" + strings.Repeat("1, ", 50) + "1]":           "a list has at most 50 values",
		sum(20, "reading('sw:a')"):                            "a text of it can become",
		sum(9, "upper("+sum(3, "text(value)")+")") + " == ''": "a text of it can become",
	} {
		_, err := Compile(source, Scope{Device: "sw"})
		if (why == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), why) {
			t.Errorf("%s: %v, want %q", source, err, why)
		}
	}
}

// TestAnExpressionCostsNoMoreThanIsSaid takes what looks at the most that is allowed.
func TestAnExpressionCostsNoMoreThanIsSaid(t *testing.T) {
	one := "upper(lower(trim(reading('sw:long') + reading('sw:long') + reading('sw:long'))))"
	p, err := Compile(strings.TrimSuffix(strings.Repeat("len("+one+") + ", 7), " + "), Scope{Device: "sw"})
	if err != nil {
		t.Fatal(err)
	}
	w := world{}
	for k, v := range dome {
		w[k] = v
	}
	r := dome["sw:input/2/name"]
	r.Value = strings.Repeat("x", longestReading)
	w["sw:long"] = r
	if got, err := p.Eval(w); err != nil || got != 7*3*longestReading {
		t.Errorf("it is %v (%v)", got, err)
	}
	if _, err := Compile(strings.TrimSuffix(strings.Repeat("len("+one+") + ", 20), " + "), Scope{Device: "sw"}); err == nil || !strings.Contains(err.Error(), "too much work") {
		t.Errorf("twenty of them: %v", err)
	}
}

// TestTheDocumentHasTheLanguage makes docs/expressions.md from the lists; with UPDATE=1 it writes it.
func TestTheDocumentHasTheLanguage(t *testing.T) {
	const path = "../../../docs/expressions.md"
	var b strings.Builder
	b.WriteString("# Expressions\n\nConditions, and what stands between { and } in labels and messages. The language is what is listed here; what an expression costs\n" +
		"is known before it runs, and one that could cost more is refused with a sentence. (Made from `internal/core/expr/language.go` by its test.)\n")
	for _, part := range []struct {
		title, first, second string
		rows                 []Entry
	}{{"Functions", "write", "gives", Functions}, {"Operators", "write", "for", Operators}, {"Limits", "at most", "of", Limits}} {
		fmt.Fprintf(&b, "\n## %s\n\n| %s | %s |\n|---|---|\n", part.title, part.first, part.second)
		for _, r := range part.rows {
			write := "`" + strings.ReplaceAll(r.Write, "|", "\\|") + "`"
			if part.title == "Limits" {
				write = r.Write
			}
			fmt.Fprintf(&b, "| %s | %s |\n", write, r.Means)
		}
	}
	if os.Getenv("UPDATE") != "" {
		if err := os.WriteFile(path, []byte(b.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	got, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if string(got) != b.String() {
		t.Error("docs/expressions.md is not what the language is; UPDATE=1 go test ./internal/core/expr writes it")
	}
	for _, f := range Functions {
		name, _, _ := strings.Cut(f.Write, "(")
		args := map[string]string{"reading": "'a'", "expected": "'a'", "quality": "'a'", "name": "'a'", "min": "1, 2", "max": "1, 2", "split": "'a b', ' '", "len": "'a'",
			"upper": "'a'", "lower": "'a'", "trim": "'a'"}[name]
		if args == "" {
			args = "1"
		}
		if _, err := Compile(name+"("+args+")", Scope{Device: "sw"}); err != nil {
			t.Errorf("the documented function %s: %v", name, err)
		}
	}
}
