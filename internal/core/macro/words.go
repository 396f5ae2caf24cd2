package macro

import (
	"slices"
	"strconv"

	"synaptor/internal/core/show"
)

// Uses tells in words what runs a macro: controls of pages, and other macros.
func Uses(s *show.Show, id string) []string {
	out := []string{}
	for _, m := range s.Mappings() {
		for _, r := range m.Responses {
			if !r.Action.IsRun() || r.Action.Params["macro"] != id {
				continue
			}
			for _, at := range m.Placements {
				where := "every page"
				if p := s.Page(at.Page); p != nil {
					where = p.Name
				}
				out = append(out, at.Control+" of "+where)
			}
		}
	}
	for _, o := range s.Macros() {
		if slices.ContainsFunc(s.StepsOf(o.ID), func(st *show.Step) bool { return st.Run == id }) {
			out = append(out, "the macro "+o.Name)
		}
	}
	return out
}

// kindWords are what steps are called that have no name and no action.
var kindWords = map[string]string{Do: "Do nothing yet", Wait: "Wait", WaitFor: "Wait for", Together: "Together", Fade: "Fade", If: "If",
	Turns: "Turns", OneOf: "One of", PutBack: "Put back", Repeat: "Repeat"}

// Title is what a step is called: its own name, else what it does. action is its action in
// words, where it has one that can be carried out; position is its place in its parent,
// from 0.
func Title(s *show.Show, st *show.Step, action string, position int) string {
	switch {
	case st.Name != "":
		return st.Name
	case action != "":
		return action
	case st.Kind == Branch:
		return branchTitle(s, st, position)
	case st.Kind == Run:
		if m := s.Macro(st.Run); m != nil {
			return "Run " + m.Name
		}
		return "Run a macro that is gone"
	case st.Action != nil:
		return st.Action.Action
	}
	return kindWords[st.Kind]
}

// branchTitle is what a branch without a name is called: by the press that takes it, by
// its place among what one is drawn from, or by its place among the cases of an if.
func branchTitle(s *show.Show, st *show.Step, position int) string {
	n := strconv.Itoa(position + 1)
	in := ""
	if parent, ok := s.Get(show.Ref{Kind: show.KindStep, ID: st.Parent}).(*show.Step); ok {
		in = parent.Kind
	}
	switch {
	case in == Turns:
		return "Press " + n
	case in == If && st.When == "":
		return "Otherwise"
	case in == If:
		return "Case " + n
	}
	return "Choice " + n
}
