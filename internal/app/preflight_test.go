package app_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/archive"
	corefaces "synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/inspect"
	compiled "synaptor/internal/program"
	"synaptor/internal/sheet"
)

// finding is one as the API gives it.
type finding struct {
	ID         string   `json:"id"`
	Severity   string   `json:"severity"`
	Subject    show.Ref `json:"subject"`
	At         string   `json:"at"`
	Sentence   string   `json:"sentence"`
	Title      string   `json:"title"`
	Path       string   `json:"path"`
	Imprint    string   `json:"imprint"`
	Accepted   *struct{ By, Reason string }
	AcceptedID string `json:"acceptedId"`
	Stale      bool   `json:"stale"`
	Fix        *struct{ Title string }
}

// about points at the finding.
func (f finding) about() map[string]any {
	return map[string]any{"id": f.ID, "subject": f.Subject, "at": f.At, "imprint": f.Imprint}
}

// label gives a mapping another label.
func label(r *rig, id, text string) {
	r.Helper()
	m := r.Edit.Program().Show
	rev := m.Rev(show.Ref{Kind: show.KindMapping, ID: id})
	r.must(200, "PUT", "/api/v1/mappings/"+id, map[string]any{"rev": rev, "name": "", "face": map[string]any{"label": text}}, nil)
}

// preflightDoc is what the API says of it.
type preflightDoc struct {
	Verdict  string
	Findings []finding
	Night    *struct {
		Keys, Macros, Unsent int
		Changed              bool
		Findings             []finding
		Moves                []struct {
			finding
			Gain int
		}
	}
}

func (r *rig) preflight() (doc preflightDoc) {
	r.Helper()
	r.must(200, "GET", "/api/v1/preflight", nil, &doc)
	return doc
}

// whole waits until all devices are connected.
func (r *rig) whole() *rig {
	r.Helper()
	for _, d := range r.Edit.Program().Show.Devices() {
		r.connected(d.ID)
	}
	return r
}

// found waits until a finding of an id is there.
func (r *rig) found(id string) (f finding) {
	r.Helper()
	return r.foundOf(id, "")
}

// foundOf waits for a finding about something; empty: about anything.
func (r *rig) foundOf(id, subject string) (f finding) {
	r.Helper()
	r.eventually("there is "+id, func() bool {
		all := r.preflight().Findings
		i := slices.IndexFunc(all, func(o finding) bool { return o.ID == id && (subject == "" || o.Subject.ID == subject) })
		if i >= 0 {
			f = all[i]
		}
		return i >= 0
	})
	return f
}

// gone waits until no finding of an id counts.
func (r *rig) gone(id string) {
	r.Helper()
	r.eventually("there is no "+id, func() bool {
		return !slices.ContainsFunc(r.preflight().Findings, func(o finding) bool { return o.ID == id && (o.Accepted == nil || o.Stale) })
	})
}

