package macro

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"synaptor/internal/core/show"
)

// Macros of many steps that each run the next one used to be built anew at each of
// them: it took the process 42 seconds. What is built is counted, not timed.
func TestMacrosThatRunEachOtherManyTimesAreBuiltOnceEach(t *testing.T) {
	const macros, steps = 12, 300
	d := show.NewDraft(show.Empty())
	for m := range macros {
		d.Put(&show.Macro{ID: fmt.Sprint("m", m), Name: fmt.Sprint("M", m)})
		for i := range steps {
			s := &show.Step{ID: fmt.Sprintf("m%d-%d", m, i), Macro: fmt.Sprint("m", m), Position: i, Kind: Run, Run: fmt.Sprint("m", m+1)}
			if m == macros-1 {
				s.Run = "" // and nothing is complete
				s.Kind = Do
			}
			d.Put(s)
		}
	}
	s := d.Now()
	b := &builder{show: s, built: map[string]built{}}
	for m := range macros {
		tree, err := b.build(fmt.Sprint("m", m))
		var e *Error
		if !errors.As(err, &e) {
			t.Fatalf("m%d: %v", m, err)
		}
		if tree != nil && tree.count > MaxSteps {
			t.Errorf("m%d has %d steps", m, tree.count)
		}
	}
	if len(b.built) != macros {
		t.Errorf("%d macros were built", len(b.built))
	}
}

func TestWhatAMacroRunsCountsAsOftenAsItIsRun(t *testing.T) {
	d := show.NewDraft(show.Empty())
	d.Put(&show.Macro{ID: "outer", Name: "Outer"})
	d.Put(&show.Macro{ID: "inner", Name: "Inner"})
	parent := ""
	for i := range 12 {
		id := fmt.Sprint("repeat", i)
		d.Put(&show.Step{ID: id, Macro: "outer", Parent: parent, Kind: Repeat, Count: MaxCount})
		parent = id
	}
	d.Put(&show.Step{ID: "run", Macro: "outer", Parent: parent, Kind: Run, Run: "inner"})
	d.Put(&show.Step{ID: "wait", Macro: "inner", Kind: Wait, Ms: 1})
	tree, err := Build(d.Now(), "outer")
	if tree != nil || err == nil || !strings.Contains(err.Error(), "more than 2000 steps") {
		t.Errorf("built %v, %v", tree, err)
	}
}
