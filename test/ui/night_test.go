package ui

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/night"
	"synaptor/test/witness"
)

// onDesk selects a part of a control of a controller on the Desk.
func onDesk(controller, control, part string) string {
	return `[data-plate="` + controller + `"] [data-control="` + control + `"] ` + part
}

// page turns a controller to a page by its tab on the Desk.
func (p *person) page(controller, name string) {
	p.Helper()
	p.do(p.Wait(`(() => { const t = [...document.querySelectorAll('[data-plate="` + controller + `"] [role=tab]')].find((e) => e.textContent.trim() === "` + name + `");
		if (!t) return false; if (t.getAttribute("aria-selected") === "true") return true; t.click(); return false; })()`))
}

// get fetches something of Synaptor.
func (p *person) get(path string) []byte {
	p.Helper()
	r, err := http.Get("http://" + p.app.Addr + path)
	if err != nil {
		p.Fatal(err)
	}
	defer func() { _ = r.Body.Close() }()
	body, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != http.StatusOK {
		p.Fatalf("%s: %s %v %.200s", path, r.Status, err, body)
	}
	return body
}

// TestTheNightIsPlayed as docs/demo-night.md has it, and what the report says is held against what the devices lived through.
func TestTheNightIsPlayed(t *testing.T) {
	p := sit(t, "/desk", true)
	eye, err := witness.Follow(witness.Streaming, p.app.Bench.StandIn("streaming").Addr(), witness.Login{Password: streaming.Password})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(eye.Close)
	began := time.Now()
	switcher := func(path string, input any) {
		t.Helper()
		if err := p.app.Bench.Switcher.Operate(device.Message{Address: path, Args: []any{input}}); err != nil {
			t.Fatal(err)
		}
	}
	cut := func(out bool) {
		t.Helper()
		if err := p.app.Bench.Switcher.SetFaults(faults.Faults{Cut: out}); err != nil {
			t.Fatal(err)
		}
	}

	// 1 and 2: locked, and on air through a guard; a brush is not enough.
	p.do(p.See(onDesk("producer-grid", "a1", ".tile")), p.Press("l", 0), p.See("#locked.locked"))
	p.page("producer-grid", "Home")
	p.do(p.See(onDesk("producer-grid", "b2", ".tile")), p.Click(onDesk("producer-grid", "b2", "")), p.Text(`[data-part="presses"]`, "guarded"))
	p.do(p.Down(onDesk("producer-grid", "b2", "")), p.See(`[data-run="Open the night"]`), p.Up(onDesk("producer-grid", "b2", "")), p.See(".status .stream.active"), p.Wait(`!document.querySelector("[data-run]")`))

	// 3 and 4: a cut, and a meteor that returns by itself.
	p.page("producer-grid", "Cut")
	p.do(p.See(onDesk("producer-grid", "b2", ".tile")), p.Click(onDesk("producer-grid", "b2", "")), p.See(onDesk("producer-grid", "b2", ".preview")), p.Click(onDesk("producer-grid", "b3", "")), p.See(onDesk("producer-grid", "b1", ".on-air")), p.See(onDesk("producer-grid", "a2", ".preview")))
	p.do(p.Click(onDesk("treadle", "pedal1", "")), p.See(`[data-run="Meteor!"]`), p.See(onDesk("producer-grid", "c1", ".on-air")), p.Text(`[data-part="markers"]`, "Meteor"), p.Wait(`!document.querySelector("[data-run]")`), p.See(onDesk("producer-grid", "b1", ".on-air")))

	// 5 and 6: the cable comes out, and goes in again.
	cut(true)
	p.do(p.See(`[data-away="Dome switcher"]`), p.Click(onDesk("producer-grid", "d1", "")), p.Text(`[data-away="Dome switcher"]`, "1 press was not sent"), p.Text(`[data-part="presses"]`, "does not answer"))
	switcher("/mix/1/program", 5)
	cut(false)
	p.do(p.See(`[data-returned="Dome switcher"]`), p.See(onDesk("producer-grid", "e1", ".on-air")), p.Text(`[data-differs="Dome switcher: Program of mix effect 1"]`, "Telescope feed"), p.Click(`[data-differs="Dome switcher: Program of mix effect 1"] button`),
		p.See(onDesk("producer-grid", "b1", ".on-air")), p.Wait(`!document.querySelector('[data-differs="Dome switcher: Program of mix effect 1"]')`))
	p.do(p.Wait(`!document.querySelector("[data-returned]") || (document.querySelectorAll("[data-returned] > p:first-child button")[1].click(), false)`))

	// 7: a press is put back, after it was listed.
	p.do(p.Click(onDesk("producer-grid", "d1", "")), p.See(onDesk("producer-grid", "d1", ".on-air")), p.Click(`[data-press] button`), p.Text(".returns", "Guest cam → Telescope feed"), p.Click("#put-back-now"), p.See(onDesk("producer-grid", "b1", ".on-air")))

	// 8: all outputs are safe, and not any more.
	p.do(p.Click(onDesk("thumb-pad", "e2", "")), p.Text(onDesk("thumb-pad", "e2", ""), "6 of 6"))
	p.page("producer-grid", "Home")
	p.do(p.See(onDesk("producer-grid", "c4", ".tile")), p.Down(onDesk("producer-grid", "c4", "")), p.Text(`[data-part="presses"]`, "Put back what Safe has changed confirmed"), p.Up(onDesk("producer-grid", "c4", "")))
	p.page("producer-grid", "Cut")
	p.do(p.See(onDesk("producer-grid", "b1", ".on-air")))

	// 9: a hand interferes; what it has changed stays.
	p.do(p.Click(onDesk("treadle", "pedal1", "")), p.See(onDesk("producer-grid", "c1", ".on-air")), p.Wait(`document.querySelector('[data-part="markers"] ol').textContent.split("Meteor").length === 3`))
	switcher("/mix/1/program", 5)
	p.do(p.See(onDesk("producer-grid", "e1", ".on-air")), p.Wait(`!document.querySelector("[data-run]")`), p.See(onDesk("producer-grid", "e1", ".on-air")))

	// 10: the night ends.
	p.do(p.Fill(`[data-part="markers"] input[data-field="Marker"]`, "Fireball"), p.Click("#set-marker"), p.Text(`[data-part="markers"] ol`, "Fireball"))
	p.page("producer-grid", "Home")
	p.do(p.See(onDesk("producer-grid", "b3", ".tile")), p.Down(onDesk("producer-grid", "b3", "")), p.See(`[data-run="Good night"]`), p.Up(onDesk("producer-grid", "b3", "")), p.See(".status .stream:not(.active)"), p.Wait(`!document.querySelector("[data-run]")`))

	// 11: it is closed.
	lamps := `[data-still="dome-lights/lamp/1/on"]`
	p.do(p.Click("#close-night"), p.See(lamps), p.Click(lamps+" button"), p.Wait(`!document.querySelector('`+lamps+`')`))
	p.do(p.Wait(`!document.querySelector('[data-still="stream-pc/stream/on"]')`), p.Fill(`input[data-field="Name of the version"]`, "Meteor Night, played"), p.Click("#keep-the-night"), p.See(`[data-kept="files"]:not(.wrong)`), p.See(`[data-kept="version"]:not(.wrong)`), p.See(`[data-kept="backup"]:not(.wrong)`), p.See("[data-night]"))
	p.reports(began, eye)
}