// TestAFindingIsPreviewedFixedUndoneAndAccepted: as one person would, and as two at once.
func TestAFindingIsPreviewedFixedUndoneAndAccepted(t *testing.T) {
	r := start(t).whole()
	f := r.found("risk-unguarded")
	if f.Severity != preflight.Caution || f.Path != "/patch/stream/a3" || f.Fix == nil || f.Title != "Start or stop the recording on a3 of Stream" {
		t.Errorf("found is %+v", f)
	}
	var seen struct {
		Title   string
		Changes []struct {
			Kind, What string
			Values     []struct{ Field, Before, After string }
		}
		Left, New []string
	}
	r.must(200, "POST", "/api/v1/preflight/preview", f.about(), &seen)
	if len(seen.Changes) != 1 || len(seen.Changes[0].Values) != 2 || seen.Changes[0].Values[0].After != "hold" || !slices.Equal(seen.Left, []string{f.Sentence}) || len(seen.New) != 0 {
		t.Errorf("the fix would be %+v", seen)
	}
	before := r.Edit.Program().Show.Canonical()
	r.must(200, "POST", "/api/v1/preflight/fix", f.about(), nil)
	r.gone("risk-unguarded")
	r.fails(422, "POST", "/api/v1/preflight/fix", f.about()) // somebody has done it
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	if !bytes.Equal(before, r.Edit.Program().Show.Canonical()) {
		t.Error("undo does not restore the show")
	}
	f = r.found("risk-unguarded")

	accept := func(by *rig, status int, reason string) {
		body := f.about()
		body["reason"] = reason
		if status >= 400 {
			by.fails(status, "POST", "/api/v1/preflight/accepted", body)
			return
		}
		by.must(status, "POST", "/api/v1/preflight/accepted", body, nil)
	}
	accept(r, 422, " ")
	accept(r, 422, strings.Repeat("x", 301))
	accept(r, 204, "Nobody records tonight.")
	r.gone("risk-unguarded")
	r.eventually("with all accepted it is ready", func() bool { return r.preflight().Verdict == preflight.Ready })
	accept(r.another(), 204, "Indeed.") // two accept the same once
	if n := len(r.Edit.Program().Show.Acceptances()); n != 2 {
		t.Errorf("%d findings are accepted, want 2", n)
	}
	label(r, "stream-a3", "Record!")
	if f = r.found("risk-unguarded"); !f.Stale || f.Accepted.Reason != "Indeed." {
		t.Errorf("its key has another label, and it is %+v", f)
	}
	old := f
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	r.gone("risk-unguarded")
	r.fails(409, "POST", "/api/v1/preflight/fix", old.about()) // it was another key that was looked at
	r.must(204, "DELETE", "/api/v1/preflight/accepted/"+r.found("risk-unguarded").AcceptedID, nil, nil)
	if f = r.found("risk-unguarded"); f.Accepted != nil {
		t.Errorf("it was to count again, and is %+v", f)
	}
	r.fails(404, "DELETE", "/api/v1/preflight/accepted/nothing", nil)
}

// TestADeviceThatGoesAwayIsFoundAndComesBack, and its keys say what is gone of it.
func TestADeviceThatGoesAwayIsFoundAndComesBack(t *testing.T) {
	r := start(t).whole()
	change := map[string]any{"rev": r.device("dome-camera").Rev, "name": "Dome camera", "type": "camera.lines", "host": "127.0.0.1", "port": 1}
	r.must(204, "PUT", "/api/v1/devices/dome-camera", change, nil)
	if f := r.foundOf("device-offline", "dome-camera"); f.Severity != preflight.Stops || f.Path != "/rig/device/dome-camera" {
		t.Errorf("found is %+v", f)
	}
	if doc := r.preflight(); doc.Verdict != preflight.NotReady {
		t.Errorf("the verdict is %s", doc.Verdict)
	}
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	r.gone("device-offline")
}

// TestThePreflightOfAnArchiveIsThatOfTheApplication: what follows from the show is found alike.
func TestThePreflightOfAnArchiveIsThatOfTheApplication(t *testing.T) {
	r := start(t).ready()
	font, err := corefaces.NewFont()
	if err != nil {
		t.Fatal(err)
	}
	found := func(p *compiled.Program) (out []string) {
		for _, f := range inspect.New(font, nil).Judge(nil, p, time.Now()).Findings {
			out = append(out, fmt.Sprint(f.Severity, f.ID, f.Subject, f.At, f.Text))
		}
		return out
	}
	r.give("a4", "press", "put-on-program", map[string]string{"mix": "1", "input": "2"})
	r.must(204, "DELETE", "/api/v1/devices/sound-desk", nil, nil)
	body := r.bytesOf("/api/v1/archive")
	a, err := archive.Read(bytes.NewReader(body), int64(len(body)))
	if err != nil {
		t.Fatal(err)
	}
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	here, there := found(r.Edit.Program()), found(compiled.Compile(nil, a.Show, lib, compiled.Sources{Encode: app.Drivers(nil).Encode}))
	if !slices.Equal(here, there) || len(here) < 10 {
		t.Errorf("here is found\n%s\nin the archive\n%s", strings.Join(here, "\n"), strings.Join(there, "\n"))
	}
}

