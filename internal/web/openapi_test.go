package web

import (
	"encoding/json"
	"slices"
	"testing"

	"synaptor/internal/journal"
)

func TestTheDocumentNamesEveryOutcomeAndEveryStage(t *testing.T) {
	type schema struct {
		Properties map[string]struct{ Enum []string }
	}
	var doc struct {
		Components struct{ Schemas map[string]schema }
	}
	if err := json.Unmarshal(openAPI, &doc); err != nil {
		t.Fatal(err)
	}
	same := func(what string, named, are []string) {
		slices.Sort(named)
		slices.Sort(are)
		if !slices.Equal(named, are) {
			t.Errorf("the %s are %q, the document names %q", what, are, named)
		}
	}
	var outcomes []string
	for _, o := range journal.Outcomes() {
		outcomes = append(outcomes, string(o))
	}
	same("outcomes", doc.Components.Schemas["Entry"].Properties["outcome"].Enum, outcomes)
	same("stages", doc.Components.Schemas["Step"].Properties["stage"].Enum, journal.Stages())
}
