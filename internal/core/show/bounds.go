package show

import "fmt"

// How many there may be of each kind: ten times what a large show has.
const (
	//limit:count devices of a show | at the edit
	maxDevices = 500
	//limit:count controllers of a show | at the edit
	maxControllers = 200
	//limit:count links of controllers of a show | at the edit
	maxLinks = 500
	//limit:count profiles of a show | at the edit
	maxProfiles = 200
	//limit:count pages of a show | at the edit
	maxPages = 2000
	//limit:count mappings of a show | at the edit
	maxMappings = 50_000
	//limit:count macros of a show | at the edit
	maxMacros = 2000
	//limit:count steps of all macros of a show | at the edit
	maxAllSteps = 50_000
	//limit:count reflexes of a show | at the edit
	maxReflexes = 2000
	//limit:count timers of a show | at the edit
	maxTimers = 100
	//limit:count safe pictures of a show | at the edit
	maxSafe = 200
	//limit:count accepted findings of a show | at the edit
	maxAccepted = 5000
	//limit:count overlays of a show | at the edit
	maxOverlays = 50
)

// MaxSteps is how many steps a macro may have.
//
//limit:count steps of a macro | at the edit
const MaxSteps = 2000

var bounds = []struct {
	kind Kind
	most int
	many string
}{
	{KindDevice, maxDevices, "devices"}, {KindController, maxControllers, "controllers"}, {KindLink, maxLinks, "links of controllers"}, {KindProfile, maxProfiles, "profiles"}, {KindPage, maxPages, "pages"},
	{KindMapping, maxMappings, "mappings"}, {KindMacro, maxMacros, "macros"}, {KindStep, maxAllSteps, "steps of macros"}, {KindReflex, maxReflexes, "reflexes"}, {KindTimer, maxTimers, "timers"}, {KindSafe, maxSafe, "safe pictures"}, {KindAccepted, maxAccepted, "accepted findings"}, {KindOverlay, maxOverlays, "overlays"},
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
	for _, b := range bounds {
		if n := len(s.entities[b.kind]); added[b.kind] && n > b.most {
			return &FieldError{string(b.kind), fmt.Sprintf("A show has at most %d %s; this would be %d.", b.most, b.many, n)}
		}
	}
	for id := range macros {
		if n := len(s.StepsOf(id)); n > MaxSteps {
			return &FieldError{"steps", fmt.Sprintf("A macro has at most %d steps; this would be %d. Put some into a macro of their own, and run that.", MaxSteps, n)}
		}
	}
	return nil
}
