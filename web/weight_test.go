package web

import (
	"io/fs"
	"path"
	"regexp"
	"testing"
)

// TestWhatThePagesWeigh holds the bounds of what a page fetches, compressed: panels are opened on small computers, over slow networks.
func TestWhatThePagesWeigh(t *testing.T) {
	asset := regexp.MustCompile(`assets/[^"]+\.(js|css)`)
	for _, c := range []struct {
		page          string
		script, style int64 // bytes
	}{
		{"index.html", 250_000, 60_000},
		{"panel.html", 50_000, 10_000},
		{"overlay.html", 15_000, 3_000},
	} {
		html, err := fs.ReadFile(Files(), c.page)
		if err != nil {
			t.Fatal(err)
		}
		weight := map[string]int64{}
		for _, name := range asset.FindAllString(string(html), -1) {
			s, err := fs.Stat(Files(), name+".gz")
			if err != nil {
				t.Fatal(err)
			}
			weight[path.Ext(name)] += s.Size()
		}
		if weight[".js"] == 0 || weight[".js"] > c.script || weight[".css"] == 0 || weight[".css"] > c.style {
			t.Errorf("%s fetches %d bytes of script and %d of style; at most %d and %d", c.page, weight[".js"], weight[".css"], c.script, c.style)
		}
	}
}
