package show

import (
	"errors"
	"fmt"
	"strings"
	"testing"
)

func TestAShowIsWithinItsBounds(t *testing.T) {
	d := NewDraft(Empty())
	d.Put(&Macro{ID: "m", Name: "M"})
	for i := range MaxSteps {
		d.Put(&Step{ID: fmt.Sprint("s", i), Macro: "m"})
	}
	for i := range 200 {
		d.Put(&Profile{ID: fmt.Sprint("p", i), Name: "P"})
	}
	first := d.Edit("fill", 1)
	full, err := Empty().Apply(first)
	if err != nil {
		t.Fatal(err)
	}
	if err := full.Within(first); err != nil {
		t.Errorf("just full: %v", err)
	}
	for name, c := range map[string]struct {
		change func(d *Draft)
		says   string
	}{
		"a step more":      {func(d *Draft) { d.Put(&Step{ID: "more", Macro: "m"}) }, "A macro has at most 2000 steps; this would be 2001."},
		"of another macro": {func(d *Draft) { d.Put(&Macro{ID: "n", Name: "N"}); d.Put(&Step{ID: "more", Macro: "n"}) }, ""},
		"a profile more":   {func(d *Draft) { d.Put(&Profile{ID: "q", Name: "Q"}) }, "A show has at most 200 profiles; this would be 201."},
		"another name":     {func(d *Draft) { d.Put(&Profile{ID: "p1", Name: "Q"}) }, ""},
		"one less":         {func(d *Draft) { d.Delete(Ref{KindStep, "s1"}) }, ""},
		"one for another": {func(d *Draft) {
			d.Delete(Ref{KindStep, "s1"})
			d.Put(&Step{ID: "more", Macro: "m"})
		}, ""},
	} {
		d := NewDraft(full)
		c.change(d)
		e := d.Edit(name, 2)
		next, err := full.Apply(e)
		if err != nil {
			t.Fatal(err)
		}
		err = next.Within(e)
		var f *FieldError
		if c.says == "" && err != nil || c.says != "" && (!errors.As(err, &f) || !strings.HasPrefix(f.Text, c.says)) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
