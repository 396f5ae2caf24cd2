package app_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"synaptor/internal/access"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
	"synaptor/internal/people"
)

// paired is a panel with its own browser, that a code of six digits lets in.
func (r *rig) paired(name string, rights map[string]any) (*rig, people.Who) {
	r.Helper()
	var who people.Who
	r.must(201, "POST", "/api/v1/people", map[string]any{"name": name, "role": "operator", "panel": true, "rights": rights}, &who)
	var p people.Pairing
	r.must(201, "POST", "/api/v1/people/"+who.ID+"/pairing", nil, &p)
	o := r.stranger()
	if resp, body := o.posted("/pair", url.Values{"digits": {p.Code[:3] + " " + p.Code[3:]}}); resp.StatusCode != 200 || !strings.HasPrefix(resp.Request.URL.Path, "/panel/") {
		r.Fatalf("paired, it is at %s: %d %.300s", resp.Request.URL, resp.StatusCode, body)
	}
	return o, who
}

// posted sends a form, and follows where it leads.
func (r *rig) posted(path string, values url.Values) (*http.Response, string) {
	r.Helper()
	req, err := http.NewRequest("POST", r.base+path, strings.NewReader(values.Encode()))
	if err != nil {
		r.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Sec-Fetch-Site", "same-origin")
	return r.answered(r.client.Do(req))
}

// TestAPanelIsPairedPressesWhatItMayAndIsTakenBack, with a key held down: that is let go at once, and the page says what has become of it.
func TestAPanelIsPairedPressesWhatItMayAndIsTakenBack(t *testing.T) {
	r := claimed(t)
	grid := r.controller("producer-grid")
	panel, who := r.paired("Saskia's tablet", map[string]any{"controllers": []string{grid}, "changes": []string{"dome-switcher:mix/1/*"}})
	l := panel.follow("page:cut")
	l.touch("c1", "down", 1)
	l.until("it presses what it may", func() bool { return l.face("c1").is("on-air") })
	for path, want := range map[string]int{"/api/v1/input/scope-console/a1/press": 403, "/api/v1/undo": 403, "/api/v1/people": 403, "/api/v1/addresses": 403} {
		method := "POST"
		if want == 403 && (strings.HasSuffix(path, "people") || strings.HasSuffix(path, "addresses")) {
			method = "GET"
		}
		if got := panel.status(method, path, nil); got != want {
			t.Errorf("%s answers a panel %d", path, got)
		}
	}
	var keys struct {
		Refused  map[string]string
		Withheld []string
	}
	panel.must(200, "GET", "/api/v1/me/keys", nil, &keys)
	if keys.Refused["cut-a1"] != "" || len(keys.Refused) == 0 || len(keys.Withheld) == 0 {
		t.Errorf("the keys of the panel that look as if it may not use them: %d, controllers %v", len(keys.Refused), keys.Withheld)
	}
	var doc struct {
		Here   []people.Visit
		People []people.Who
	}
	r.must(200, "GET", "/api/v1/people", nil, &doc)
	seen := false
	for _, v := range doc.Here {
		seen = seen || v.Person == who.ID && v.Touched != nil && v.Touched.Control == "c1"
	}
	if !seen {
		t.Errorf("who is here is %+v", doc.Here)
	}
	if got := r.reading("mix/1/program"); got.Quality != "confirmed" {
		t.Errorf("the reading is %+v", got)
	}
	r.must(204, "DELETE", "/api/v1/people/"+who.ID+"/sessions", nil, nil)
	l.ends()
	panel.must(401, "GET", "/api/v1/show", nil, nil)
	if status, body := panel.page("/panel/producer-grid"); status != 200 || !strings.Contains(body, "Pair this panel") {
		t.Errorf("taken back, its page answers %d: %.200s", status, body)
	}
	r.eventually("the journal says all of it", func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=50", nil, &rows)
		said := map[string]bool{}
		for _, e := range rows {
			said[e.Title] = true
		}
		return said["Saskia's tablet was paired"] && said["Saskia's tablet was taken back"] && said["A code was made for Saskia's tablet"]
	})
}