// TestTheNightIsRehearsed: with a hundred edits meanwhile, and what it proposes is done as any fix.
func TestTheNightIsRehearsed(t *testing.T) {
	r := start(t).whole()
	r.must(201, "PUT", "/api/v1/pages/lights/controls/f2", map[string]any{"device": "lectern-prompter", "action": "mirror-off"}, nil)
	once := r.pages("")["lights"].Controls["f2"]
	var edits sync.WaitGroup
	edits.Go(func() {
		other := r.another()
		for i := range 100 {
			label(other, "cut-a1", fmt.Sprint("Label ", i))
		}
	})
	r.must(204, "POST", "/api/v1/preflight/night", nil, nil)
	r.must(204, "POST", "/api/v1/preflight/night", nil, nil) // the one that is under way goes on
	var doc preflightDoc
	r.eventually("the night is rehearsed", func() bool { doc = r.preflight(); return doc.Night != nil })
	edits.Wait()
	if doc.Night.Keys < 150 || doc.Night.Macros != 12 {
		t.Errorf("rehearsed is %+v", doc.Night)
	}
	has := func(id, subject string) bool {
		return slices.ContainsFunc(doc.Night.Findings, func(f finding) bool { return f.ID == id && f.Subject.ID == subject })
	}
	if !has("never-returns", once) || !has("precondition-unmet", "replay-f1") || has("never-returns", "sound-a1") {
		t.Errorf("it found %+v", doc.Night.Findings)
	}
	r.eventually("it says that the show has changed", func() bool { return r.preflight().Night.Changed })
}

// TestControllersAreTouchedInTheRollCall: what is touched is counted and nothing is sent, until it ends; not while something leaves the house.
func TestControllersAreTouchedInTheRollCall(t *testing.T) {
	r := start(t).ready()
	r.connected("stream-pc")
	l := r.follow("rollcall")
	before := r.reading("mix/1/program").Value
	r.must(204, "PUT", "/api/v1/preflight/touches", map[string]any{"on": true}, nil)
	e := r.entry(r.press("b1"), "refused")
	if !strings.Contains(e.Reason, "The roll call is on") {
		t.Errorf("the reason is %q", e.Reason)
	}
	var row struct {
		On      bool
		Touched map[string][]string
	}
	l.until("the touch is counted", func() bool {
		return json.Unmarshal(l.values["rollcall"], &row) == nil && slices.Equal(row.Touched["producer-grid"], []string{"b1"})
	})
	if now := r.reading("mix/1/program").Value; now != before || !row.On {
		t.Errorf("mix effect 1 shows %v, and before it %v; %+v", now, before, row)
	}
	r.must(204, "PUT", "/api/v1/preflight/touches", map[string]any{"on": false}, nil)
	r.entry(r.press("b1"), "confirmed")
	r.must(202, "POST", "/api/v1/devices/stream-pc/try", map[string]any{"action": "stream-start", "params": map[string]string{}}, nil)
	r.eventually("it does not begin on air", func() bool {
		status := r.call("PUT", "/api/v1/preflight/touches", map[string]any{"on": true}, nil)
		if status == 204 {
			r.must(204, "PUT", "/api/v1/preflight/touches", map[string]any{"on": false}, nil)
		}
		return status == 422
	})
}

// TestSafeIsRehearsedInMilliseconds, with what could not take its picture.
func TestSafeIsRehearsedInMilliseconds(t *testing.T) {
	r := start(t).ready()
	r.connected("stream-pc")
	var doc struct {
		Ms, WorstMs float64
		Rows        []struct{ Output, From, To, Problem string }
	}
	get := func() { r.must(200, "GET", "/api/v1/safe/rehearsal", nil, &doc) }
	get()
	if doc.Ms <= 0 || doc.WorstMs < doc.Ms || len(doc.Rows) != 6 || doc.Rows[0].To != "All-sky cam" {
		t.Errorf("rehearsed is %+v", doc)
	}
	r.must(204, "PUT", "/api/v1/devices/dome-switcher", map[string]any{"rev": r.device("dome-switcher").Rev, "name": "Dome switcher", "type": "switcher.osc", "host": "127.0.0.1", "port": 1}, nil)
	r.eventually("it says who is away", func() bool {
		get()
		return doc.Rows[0].Problem == "Dome switcher is away."
	})
}
