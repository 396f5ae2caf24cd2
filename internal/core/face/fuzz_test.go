package face

import (
	"strings"
	"testing"
	"time"
)

// FuzzFit: a label of any kind is set in time, in few lines, and stays within its bounds.
func FuzzFit(f *testing.F) {
	f.Add("Telescope feed", 90.0, 60.0)
	f.Add(strings.Repeat("w", 500), 20.0, 10.0)
	f.Add("a\n\n\nb\x00\u202e\ufdfa", 1.0, 1.0)
	font, err := NewFont()
	if err != nil {
		f.Fatal(err)
	}
	f.Fuzz(func(t *testing.T, label string, width, height float64) {
		began := time.Now()
		got := font.Fit(label, Box{Width: width, Height: height, Min: 9, Max: 40})
		// A thousand times what it takes: a bound that does not hold is missed by more.
		if took := time.Since(began); took > 5*time.Second {
			t.Fatalf("%q took %v", label, took)
		}
		if len(got.Lines) > maxLines || len([]rune(strings.Join(got.Lines, ""))) > MaxLabel+1+maxLines {
			t.Errorf("%q is set in %d lines, %d bytes", label, len(got.Lines), len(strings.Join(got.Lines, "")))
		}
	})
}