// TestTheLinkBehindTheCodeProvesThatThePanelReachesSynaptor, and lets it in once; a thousand wrong codes let nobody in.
func TestTheLinkBehindTheCodeProvesThatThePanelReachesSynaptor(t *testing.T) {
	r := claimed(t)
	var who people.Who
	r.must(201, "POST", "/api/v1/people", map[string]any{"name": "Tablet", "role": "viewer", "panel": true, "tonight": true}, &who)
	if who.Until == nil || !who.Panel {
		t.Errorf("for tonight it is %+v", who)
	}
	var p people.Pairing
	r.must(201, "POST", "/api/v1/people/"+who.ID+"/pairing", nil, &p)
	panel := r.stranger()
	if status, body := panel.page(p.Link); status != 200 || !strings.Contains(body, "It becomes Tablet, a viewer of all controllers.") {
		t.Errorf("the page behind the code answers %d: %.300s", status, body)
	}
	var doc struct{ Pairings []people.Pairing }
	r.must(200, "GET", "/api/v1/people", nil, &doc)
	if len(doc.Pairings) != 1 || len(doc.Pairings[0].Reached) != 1 || doc.Pairings[0].Reached[0].Address != "127.0.0.1" {
		t.Errorf("its owner sees %+v", doc.Pairings)
	}
	if resp, _ := panel.posted(p.Link, nil); resp.Request.URL.Path != "/panel/producer-grid" {
		t.Errorf("paired, it is at %s", resp.Request.URL)
	}
	panel.must(200, "GET", "/api/v1/show", nil, nil)
	again := r.stranger()
	if resp, body := again.posted(p.Link, nil); resp.StatusCode != 404 || !strings.Contains(body, "it works once") {
		t.Errorf("a second time it answers %d", resp.StatusCode)
	}
	many := 0
	for range 40 {
		if resp, _ := again.posted("/pair", url.Values{"digits": {"000000"}}); resp.StatusCode == http.StatusTooManyRequests {
			many++
		}
	}
	if many < 30 {
		t.Errorf("of forty tries only %d are refused as too many", many)
	}
}

// TestAnOutputIsTakenForAWhile: others are refused with the name of who has it, on the key too, until it is given back, an owner takes it, or the panel is
// taken back.
func TestAnOutputIsTakenForAWhile(t *testing.T) {
	r := claimed(t)
	panel, who := r.paired("Saskia's tablet", map[string]any{"changes": []string{"dome-switcher:mix/1/*"}})
	var outputs []struct {
		ID, Title string
		Claim     *access.Claim
	}
	find := func(title string) (id string, claim *access.Claim) {
		t.Helper()
		outputs = nil
		r.must(200, "GET", "/api/v1/outputs", nil, &outputs)
		for _, o := range outputs {
			if o.Title == title {
				return o.ID, o.Claim
			}
		}
		t.Fatalf("there is no output %q: %+v", title, outputs)
		return "", nil
	}
	program, _ := find("Program of mix effect 1")
	foyer, _ := find("Foyer screen")
	if got := panel.call("POST", "/api/v1/claims", map[string]any{"output": foyer}, nil); got < 400 {
		t.Errorf("an output that it may not change is taken: %d", got)
	}
	panel.must(204, "POST", "/api/v1/claims", map[string]any{"output": program}, nil)
	o := r.as("Oyelaran")
	if e := o.entry(o.press("b1")); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "Saskia's tablet has taken Program of mix effect 1") {
		t.Errorf("another one is told %s: %s", e.Outcome, e.Reason)
	}
	panel.entry(panel.press("b1"), journal.Confirmed)
	o.must(409, "POST", "/api/v1/claims", map[string]any{"output": program}, nil)
	_, claim := find("Program of mix effect 1")
	if claim == nil || claim.By != who.ID {
		t.Fatalf("it is taken by %+v", claim)
	}
	o.must(404, "DELETE", "/api/v1/claims/"+claim.ID, nil, nil) // it is not theirs
	var keys struct{ Refused map[string]string }
	o.must(200, "GET", "/api/v1/me/keys", nil, &keys)
	if !strings.Contains(keys.Refused["cut-a1"], "has taken") {
		t.Errorf("the key of another one says %q", keys.Refused["cut-a1"])
	}
	r.must(204, "POST", "/api/v1/claims", map[string]any{"output": program}, nil) // an owner takes it
	if e := panel.entry(panel.press("b1")); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "Tobin has taken") {
		t.Errorf("who had it is told %s: %s", e.Outcome, e.Reason)
	}
	_, claim = find("Program of mix effect 1")
	r.must(204, "DELETE", "/api/v1/claims/"+claim.ID, nil, nil)
	panel.must(204, "POST", "/api/v1/claims", map[string]any{"output": program}, nil)
	r.must(204, "DELETE", "/api/v1/people/"+who.ID+"/sessions", nil, nil)
	if _, claim = find("Program of mix effect 1"); claim != nil {
		t.Errorf("taken back, a panel has %+v", claim)
	}
	o.entry(o.press("b1"), journal.Confirmed)
	r.eventually("the reading says who changed it", func() bool {
		var rows []struct{ By string }
		r.must(200, "GET", "/api/v1/readings?device=dome-switcher&path=mix/1/program", nil, &rows)
		return len(rows) == 1 && rows[0].By == "Oyelaran"
	})
	r.operate("/mix/1/program", 4)
	r.eventually("a hand at the device is nobody known", func() bool {
		var rows []struct {
			Value any
			By    string
		}
		r.must(200, "GET", "/api/v1/readings?device=dome-switcher&path=mix/1/program", nil, &rows)
		return len(rows) == 1 && rows[0].Value == 4.0 && rows[0].By == ""
	})
}

