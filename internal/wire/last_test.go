package wire

import (
	"slices"
	"testing"
)

func TestTheLastPicturesAreKeptInTheOrderInWhichTheyCame(t *testing.T) {
	l := NewLast(3)
	for _, step := range [][2]string{{"a", ""}, {"b", ""}, {"a", ""}, {"c", ""}, {"d", "a"}, {"a", "b"}} {
		if gone := l.Add(step[0]); gone != step[1] {
			t.Errorf("for %s %q goes, want %q", step[0], gone, step[1])
		}
	}
	if got := l.All(); !slices.Equal(got, []string{"c", "d", "a"}) || l.Has("b") || !l.Has("d") {
		t.Errorf("kept are %v", got)
	}
	small := l.Copy(2)
	if got := small.All(); !slices.Equal(got, []string{"d", "a"}) || len(l.All()) != 3 {
		t.Errorf("copied are %v", got)
	}
}
