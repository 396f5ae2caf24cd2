package app_test

import (
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
	"synaptor/internal/night"
	"synaptor/internal/web"
)

// TestTheDeskIsArranged: as the demo has it at first, then as somebody wants it, also after a restart; and it is no edit.
func TestTheDeskIsArranged(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	var d web.DeskDoc
	r.must(200, "GET", "/api/v1/me/desk", nil, &d)
	if !slices.Contains(d.Controllers, "treadle") || d.CountTo != "23:30" || d.CountAt.IsZero() || d.CountAt.In(r.Edit.Program().TimeZone).Format("15:04") != "23:30" || d.TimeZone != "Europe/Berlin" {
		t.Fatalf("the demo's Desk is %+v", d)
	}
	edits := r.Edit.Last()
	r.must(204, "PUT", "/api/v1/me/desk", show.Desk{Controllers: []string{"treadle"}, Parts: []string{"presses"}, Side: "below"}, nil)
	if status := r.call("PUT", "/api/v1/me/desk", show.Desk{Controllers: []string{"gone"}, Parts: []string{"presses"}, Side: "below"}, nil); status != 422 {
		t.Errorf("a controller that is gone answers %d", status)
	}
	if r.Edit.Last() != edits {
		t.Error("the Desk was arranged, and the show was edited")
	}
	r, d = r.again(data), web.DeskDoc{}
	r.must(200, "GET", "/api/v1/me/desk", nil, &d)
	if !slices.Equal(d.Controllers, []string{"treadle"}) || d.Side != "below" || d.CountTo != "" {
		t.Errorf("after a restart the Desk is %+v", d)
	}
}

// TestMarkersAreSetChangedAndHandedOver: by a key and by hand, placed in a recording that counts in drop frame, and written for other programs.
func TestMarkersAreSetChangedAndHandedOver(t *testing.T) {
	r := start(t).ready()
	r.change("29.97 frames a second", func(d *show.Draft) {
		c := *r.Edit.Program().Show.Settings()
		c.FrameRate = 29.97
		d.Put(&c)
		d.Put(&show.Mapping{ID: "mark", Placements: []show.Placement{{Page: "cut", Control: "d4"}}, Responses: []show.Response{{Gesture: "press",
			Action: show.Call{Device: "synaptor", Action: "marker", Params: map[string]string{"words": "Fireball", "kind": "highlight", "lead": "4"}}}}})
	})
	began := time.Now().Add(-time.Minute)
	entry := r.entry(r.press("d4"))
	var made web.Created
	r.must(201, "POST", "/api/v1/markers", web.MarkerForm{Text: "Übergang", Kind: "chapter"}, &made)
	if status := r.call("POST", "/api/v1/markers", web.MarkerForm{Text: "", Kind: "chapter"}, nil); status != 422 {
		t.Errorf("a marker that says nothing answers %d", status)
	}
	at := "began=" + began.UTC().Format(time.RFC3339Nano)
	list := func() (out []web.MarkerDoc) {
		r.must(200, "GET", "/api/v1/markers?"+at, nil, &out)
		return out
	}
	all := list()
	if len(all) != 2 || all[0].Text != "Fireball" || all[0].Kind != "highlight" || all[0].LeadMs != 4000 || all[0].Entry != entry.ID || entry.At.Sub(all[0].At) < 3*time.Second {
		t.Fatalf("the markers are %+v", all)
	}
	path := "/api/v1/markers/" + made.ID
	if status := r.call("PUT", path, web.MarkerForm{Timecode: "00:01:00;00", Began: began}, nil); status != 422 {
		t.Errorf("a timecode that drop frame does not have answers %d", status)
	}
	r.must(204, "PUT", path, web.MarkerForm{Timecode: "00:00:30;15", Began: began}, nil)
	if all = list(); all[0].Text != "Übergang" || all[0].Timecode != "00:00:30;15" {
		t.Errorf("after one was moved they are %+v", all)
	}
	if edl := r.text("/api/v1/markers/export?form=edl&" + at); !strings.Contains(edl, "FCM: DROP FRAME") || !strings.Contains(edl, "00:00:30;15 00:00:30;16") || !strings.Contains(edl, "CHAPTER: Ubergang") {
		t.Errorf("the edit list is %q", edl)
	}
	if vtt := r.text("/api/v1/markers/export?form=vtt&" + at); !strings.HasPrefix(vtt, "WEBVTT\n") || !strings.Contains(vtt, "chapter: Übergang") {
		t.Errorf("the cues are %q", vtt)
	}
	r.must(204, "DELETE", path, nil, nil)
	if status := r.call("DELETE", path, nil, nil); status != 404 || len(list()) != 1 {
		t.Errorf("dropped twice answers %d, and %d are left", status, len(list()))
	}
}

// change edits the show.
func (r *rig) change(name string, f func(*show.Draft)) {
	r.Helper()
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, name, f); err != nil {
		r.Fatal(err)
	}
}