// reports holds the report of the night against what the devices lived through.
func (p *person) reports(began time.Time, eye *witness.Witness) {
	p.Helper()
	since := url.QueryEscape(began.Add(-5 * time.Second).UTC().Format(time.RFC3339Nano)) // a marker stands as long before its press
	var r night.Report
	if err := json.Unmarshal(p.get("/api/v1/night/report?form=json&since="+since), &r); err != nil {
		p.Fatal(err)
	}
	// On air once, when the streaming software was.
	var lived []time.Time
	for _, h := range eye.Since(began) {
		if h.Path == "stream/on" {
			lived = append(lived, h.At)
		}
	}
	i := slices.IndexFunc(r.OnAir, func(s night.Span) bool { return s.Kind == "stream" })
	if len(lived) != 2 || i < 0 || slices.ContainsFunc(r.OnAir[i+1:], func(s night.Span) bool { return s.Kind == "stream" }) {
		p.Fatalf("the stream changed at %v, the report has %+v", lived, r.OnAir)
	}
	for n, said := range []time.Time{r.OnAir[i].From, r.OnAir[i].To} {
		if d := said.Sub(lived[n]).Abs(); d > 5*time.Second { // each heard it by a socket of its own, on a machine that is busy
			p.Errorf("the report has it %v away from what the device lived through", d)
		}
	}
	if len(r.Lost) != 1 || r.Lost[0].Title != "Dome switcher" || r.Lost[0].To.IsZero() {
		p.Errorf("the links lost are %+v", r.Lost)
	}
	var marks []string
	for _, m := range r.Markers {
		marks = append(marks, m.Kind+" "+m.Text)
	}
	slices.Sort(marks)
	if want := []string{"chapter The night begins", "highlight Meteor", "highlight Meteor", "note Fireball"}; !slices.Equal(marks, want) {
		p.Errorf("the markers are %q", marks)
	}
	if !slices.ContainsFunc(r.Troubles, func(e night.Row) bool {
		return e.Title == "Put Guest cam on program" && strings.Contains(e.Reason, "does not answer")
	}) {
		p.Errorf("the refused press is not among %+v", r.Troubles)
	}
	if len(r.Together) < 2 || len(r.Slowest) == 0 || len(r.Accepted) != 1 {
		p.Errorf("togethers %d, slowest %d, accepted %d", len(r.Together), len(r.Slowest), len(r.Accepted))
	}
	if u := slices.IndexFunc(r.Uses, func(u journal.Use) bool {
		return u.Controller == "treadle" && u.Control == "pedal1"
	}); u < 0 || r.Uses[u].N != 2 {
		p.Errorf("the treadle was pressed twice; the report has %+v", r.Uses)
	}
	rows, err := csv.NewReader(strings.NewReader(string(p.get("/api/v1/night/report?form=csv&since=" + since)))).ReadAll()
	if err != nil || !slices.ContainsFunc(rows, func(row []string) bool { return row[0] == "link lost" && row[3] == "Dome switcher" }) {
		p.Errorf("the table of the report has %d rows (%v), and no link lost among them", len(rows), err)
	}
}
