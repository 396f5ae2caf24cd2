package macro

import (
	"slices"
	"testing"

	"synaptor/internal/core/show"
)

func TestWhatRunsAMacroIsNamed(t *testing.T) {
	d := show.NewDraft(show.Empty())
	d.Put(&show.Page{ID: "cut", Name: "Cut"})
	d.Put(&show.Macro{ID: "meteor", Name: "Meteor!"})
	d.Put(&show.Macro{ID: "night", Name: "Open the night"})
	d.Put(&show.Step{ID: "s", Macro: "night", Kind: Run, Run: "meteor"})
	runs := show.Call{Device: "synaptor", Action: "run", Params: map[string]string{"macro": "meteor"}}
	d.Put(&show.Mapping{ID: "m", Placements: []show.Placement{{Page: "cut", Control: "a1"}, {Standing: &show.Standing{}, Control: "f4"}},
		Responses: []show.Response{{Gesture: "press", Action: runs}}})
	if got := Uses(d.Now(), "meteor"); !slices.Equal(got, []string{"a1 of Cut", "f4 of every page", "the macro Open the night"}) {
		t.Errorf("used by %q", got)
	}
	if got := Uses(d.Now(), "night"); len(got) != 0 {
		t.Errorf("used by %q", got)
	}
}

func TestAStepIsCalledByItsNameElseByWhatItDoes(t *testing.T) {
	d := show.NewDraft(show.Empty())
	d.Put(&show.Macro{ID: "meteor", Name: "Meteor!"})
	for _, kind := range []string{Turns, OneOf, If} {
		d.Put(&show.Step{ID: kind, Macro: "meteor", Kind: kind})
	}
	for want, c := range map[string]struct {
		step   show.Step
		action string
	}{
		"Volunteers":               {show.Step{Kind: Do, Name: "Volunteers"}, "Switch Caption on"},
		"Switch Caption on":        {show.Step{Kind: Do}, "Switch Caption on"},
		"keyer-on":                 {show.Step{Kind: Do, Action: &show.Call{Action: "keyer-on"}}, ""},
		"Press 3":                  {show.Step{Kind: Branch, Parent: Turns}, ""},
		"Choice 3":                 {show.Step{Kind: Branch, Parent: OneOf}, ""},
		"Case 3":                   {show.Step{Kind: Branch, Parent: If, When: "true"}, ""},
		"Otherwise":                {show.Step{Kind: Branch, Parent: If}, ""},
		"Run Meteor!":              {show.Step{Kind: Run, Run: "meteor"}, ""},
		"Run a macro that is gone": {show.Step{Kind: Run, Run: "nobody"}, ""},
		"Put back":                 {show.Step{Kind: PutBack}, ""},
		"Do nothing yet":           {show.Step{Kind: Do}, ""},
	} {
		if got := Title(d.Now(), &c.step, c.action, 2); got != want {
			t.Errorf("called %q, want %q", got, want)
		}
	}
}
