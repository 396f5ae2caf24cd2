package app_test

import (
	"strings"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// own is an action of Synaptor itself as a step.
func own(action string, params map[string]string) map[string]any {
	return map[string]any{"kind": "do", "action": map[string]any{"device": "synaptor", "action": action, "params": params}}
}

// triedOwn carries out an action of Synaptor itself, and gives its entry.
func (r *rig) triedOwn(action string, params map[string]string) string {
	r.Helper()
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": action, "params": params}, &made)
	r.entry(made.ID, journal.Confirmed)
	return made.ID
}

// TestAnOverlayIsPutBackAsAnyDeviceIs: what a press or a run has shown, written or gone on with is as it was, and what a viewer wrote
// comes back as the text that it was.
func TestAnOverlayIsPutBackAsAnyDeviceIs(t *testing.T) {
	r := start(t).ready()
	plate := map[string]string{"overlay": "name-plate"}
	word := func(path, want string) {
		t.Helper()
		r.eventually(path+" is "+want, func() bool { return r.readingOf("synaptor", path).Word == want })
	}
	back := func(entry string, want ...engine.ReturnRow) {
		t.Helper()
		var plan engine.PutBackPlan
		r.must(200, "GET", "/api/v1/putback/"+entry, nil, &plan)
		if len(plan.Returns) != len(want) || len(plan.Left) != 0 {
			t.Fatalf("planned %+v", plan)
		}
		for i, row := range want {
			if got := plan.Returns[i]; strings.TrimSpace(got.From) != row.From || got.To != row.To {
				t.Errorf("planned %+v, want %+v", got, row)
			}
		}
		var made struct{ ID string }
		r.must(202, "POST", "/api/v1/putback/"+entry, nil, &made)
		r.entry(made.ID, journal.Confirmed)
	}
	shown := r.triedOwn("overlay", plate)
	word("overlay/name-plate/shown", "on")
	back(shown, engine.ReturnRow{From: "on", To: "off"})
	word("overlay/name-plate/shown", "off")

	evil := "{reading('nothing')} }{\n" + strings.Repeat("ж", 1900)
	evil += strings.Repeat("x", show.MaxOverlayText-strings.Count(evil, "{")-strings.Count(evil, "}")-len([]rune(evil))) // a brace that is text is written twice
	r.triedOwn("overlay-write", map[string]string{"overlay": "name-plate", "words": strings.NewReplacer("{", "{{", "}", "}}").Replace(evil), "second": "Okular"})
	second := r.triedOwn("overlay-write", map[string]string{"overlay": "name-plate", "words": "Ada"})
	back(second, engine.ReturnRow{From: "entry 1\nAda", To: "entry 1\n" + evil + "\nOkular\n"})
	word("overlay/name-plate/text", evil)
	word("overlay/name-plate/second", "Okular")
	next := r.triedOwn("overlay-next", plate)
	word("overlay/name-plate/text", "Oyelaran Bassey")
	back(next, engine.ReturnRow{From: "entry 2", To: "entry 1\n" + evil + "\nOkular\n"})
	word("overlay/name-plate/text", evil)
	gone := r.triedOwn("overlay-entry", map[string]string{"overlay": "name-plate", "number": "2"})
	word("overlay/name-plate/text", "Oyelaran Bassey")
	back(gone, engine.ReturnRow{From: "entry 2", To: "entry 1\n" + evil + "\nOkular\n"})
	word("overlay/name-plate/text", evil)
	r.triedOwn("overlay-said", plate)
	word("overlay/name-plate/text", "Imke Vardal")

	// A timer that was reset or set by mistake goes on as if it had not been.
	timer := func(action, seconds string) string {
		params := map[string]string{"timer": "on-air"}
		if seconds != "" {
			params["seconds"] = seconds
		}
		return r.triedOwn(action, params)
	}
	timer("timer-start", "")
	ran := r.readingOf("synaptor", "timer/on-air/stood").Word
	for _, by := range [][2]string{{"timer-reset", ""}, {"timer-set", "90"}} {
		made := timer(by[0], by[1])
		now := r.readingOf("synaptor", "timer/on-air/stood").Word
		if now == ran {
			t.Errorf("after %s it still %s", by[0], now)
		}
		back(made, engine.ReturnRow{From: now, To: ran})
		word("timer/on-air/stood", ran)
	}
	timer("timer-stop", "")

	// A run puts back by itself, devices and overlays alike.
	h := r.hand("producer-grid")
	run := r.run(r.script("For a moment", nil, keyer("2", true), own("overlay-write", map[string]string{"overlay": "name-plate", "words": "Guest"}),
		own("overlay-show", plate), own("timer-start", map[string]string{"timer": "on-air"}), wait(50), map[string]any{"kind": "put-back"}))
	r.entry(run, journal.Confirmed)
	h.word("dome-switcher:keyer/2/on", "off")
	word("overlay/name-plate/shown", "off")
	word("overlay/name-plate/text", "Imke Vardal")
	word("timer/on-air/running", "off")
}

// TestOverlaysAreAmongWhatRightsSay.
func TestOverlaysAreAmongWhatRightsSay(t *testing.T) {
	r := claimed(t)
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "Overlays on keys", func(d *show.Draft) {
		for control, call := range map[string]show.Call{"a4": {Action: "overlay-show", Params: map[string]string{"overlay": "name-plate"}},
			"b4": {Action: "overlay-show", Params: map[string]string{"overlay": "corner-clock"}}, "c4": {Action: "timer-reset", Params: map[string]string{"timer": "on-air"}},
			"d4": {Action: "page-next"}} {
			call.Device = "synaptor"
			d.ClearPlacement("cut", control)
			d.Put(&show.Mapping{ID: "rights-" + control, Placements: []show.Placement{{Page: "cut", Control: control}}, Responses: []show.Response{{Gesture: "press", Action: call}}})
		}
	}); err != nil {
		t.Fatal(err)
	}
	r.narrowed(map[string]any{"controllers": nil, "changes": []string{"synaptor:overlay/name-plate/*"}})
	o := r.as("Oyelaran")
	shown := o.press("a4")
	o.entry(shown, journal.Confirmed)
	for _, control := range []string{"b4", "c4"} {
		if e := o.entry(o.press(control)); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "Oyelaran may not change") {
			t.Errorf("%s ends %s: %s", control, e.Outcome, e.Reason)
		}
	}
	r.narrowed(map[string]any{"controllers": nil, "changes": []string{"synaptor:overlay/corner-clock/*"}})
	var made struct{ ID string }
	o.must(202, "POST", "/api/v1/putback/"+shown, nil, &made)
	if e := o.entry(made.ID); !strings.Contains(e.Reason, "Oyelaran may not change") {
		t.Errorf("the put back ends %s: %s", e.Outcome, e.Reason)
	}
	o.entry(o.press("d4"), journal.Confirmed) // pages are everybody's
}
