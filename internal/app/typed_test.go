package app_test

import (
	"strings"
	"testing"

	"synaptor/internal/journal"
)

// typeAt presses a control with a text.
func (r *rig) typeAt(control, text string) journal.Entry {
	r.Helper()
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/input/producer-grid/"+control+"/press", map[string]any{"value": text}, &made)
	return r.entry(made.ID)
}

// TestAKeyAsksForItsText: a press without one is refused with a sentence, one with a text sets it, whatever is in it; so does a macro.
func TestAKeyAsksForItsText(t *testing.T) {
	r := start(t).ready()
	r.connected("name-plates")
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "name-plates", "action": "write", "params": map[string]string{"field": "1", "words": "{event.typed}"}}, nil)
	if e := r.entry(r.press("a4"), journal.Refused); !strings.Contains(e.Reason, "asks for a text (text)") {
		t.Errorf("a press without a text is %s: %s", e.Outcome, e.Reason)
	}
	for _, text := range []string{"Ada Lindqvist", "", "🌠 עדה {1+1} <b>", strings.Repeat("ж", 2000)} {
		if e := r.typeAt("a4", text); e.Outcome != journal.Confirmed {
			t.Errorf("%.20q ended %s: %s", text, e.Outcome, e.Reason)
		}
		if got := r.Bench.StandIn("titles").View().Values["/field/1/text"]; got != text {
			t.Errorf("%.20q is %.20q on the plate", text, got)
		}
	}
	if p := r.fails(422, "POST", "/api/v1/input/producer-grid/a4/press", map[string]any{"value": strings.Repeat("x", 2001)}); p.Field != "value" {
		t.Errorf("a text that is too long is wrong at %q", p.Field)
	}
	r.fails(422, "POST", "/api/v1/input/scope-console/dial1/turn", map[string]any{"value": "three"})
}