// TestWhatAPressSetsOffIsInItsChain: the press, the reflex that a reading set off, and nothing else.
func TestWhatAPressSetsOffIsInItsChain(t *testing.T) {
	r := start(t).ready()
	r.change("A reflex", func(d *show.Draft) {
		d.Put(&show.Reflex{ID: "logo", Name: "Logo with the telescope", On: show.On{Kind: reflex.OnReading, Device: "dome-switcher", Path: "mix/1/program", Edge: "becomes", Value: "2"},
			Then: show.Call{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": "1"}}})
	})
	other, id := r.entry(r.press("c1")), ""
	id = r.press("b1")
	r.entry(id, journal.Confirmed)
	var chain []journal.Entry
	r.eventually("the reflex has followed the press", func() bool {
		r.must(200, "GET", "/api/v1/journal/"+id+"/chain", nil, &chain)
		return len(chain) == 2
	})
	if chain[0].ID != id || chain[1].Cause != id || chain[1].Via != "reflex" || chain[1].ID == other.ID {
		t.Errorf("the chain is %+v", chain)
	}
	var same []journal.Entry
	r.must(200, "GET", "/api/v1/journal/"+chain[1].ID+"/chain", nil, &same)
	if len(same) != 2 || same[0].ID != id {
		t.Errorf("from its end the chain is %+v", same)
	}
	if status := r.call("GET", "/api/v1/journal/nothing/chain", nil, nil); status != 404 {
		t.Errorf("the chain of nothing answers %d", status)
	}
}

// TestANightWithARestartInItIsReported, and what was on air goes on being on air where nobody ended it.
func TestANightWithARestartInItIsReported(t *testing.T) {
	data, began := t.TempDir(), time.Now()
	r := startIn(t, data).ready()
	r.entry(r.press("b1"), journal.Confirmed)
	r = r.again(data)
	r.entry(r.press("c1"), journal.Confirmed)
	var n night.Report
	r.eventually("both starts are reported", func() bool {
		r.must(200, "GET", "/api/v1/night/report?form=json&since="+began.UTC().Format(time.RFC3339Nano), nil, &n)
		return len(n.Starts) == 2
	})
	if n.Starts[0].Unclean || n.Starts[1].Unclean || len(n.Uses) != 2 || n.TroublesInAll != 0 {
		t.Errorf("the report is %+v", n)
	}
	if page := r.text("/api/v1/night/report?since=" + began.UTC().Format(time.RFC3339Nano)); !strings.Contains(page, "after it had been ended") || !strings.Contains(page, "Producer grid") {
		t.Errorf("the page is %.400s", page)
	}
}

// TestANightThatCannotBeKeptSaysSo: nothing is half kept, and what can be is.
func TestANightThatCannotBeKeptSaysSo(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	folder := filepath.Join(data, "nights")
	if err := os.WriteFile(folder, []byte("in the way"), 0o600); err != nil {
		t.Fatal(err)
	}
	var doc web.ClosedNight
	if status := r.call("POST", "/api/v1/night", web.ClosingForm{Name: ""}, nil); status != 422 {
		t.Errorf("a version without a name answers %d", status)
	}
	r.must(200, "POST", "/api/v1/night", web.ClosingForm{Name: "Night"}, &doc)
	problems := map[string]string{}
	for _, row := range doc.Saved {
		problems[row.What] = row.Problem
	}
	if problems["files"] == "" || problems["version"] != "" || problems["backup"] != "" || doc.Night != "" || len(problems) != 3 {
		t.Errorf("saved is %+v", doc)
	}
	if err := os.Remove(folder); err != nil {
		t.Fatal(err)
	}
	doc = web.ClosedNight{}
	r.must(200, "POST", "/api/v1/night", web.ClosingForm{Name: "Night"}, &doc)
	var c web.ClosingDoc
	r.must(200, "GET", "/api/v1/night", nil, &c)
	want := []string{"journal.csv", "markers.csv", "markers.edl", "markers.vtt", "report.csv", "report.html", "show.synaptor.zip"}
	if doc.Night == "" || len(c.Nights) != 1 || !slices.Equal(c.Nights[0].Files, want) {
		t.Fatalf("kept is %+v: %+v", doc, c.Nights)
	}
	for _, f := range want {
		if body := r.text("/api/v1/nights/" + strings.ReplaceAll(doc.Night, " ", "%20") + "/" + f); body == "" {
			t.Errorf("%s is empty", f)
		}
	}
	for _, bad := range []string{"..%2F..", ".making-1", "nothing"} {
		if status := r.call("GET", "/api/v1/nights/"+bad+"/report.html", nil, nil); status != 404 {
			t.Errorf("%s answers %d", bad, status)
		}
	}
	left, err := os.ReadDir(folder)
	if err != nil || len(left) != 1 {
		t.Errorf("in the folder are %v (%v)", left, err)
	}
}

// A file that cannot be written leaves no folder behind.
func TestANightIsKeptWholeOrNotAtAll(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "nights")
	f := night.Folder(dir)
	good := night.File{Name: "report.html", Write: func(w io.Writer) error { _, err := io.WriteString(w, "whole"); return err }}
	bad := night.File{Name: "markers.edl", Write: func(w io.Writer) error { _, _ = io.WriteString(w, "half"); return markers.ErrTooMany }}
	if _, err := f.Keep("Meteor Night", time.Now(), []night.File{good, bad}); err == nil || !strings.Contains(err.Error(), "markers.edl") {
		t.Errorf("it gave %v", err)
	}
	left, err := os.ReadDir(dir)
	if err != nil || len(left) != 0 {
		t.Errorf("there is left %v (%v)", left, err)
	}
	for i := range 103 {
		if _, err := f.Keep("Meteor Night", time.Date(2026, 8, 12, 0, i, 0, 0, time.UTC), []night.File{good}); err != nil {
			t.Fatal(err)
		}
	}
	list, err := f.List()
	if err != nil || len(list) != 100 || list[0].ID != "2026-08-12 01-42-00 meteor-night" {
		t.Errorf("%d are kept, the newest %+v (%v)", len(list), list[0], err)
	}
}
