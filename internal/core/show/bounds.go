package show

import "fmt"

// MaxSteps is how many steps a macro may have.
const MaxSteps = 2000

// Bound is how many there may be of a kind.
type Bound struct {
	Kind Kind
	Most int
	Many string // what they are called
}

// Bounds are how many a show may have of each kind: ten times what a large one has.
var Bounds = []Bound{
	{KindDevice, 500, "devices"}, {KindController, 200, "controllers"}, {KindProfile, 200, "profiles"}, {KindPage, 2000, "pages"},
	{KindMapping, 50_000, "mappings"}, {KindMacro, 2000, "macros"}, {KindStep, 50_000, "steps of macros"},
}

// Within says whether a show is within its bounds after an edit that led to it, as far
// as the edit added something. It fails with a *FieldError.
func (s *Show) Within(e Edit) error {
	added, macros := map[Kind]bool{}, map[string]bool{}
	for _, c := range e.Changes {
		if c.Before != nil || c.After == nil {
			continue
		}
		added[c.Kind] = true
		if st, ok := s.Get(c.Ref).(*Step); ok {
			macros[st.Macro] = true
		}
	}
	for _, b := range Bounds {
		if n := len(s.entities[b.Kind]); added[b.Kind] && n > b.Most {
			return &FieldError{string(b.Kind), fmt.Sprintf("A show has at most %d %s; this would be %d.", b.Most, b.Many, n)}
		}
	}
	for id := range macros {
		if n := len(s.StepsOf(id)); n > MaxSteps {
			return &FieldError{"steps", fmt.Sprintf("A macro has at most %d steps; this would be %d. Put some into a macro of their own, and run that.", MaxSteps, n)}
		}
	}
	return nil
}
