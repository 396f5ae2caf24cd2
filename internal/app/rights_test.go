package app_test

import (
	"strings"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
)

// narrowed narrows what Oyelaran, an operator, may do.
func (r *rig) narrowed(rights map[string]any) { r.Helper(); r.narrow("Oyelaran", rights) }

// narrow narrows what somebody may do.
func (r *rig) narrow(name string, rights map[string]any) {
	r.Helper()
	var all struct{ People []struct{ ID, Name string } }
	r.must(200, "GET", "/api/v1/people", nil, &all)
	for _, p := range all.People {
		if p.Name == name {
			r.must(204, "PUT", "/api/v1/people/"+p.ID+"/rights", rights, nil)
		}
	}
}

// TestRightsHoldHoweverDeepACommandIs: an operator who may change mix effect 2 reaches mix effect 1 by no key, no macro and no macro in one,
// by no put back and by no way in; closing what was opened is always allowed.
func TestRightsHoldHoweverDeepACommandIs(t *testing.T) {
	r := claimed(t)
	grid := r.controller("producer-grid")
	put := func(mix, input string) show.Call {
		return show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": mix, "input": input}}
	}
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "Keys with rights", func(d *show.Draft) {
		call := put("1", "6")
		for id, step := range map[string]show.Step{"inner": {Kind: "do", Action: &call}, "outer": {Kind: "run", Run: "inner"}} {
			d.Put(&show.Macro{ID: id, Slug: id, Name: id})
			step.ID, step.Macro = id+"-1", id
			d.Put(&step)
		}
		for control, call := range map[string]show.Call{"a4": put("2", "3"), "b4": put("1", "5"), "c4": {Device: "synaptor", Action: "run", Params: map[string]string{"macro": "outer"}},
			"d4": {Device: "synaptor", Action: "park", Params: map[string]string{"device": "sound-desk"}}} {
			d.ClearPlacement("cut", control)
			d.Put(&show.Mapping{ID: "rights-" + control, Placements: []show.Placement{{Page: "cut", Control: control}}, Responses: []show.Response{{Gesture: "press", Action: call}}})
		}
	}); err != nil {
		t.Fatal(err)
	}
	o := r.as("Oyelaran")
	o.press("b4") // so far nothing is narrowed
	r.eventually("mix 1 shows input 5", func() bool { return r.reading("mix/1/program").Value == 5.0 })
	r.narrowed(map[string]any{"controllers": []string{grid}, "changes": []string{"dome-switcher:mix/2/*"}})
	refused := func(what string, e journal.Entry) {
		t.Helper()
		if e.Outcome != journal.Refused && e.Outcome != journal.Failed || !strings.Contains(e.Reason, "Oyelaran may not") {
			t.Errorf("%s ends %s: %s", what, e.Outcome, e.Reason)
		}
	}
	o.entry(o.press("a4"), journal.Confirmed)
	refused("a key for mix 1", o.entry(o.press("a1")))
	refused("a macro in a macro", o.entry(o.press("c4")))
	refused("parking a device", o.entry(o.press("d4")))
	l := o.follow("page:cut")
	l.touch("a1", "down", 1)
	l.touch("a1", "up", 2)
	l.until("a key says why it was refused", func() bool { return strings.Contains(l.face("a1").Refusal, "Oyelaran may not change mix/1/program") })
	for method, path := range map[string]string{"POST /scope": "/api/v1/input/scope-console/a1/press", "POST /macro": "/api/v1/macros/inner/run"} {
		if got := o.status("POST", path, nil); got != 403 {
			t.Errorf("%s answers %d", method, got)
		}
	}
	if got := o.call("PUT", "/api/v1/controllers/"+r.controller("scope-console")+"/page", map[string]any{"page": "guests"}, nil); got != 403 && got != 422 {
		t.Errorf("turning a page of another controller answers %d", got)
	}
	if got := r.reading("mix/1/program").Value; got != 5.0 {
		t.Errorf("mix 1 shows %v", got)
	}
	// A live socket has the rights of the moment: it ends when they change.
	r.narrowed(map[string]any{"controllers": []string{}, "changes": nil})
	for _, path := range []string{"/api/v1/input/producer-grid/a4/press", "/api/v1/mappings/rights-a4/input/press"} {
		if got := o.status("POST", path, nil); got != 403 {
			t.Errorf("without any controller %s answers %d", path, got)
		}
	}
	r.narrowed(map[string]any{"controllers": nil, "changes": nil})
	o.entry(o.press("b4"), journal.Confirmed)
	// Only operators are narrowed, and only by what makes sense.
	var all struct{ People []struct{ ID, Name string } }
	r.must(200, "GET", "/api/v1/people", nil, &all)
	for _, p := range all.People {
		switch p.Name {
		case "Edda":
			r.must(422, "PUT", "/api/v1/people/"+p.ID+"/rights", map[string]any{"controllers": []string{grid}}, nil)
		case "Oyelaran":
			r.must(422, "PUT", "/api/v1/people/"+p.ID+"/rights", map[string]any{"changes": []string{"nonsense"}}, nil)
		}
	}
}
