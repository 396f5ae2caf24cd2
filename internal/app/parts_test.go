package app_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"net/http"
	"slices"
	"testing"

	"synaptor/internal/core/parts"
	"synaptor/internal/journal"
)

// TestPartsOfAnArchiveAreTakenIntoAShowWithOtherDevicesAndUndone: a page of the demo, with its macros and a picture, into a
// show of one switcher.
func TestPartsOfAnArchiveAreTakenIntoAShowWithOtherDevicesAndUndone(t *testing.T) {
	r := start(t).ready()
	var logo bytes.Buffer
	if err := png.Encode(&logo, image.NewNRGBA(image.Rect(0, 0, 40, 30))); err != nil {
		t.Fatal(err)
	}
	_, picture := r.upload("Logo", logo.Bytes())
	m := r.at("a1")
	r.must(200, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"picture": picture}}, nil)
	whole := r.bytesOf("/api/v1/archive")
	dome := r.device("dome-switcher")

	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/shows", map[string]any{"name": "Studio"}, &made)
	r.opens(made.ID, false)
	r.must(201, "POST", "/api/v1/devices", map[string]any{"name": "Studio switcher", "type": "switcher.osc", "host": "127.0.0.1", "port": dome.Port}, &made)
	studio := made.ID
	r.must(201, "POST", "/api/v1/controllers", map[string]any{"name": "Grid", "layout": "grid-6x4"}, nil)
	before := string(r.Edit.Program().Show.Canonical())

	var doc struct{ Token string }
	status, raw := r.send("/api/v1/archives", whole)
	if err := json.Unmarshal(raw, &doc); err != nil || status != http.StatusOK {
		t.Fatalf("%d %s", status, raw)
	}
	at := "/api/v1/archives/" + doc.Token + "/parts"
	var there struct {
		Pages, Macros, Profiles []struct{ ID, Name string }
		Devices, Controllers    map[string]string
	}
	r.must(200, "GET", at, nil, &there)
	if len(there.Pages) < 10 || len(there.Macros) != 12 || there.Devices["dome-switcher"] != studio {
		t.Fatalf("there is %+v", there)
	}
	if p := r.fails(422, "POST", at, map[string]any{}); p.Field != "pages" {
		t.Errorf("nothing is taken: %+v", p)
	}
	wish := map[string]any{"pages": []string{"cut"}, "devices": there.Devices, "controllers": there.Controllers, "only": true}
	var rows []parts.Row
	r.must(200, "POST", at, wish, &rows)
	if len(rows) == 0 || string(r.Edit.Program().Show.Canonical()) != before {
		t.Errorf("looking has changed the show, or tells nothing: %+v", rows)
	}
	wish["only"] = false
	r.must(200, "POST", at, wish, &rows)
	page := ""
	for _, p := range r.Edit.Program().Show.Pages() {
		if p.Name == "Cut" {
			page = p.ID
		}
	}
	r.must(202, "PUT", "/api/v1/controllers/"+r.doc().Controllers[0].ID+"/page", map[string]any{"page": page}, nil)
	r.eventually("the switcher is connected", func() bool { return r.phase(studio).Phase == "up" })
	r.entry(r.pressOn("grid", "c1"), journal.Confirmed)
	if v := r.Bench.StandIn("switcher").View().Values["/mix/1/program"]; v == nil {
		t.Error("the switcher has no program")
	}
	if body := r.bytesOf("/api/v1/media/" + picture); len(body) == 0 {
		t.Error("the picture did not travel")
	}
	r.undo()
	if string(r.Edit.Program().Show.Canonical()) != before {
		t.Error("undo does not take it back")
	}
	if list := r.versions(); len(list) == 0 || list[0].Why != "before taking from Meteor Night" {
		t.Errorf("no version was kept before: %+v", list)
	}
}

// TestAnArchiveLendsNobodysRights: what fires by itself has the rights of whoever brought it, whatever the archive says.
func TestAnArchiveLendsNobodysRights(t *testing.T) {
	r := claimed(t)
	edda := r.as("Edda")
	id := ""
	for _, p := range r.People.All() {
		if p.Name == "Edda" {
			id = p.ID
		}
	}
	owners := func() (out []string) {
		for _, of := range r.Edit.Program().Show.Reflexes() {
			out = append(out, of.Owner)
		}
		return out
	}
	if all := owners(); id == "" || len(all) != demoReflexes || slices.Contains(all, id) {
		t.Fatalf("the reflexes have the rights of %q; Edda is %q", all, id)
	}
	var doc struct {
		Token string
		Fires []string
	}
	status, raw := edda.send("/api/v1/archives", edda.bytesOf("/api/v1/archive"))
	if err := json.Unmarshal(raw, &doc); err != nil || status != http.StatusOK || !slices.Contains(doc.Fires, "Duck the music") {
		t.Fatalf("%d %s", status, raw)
	}
	at := "/api/v1/archives/" + doc.Token
	var there struct{ Devices map[string]string }
	edda.must(200, "GET", at+"/parts", nil, &there)
	edda.must(200, "POST", at+"/parts", map[string]any{"reflexes": []string{"duck"}, "devices": there.Devices}, nil)
	if all := owners(); len(all) != demoReflexes+1 || all[demoReflexes] != id {
		t.Errorf("with the one that was taken, they have the rights of %q", all)
	}
	edda.undo()
	var made struct{ ID string }
	edda.must(201, "POST", at+"/show", map[string]any{"name": "Again"}, &made)
	r.opens(made.ID, true)
	if all := owners(); len(all) != demoReflexes || slices.ContainsFunc(all, func(o string) bool { return o != id }) {
		t.Errorf("in her show they have the rights of %q", all)
	}
}