// TestEditsAreLocked for one browser, and for all; presses go on.
func TestEditsAreLocked(t *testing.T) {
	r := claimed(t)
	edda, vera := r.as("Edda"), r.as("Vera")
	name := func(o *rig) int {
		return o.call("PUT", "/api/v1/controllers/"+r.controller("producer-grid"), map[string]any{"name": "Producer grid"}, nil)
	}
	edda.must(204, "PUT", "/api/v1/me/locked", map[string]any{"locked": true}, nil)
	if a, b := name(edda), name(r); a != http.StatusLocked || b != 200 && b != 204 {
		t.Errorf("locked for one: she is answered %d, another one %d", a, b)
	}
	edda.must(204, "PUT", "/api/v1/me/locked", map[string]any{"locked": false}, nil)
	vera.must(403, "PUT", "/api/v1/me/locked", map[string]any{"locked": true, "all": true}, nil)
	r.must(204, "PUT", "/api/v1/me/locked", map[string]any{"locked": true, "all": true}, nil)
	var me struct{ Locked, LockedForAll bool }
	edda.must(200, "GET", "/api/v1/me", nil, &me)
	if a, b := name(edda), name(r); a != http.StatusLocked || b != http.StatusLocked || me.Locked || !me.LockedForAll {
		t.Errorf("locked for all: she is answered %d, the owner %d, and told %+v", a, b, me)
	}
	r.entry(r.press("b1"), journal.Confirmed)
	edda.must(204, "PUT", "/api/v1/me/locked", map[string]any{"locked": false, "all": true}, nil)
	if got := name(edda); got == http.StatusLocked {
		t.Error("unlocked, edits are refused")
	}
}

// TestRightsThatChangeInTheMiddleOfARun: it keeps what it has started with; its next command is judged by what they are then, and says so.
func TestRightsThatChangeInTheMiddleOfARun(t *testing.T) {
	r := claimed(t)
	do := func(mix, input string) show.Step {
		return show.Step{Kind: "do", Action: &show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": mix, "input": input}}}
	}
	steps := []show.Step{do("1", "5"), {Kind: "wait-for", When: "reading('dome-switcher:mix/2/program') == '3'", LimitMs: 20_000}, do("1", "6")}
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "A run that waits", func(d *show.Draft) {
		d.Put(&show.Macro{ID: "waits", Slug: "waits", Name: "Waits"})
		for i, st := range steps {
			st.ID, st.Macro, st.Position = fmt.Sprint("waits-", i), "waits", i
			d.Put(&st)
		}
	}); err != nil {
		t.Fatal(err)
	}
	o := r.as("Oyelaran")
	var run struct{ ID, Refused string }
	o.must(202, "POST", "/api/v1/macros/waits/run", nil, &run)
	if run.Refused != "" {
		t.Fatal(run.Refused)
	}
	r.eventually("its first step has left", func() bool { return r.reading("mix/1/program").Value == 5.0 })
	r.narrowed(map[string]any{"controllers": nil, "changes": []string{"dome-switcher:mix/2/*"}})
	r.operate("/mix/2/program", 3)
	e := r.entry(run.ID)
	said := e.Reason
	for _, ev := range e.Steps {
		said += "\n" + ev.Text
	}
	if got := r.reading("mix/1/program").Value; got != 5.0 || !strings.Contains(said, "Oyelaran may not change mix/1/program") {
		t.Errorf("mix 1 shows %v, and it says %s", got, said)
	}
}

