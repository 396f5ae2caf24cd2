package program_test

import (
	"slices"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/program"
)

// What changed is what was compiled anew or is gone, counted from any program before.
func TestWhatChangedSinceAnotherProgram(t *testing.T) {
	r := enginetest.New(t, engine.Exact)
	defer r.Close()
	lib := enginetest.Library()
	compile := func(prev *program.Program, s *show.Show) *program.Program {
		return program.Compile(prev, s, lib, r.Sources)
	}
	first := compile(nil, enginetest.Show())
	mappings := first.Show.Mappings()
	kept, other := *mappings[0], *mappings[1]

	d := show.NewDraft(first.Show)
	kept.Name = "another name"
	d.Put(&kept)
	second := compile(first, d.Now())

	d = show.NewDraft(second.Show)
	d.Delete(other.Ref())
	page := *second.Show.Pages()[0]
	page.Name = "another page"
	d.Put(&page)
	third := compile(second, d.Now())

	for _, c := range []struct {
		name     string
		now, old *program.Program
		want     []string
	}{
		{"an edit of a mapping", second, first, []string{kept.ID}},
		{"an edit of more", third, second, []string{other.ID}},
		{"two edits at once", third, first, []string{kept.ID, other.ID}},
		{"none", third, third, nil},
	} {
		got := c.now.Changed(c.old)
		slices.Sort(got)
		slices.Sort(c.want)
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v changed, wanted %v", c.name, got, c.want)
		}
	}
}
