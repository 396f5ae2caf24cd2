package face

import (
	"slices"
	"strings"
	"sync"
	"testing"
	"unicode/utf8"
)

func TestALabelIsCutBeforeItIsSet(t *testing.T) {
	f := loaded(t)
	b := Box{Width: 66, Height: 38, Min: 11, Max: 18}
	for _, label := range []string{strings.Repeat("x", 100_000), strings.Repeat("a b ", 50_000), strings.Repeat("\n", 100_000) + "x", strings.Repeat("é", 100_000)} {
		got := f.Fit(label, b)
		if !got.Cut && strings.TrimSpace(label[:200]) != "" {
			t.Errorf("a label of %d bytes is not cut: %q", len(label), got.Lines)
		}
		if text := strings.Join(got.Lines, ""); !utf8.ValidString(text) || utf8.RuneCountInString(text) > MaxLabel+1 || len(got.Lines) > 3 {
			t.Errorf("a label of %d bytes is set as %d characters in %d lines", len(label), utf8.RuneCountInString(text), len(got.Lines))
		}
	}
}

// What a label takes must grow with its length: the work is counted, not timed.
func TestSettingALabelIsLinearInItsLength(t *testing.T) {
	f := loaded(t)
	b := Box{Width: 66, Height: 38, Min: 11, Max: 18}
	allocated := func(n int) float64 {
		i := 0
		return testing.AllocsPerRun(20, func() {
			i++
			f.Fit(strings.Repeat("xy", n/2)+strings.Repeat("z", i), b)
		})
	}
	if short, long := allocated(40), allocated(180); long > 4.5*short+50 {
		t.Errorf("a label of 40 characters allocates %.0f times, one of 180 %.0f times", short, long)
	}
}

func TestAFontIsSafeForConcurrentUse(t *testing.T) {
	f := loaded(t)
	b := Box{Width: 66, Height: 38, Min: 11, Max: 18}
	want := f.Fit("Telescope feed", b)
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			for range 200 {
				if got := f.Fit("Telescope feed", b); !slices.Equal(got.Lines, want.Lines) {
					t.Errorf("set as %q", got.Lines)
					return
				}
			}
		})
	}
	wg.Wait()
}