// TestTheDemosPeopleAreListedAndNobodySignsIn: Saskia's tablet reaches the foyer and the guests' microphones, Oyelaran his party line, nothing else.
func TestTheDemosPeopleAreListedAndNobodySignsIn(t *testing.T) {
	r := start(t).ready()
	r.must(200, "GET", "/api/v1/show", nil, nil)
	r.must(204, "POST", "/api/v1/claim", map[string]any{"name": "Tobin", "passphrase": words}, nil)
	var doc struct{ People []people.Who }
	r.must(200, "GET", "/api/v1/people", nil, &doc)
	of := map[string]people.Who{}
	for _, p := range doc.People {
		of[p.Name] = p
	}
	if len(of) != 4 || of["Tobin"].Expected || !of["Imke"].Expected || !of["Saskia's tablet"].Panel {
		t.Fatalf("listed are %+v", of)
	}
	var p people.Pairing
	r.must(201, "POST", "/api/v1/people/"+of["Saskia's tablet"].ID+"/pairing", nil, &p)
	panel := r.stranger()
	if resp, _ := panel.posted(p.Link, nil); resp.Request.URL.Path != "/panel/saskias-tablet" {
		t.Errorf("paired, it is at %s", resp.Request.URL)
	}
	press := func(o *rig, controller, control string) journal.Entry { return o.entry(o.pressOn(controller, control)) }
	for control, want := range map[string]journal.Outcome{"a1": journal.Confirmed, "a2": journal.Confirmed, "a3": journal.Confirmed, "d1": journal.Refused} {
		if e := press(panel, "saskias-tablet", control); e.Outcome != want {
			t.Errorf("%s of the tablet ends %s: %s", control, e.Outcome, e.Reason)
		}
	}
	if e := press(r, "saskias-tablet", "b2"); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "Saskia's tablet has taken Foyer screen") {
		t.Errorf("the foyer, which the tablet has taken by its key, ends %s: %s", e.Outcome, e.Reason)
	}
	panel.entry(panel.pressOn("saskias-tablet", "a3"), journal.Confirmed) // a second press gives it back
	r.entry(r.pressOn("saskias-tablet", "b2"), journal.Confirmed)
	var made struct{ Link string }
	r.must(201, "POST", "/api/v1/people/"+of["Oyelaran"].ID+"/invitation", nil, &made)
	o := r.stranger()
	if status, _ := o.form(made.Link, "whatever", words); status != 200 {
		t.Fatalf("Oyelaran is answered %d", status)
	}
	if got := o.status("POST", "/api/v1/input/producer-grid/a1/press", nil); got != 403 {
		t.Errorf("the producer grid answers Oyelaran %d", got)
	}
	var keys struct{ Refused map[string]string }
	o.must(200, "GET", "/api/v1/me/keys", nil, &keys)
	if len(keys.Refused) < 50 {
		t.Errorf("only %d keys look as if Oyelaran may not use them", len(keys.Refused))
	}
}

// TestAPutBackGoesNoFurtherThanWhoAsksForIt: what somebody else has pressed is put back only as far as one may change it.
func TestAPutBackGoesNoFurtherThanWhoAsksForIt(t *testing.T) {
	r := claimed(t)
	before := r.reading("mix/1/program").Value
	pressed := r.press("c1")
	r.entry(pressed, journal.Confirmed)
	now := r.reading("mix/1/program").Value
	if now == before {
		t.Fatalf("it was %v, and is", before)
	}
	r.narrowed(map[string]any{"controllers": nil, "changes": []string{"dome-switcher:mix/2/*"}})
	o := r.as("Oyelaran")
	var asked struct{ ID string }
	o.must(202, "POST", "/api/v1/putback/"+pressed, nil, &asked)
	e := o.entry(asked.ID)
	said := e.Reason
	for _, st := range e.Steps {
		said += " " + st.Text
	}
	if got := r.reading("mix/1/program").Value; got != now || !strings.Contains(said, "Oyelaran may not change mix/1/program") {
		t.Errorf("it is %v, after %v, and it says %s", got, now, said)
	}
}
