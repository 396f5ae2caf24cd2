package app_test

import (
	"net/http"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/store"
)

type showList struct {
	Open  string
	Shows []store.ShowInfo
}

func (r *rig) shows() (l showList) {
	r.Helper()
	r.must(200, "GET", "/api/v1/shows", nil, &l)
	return l
}

// copies makes a show that is as the one that is open.
func (r *rig) copies(name string) string {
	r.Helper()
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/shows", map[string]any{"name": name, "from": r.shows().Open}, &made)
	return made.ID
}

// opens puts a show in force.
func (r *rig) opens(id string, sure bool) {
	r.Helper()
	r.must(204, "POST", "/api/v1/shows/"+id+"/open", map[string]any{"sure": sure}, nil)
}

func TestAnotherShowIsPutInForceAndSharedLinksStay(t *testing.T) {
	r := start(t).ready()
	first := r.shows()
	if len(first.Shows) != 1 || first.Shows[0].Name != "Meteor Night" || first.Shows[0].Devices != demoDevices || first.Open != first.Shows[0].ID {
		t.Fatalf("there are %+v", first)
	}
	r.entry(r.press("a1"), journal.Confirmed)
	rehearsal := r.copies("Rehearsal")
	var look struct{ Ends, Stays []string }
	r.must(200, "GET", "/api/v1/shows/"+rehearsal+"/opening", nil, &look)
	if len(look.Ends) != 0 || len(look.Stays) != demoDevices {
		t.Errorf("it would end %v and keep %v", look.Ends, look.Stays)
	}
	since := r.phase("dome-switcher").Since
	r.opens(rehearsal, false)
	if d := r.doc(); d.Name != "Rehearsal" || d.Undo != "" {
		t.Errorf("open is %q, and undo would take back %q", d.Name, d.Undo)
	}
	r.entry(r.press("c1"), journal.Confirmed)
	for of, want := range map[string]string{"open": " " + rehearsal, "all": " " + first.Open + " " + rehearsal} {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?of="+of, nil, &rows)
		had := map[string]bool{}
		for _, e := range rows {
			had[e.Show] = true
		}
		for _, id := range []string{first.Open, rehearsal} {
			if had[id] != strings.Contains(want, id) {
				t.Errorf("the journal of %s has entries of %v", of, had)
			}
		}
	}
	if st := r.phase("dome-switcher"); st.Phase != link.Up || !st.Since.Equal(since) {
		t.Errorf("the link did not stay: %s since %v, before since %v", st.Phase, st.Since, since)
	}

	// What is edited in one show leaves the other as it is.
	dev := r.device("dome-switcher")
	r.must(204, "PUT", "/api/v1/devices/dome-switcher", map[string]any{"rev": dev.Rev, "name": "Studio switcher", "type": "switcher.osc", "host": dev.Host, "port": dev.Port}, nil)
	r.opens(first.Open, false)
	if got := r.device("dome-switcher").Name; got != "Dome switcher" {
		t.Errorf("in the first show it is called %s", got)
	}
	r.opens(rehearsal, false)
	if got := r.device("dome-switcher").Name; got != "Studio switcher" {
		t.Errorf("in the second show it is called %s", got)
	}
	r.undo()
	if got := r.device("dome-switcher").Name; got != "Dome switcher" {
		t.Errorf("undo goes along the edits of the show that is open: %s", got)
	}
}

func TestAnEmptyShowEndsTheLinksAndTheNextStartOpensIt(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	demo := r.shows().Open
	var made struct{ ID string }
	if p := r.fails(422, "POST", "/api/v1/shows", map[string]any{"name": "  "}); p.Field != "name" {
		t.Errorf("a show without a name: %+v", p)
	}
	r.must(201, "POST", "/api/v1/shows", map[string]any{"name": "Planetarium"}, &made)
	r.opens(made.ID, false)
	if d := r.doc(); d.Name != "Planetarium" || len(d.Devices) != 0 || len(d.Controllers) != 0 {
		t.Errorf("it has %+v", d)
	}
	r.eventually("nobody is connected to the switcher", func() bool { return r.Bench.StandIn("switcher").View().Clients == 0 })
	r.fails(404, "POST", "/api/v1/input/producer-grid/a1/press", nil)
	r.App.Close()
	again := startIn(t, data)
	if l := again.shows(); l.Open != made.ID || len(l.Shows) != 2 {
		t.Errorf("after a restart: %+v", l)
	}
	again.opens(demo, false)
	if d := again.doc(); d.Name != "Meteor Night" || len(d.Devices) != demoDevices {
		t.Errorf("the first show has %q, %d devices", d.Name, len(d.Devices))
	}
}

func TestWhatGoesOnIsLetGoOfOnlyWhenSomebodyIsSure(t *testing.T) {
	r := start(t).ready()
	other := r.copies("Other")
	run := r.run("meteor")
	r.eventually("the run goes on", func() bool {
		var o struct{ Runs []string }
		r.must(200, "GET", "/api/v1/shows/"+other+"/opening", nil, &o)
		return slices.Equal(o.Runs, []string{"Meteor!"})
	})
	h := r.hand("treadle")
	h.do("pedal2", "down", 0)
	r.eventually("somebody talks", func() bool { return r.atStandIn("intercom", "/line/1/talk") == true })
	p := r.fails(http.StatusConflict, "POST", "/api/v1/shows/"+other+"/open", map[string]any{})
	if !strings.Contains(p.Detail, "the run of Meteor! is halted") || !strings.Contains(p.Detail, "is closed") || r.shows().Open == other {
		t.Errorf("it says %q", p.Detail)
	}
	r.opens(other, true)
	if got := r.atStandIn("intercom", "/line/1/talk"); got != false {
		t.Error("the talk stays open when its show is gone")
	}
	if e := r.entry(run, journal.Halted); !strings.Contains(e.Reason, "opened another show") {
		t.Errorf("the run: %s", e.Reason)
	}
	h.do("pedal2", "up", 0) // nobody minds
	r.entry(r.press("c1"), journal.Confirmed)
}

func TestADeletedShowIsKeptAndComesBack(t *testing.T) {
	r := start(t)
	open := r.shows().Open
	if p := r.fails(http.StatusConflict, "DELETE", "/api/v1/shows/"+open, nil); !strings.Contains(p.Detail, "Open another one first") {
		t.Errorf("deleting the open show: %q", p.Detail)
	}
	spare := r.copies("Spare")
	r.must(204, "PUT", "/api/v1/shows/"+spare, map[string]any{"name": "Spare of Friday"}, nil)
	r.must(204, "DELETE", "/api/v1/shows/"+spare, nil, nil)
	at := slices.IndexFunc(r.shows().Shows, func(i store.ShowInfo) bool { return i.ID == spare })
	if at < 0 || r.shows().Shows[at].Deleted == "" || r.shows().Shows[at].Name != "Spare of Friday" {
		t.Fatalf("there are %+v", r.shows().Shows)
	}
	r.fails(404, "POST", "/api/v1/shows/"+spare+"/open", map[string]any{})
	r.must(204, "POST", "/api/v1/shows/"+spare+"/back", nil, nil)
	r.opens(spare, false)
	r.must(204, "PUT", "/api/v1/shows/"+spare, map[string]any{"name": "Saturday"}, nil)
	if d := r.doc(); d.Name != "Saturday" || d.Undo != "Call the show Saturday" {
		t.Errorf("open is %q, undo %q", d.Name, d.Undo)
	}
	for _, id := range []string{"nobody", "..", "%2e%2e%2fsheets"} {
		r.fails(404, "DELETE", "/api/v1/shows/"+id, nil)
	}
}
