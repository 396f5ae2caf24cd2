package internal

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestTheSecurityTableNamesTestsThatThereAre, so that what it promises is held.
func TestTheSecurityTableNamesTestsThatThereAre(t *testing.T) {
	doc, err := os.ReadFile("../docs/security.md")
	if err != nil {
		t.Fatal(err)
	}
	var all strings.Builder
	for _, root := range []string{".", "../test"} {
		err := filepath.WalkDir(root, func(path string, _ os.DirEntry, err error) error {
			if err == nil && strings.HasSuffix(path, "_test.go") {
				var body []byte
				if body, err = os.ReadFile(path); err == nil {
					all.Write(body)
				}
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	named := regexp.MustCompile("`(Test\\w+)`").FindAllStringSubmatch(string(doc), -1)
	if len(named) < 20 {
		t.Fatalf("it names %d tests", len(named))
	}
	for _, n := range named {
		if !strings.Contains(all.String(), "func "+n[1]+"(t *testing.T)") {
			t.Errorf("there is no %s", n[1])
		}
	}
}
