package main

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/test/browser"
	"synaptor/web"
)

// The desk that is drawn: five controllers of thirty keys.
const (
	deskControllers = 5
	deskKeys        = 30
	lampsChanging   = 40
	changesASecond  = 10
	watchTime       = 8 * time.Second
)

const deskSheet = `{"sheet": "synaptor.controller/1", "type": "bench-grid", "title": "Thirty keys", "zone": "keys", "grid": {"columns": 6, "rows": 5}}`

// drawn measures how fluently the desk is drawn while its lamps change, how long a
// change takes to the screen of a panel, and how long a large show takes to open
// and to edit.
func drawn() error {
	b, err := browser.Start()
	if err != nil {
		return err
	}
	defer b.Close()
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	if err := os.MkdirAll(filepath.Join(data, "sheets"), 0o700); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(data, "sheets", "bench-grid.json"), []byte(deskSheet), 0o600); err != nil {
		return err
	}
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Bench: true, Files: web.Files()})
	if err != nil {
		return err
	}
	defer a.Close()
	sw := a.Bench.StandIn("switcher")
	host, port, err := net.SplitHostPort(sw.Addr())
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return err
	}
	if err := a.Edit.Fill(edit.Who{Session: "bench", Actor: "bench"}, "fill", func(d *show.Draft) { wide(d, host, n) }); err != nil {
		return err
	}
	if err := fluency(b, a, sw); err != nil {
		return err
	}
	if err := toTheScreen(b, a.Addr, sw); err != nil {
		return err
	}
	return opening(b)
}

// wide is a show of five controllers whose keys put inputs on program; 40 of the 150
// show inputs 1 and 2.
func wide(d *show.Draft, host string, port int) {
	d.Put(&show.Device{ID: "sw", Slug: "dome-switcher", Name: "Dome switcher", Type: "switcher.osc", Host: host, Port: port})
	d.Put(&show.Profile{ID: "p", Slug: "meteor-night", Name: "Meteor Night"})
	d.Put(&show.Page{ID: "page", Slug: "page", Name: "Cut", Profile: "p", Layout: "bench-grid", Zone: "keys"})
	for c := range deskControllers {
		id := fmt.Sprint("c", c)
		profile := fmt.Sprint("p", c)
		d.Put(&show.Profile{ID: profile, Slug: profile, Name: profile, Position: c + 1})
		d.Put(&show.Controller{ID: id, Slug: id, Name: "Grid " + id, Layout: "bench-grid", Profile: profile, Position: c, X: c % 3 * 428, Y: c / 3 * 390})
		page := fmt.Sprint("page", c)
		d.Put(&show.Page{ID: page, Slug: "cut", Name: "Cut", Profile: profile, Layout: "bench-grid", Zone: "keys"})
		for i := range deskKeys {
			input := 3 + i%4
			if at := c*deskKeys + i; at < lampsChanging {
				input = 1 + at%2
			}
			control := device.CellID(i%6, i/6)
			d.Put(&show.Mapping{ID: page + control, Placements: []show.Placement{{Page: page, Control: control}},
				Responses: []show.Response{{Gesture: "press", Action: show.Call{Device: "sw", Action: "put-on-program", Params: map[string]string{"input": strconv.Itoa(input), "mix": "1"}}}}})
		}
	}
	longRuns(d)
}

// runs is how many macros run while the Desk is watched, each for longer than that.
const runs = 4

// longRuns are macros that switch a keyer twice a second.
func longRuns(d *show.Draft) {
	for m := range runs {
		id := fmt.Sprint("run", m)
		d.Put(&show.Macro{ID: id, Name: fmt.Sprint("Long run ", m), Position: m})
		at := 0
		step := func(s show.Step) {
			at++
			s.ID, s.Macro, s.Position = fmt.Sprint(id, "-", at), id, at
			d.Put(&s)
		}
		for range 2 * int(3*watchTime/time.Second) {
			step(show.Step{Kind: macro.Do, Action: &show.Call{Device: "sw", Action: "keyer-toggle", Params: map[string]string{"keyer": strconv.Itoa(1 + m%3)}}})
			step(show.Step{Kind: macro.Wait, Ms: 500})
		}
	}
}

// watch counts frames and long tasks in a page until it is asked.
const watch = `(() => { const w = window.watched = {frames: [], long: []}; let last = performance.now();
	const o = new PerformanceObserver((l) => { for (const e of l.getEntries()) w.long.push(e.duration); }); o.observe({entryTypes: ["longtask"]});
	const f = (t) => { w.frames.push(t - last); last = t; if (window.watched === w) requestAnimationFrame(f); else o.disconnect(); }; requestAnimationFrame(f); return true; })()`

type watchedFrames struct{ Frames, Long []float64 }

// fluency watches the frames of the desk drawing, at rest and while 40 lamps change
// ten times a second.
func fluency(b *browser.Browser, a *app.App, sw panel.StandIn) error {
	addr := a.Addr
	open := func(path string) (*browser.Page, error) {
		p, err := b.Open("http://"+addr, 1280, 800, true)
		if err != nil {
			return nil, err
		}
		if err := p.Goto(path); err != nil {
			return p, err
		}
		return p, p.Wait(fmt.Sprintf(`document.querySelectorAll(".tile:not(.away)").length >= %d`, deskControllers*deskKeys))
	}
	p, err := open("/patch")
	if err != nil {
		return err
	}
	fmt.Printf("\nthe desk drawing in Chromium: %d controllers, %d keys; the floor is a page with nothing on it\n", deskControllers, deskControllers*deskKeys)
	fmt.Println("                                  frames a second   dropped   long tasks   the longest, ms")
	blank, err := b.Open("http://"+addr, 1280, 800, true)
	if err != nil {
		return err
	}
	defer blank.Close()
	if err := blank.Goto("/api/v1/glyphs"); err != nil {
		return err
	}
	program := func(i int) error { return sw.Operate(device.Message{Address: "/mix/1/program", Args: []any{1 + i%2}}) }
	for _, m := range []struct {
		title  string
		page   *browser.Page
		change func(int) error
	}{
		{"floor", blank, func(int) error { return nil }},
		{"at rest", p, func(int) error { return nil }},
		{fmt.Sprintf("%d lamps, %d times a second", lampsChanging, changesASecond), p, program},
	} {
		w, err := watched(m.page, m.change)
		if err != nil {
			return err
		}
		w.print(m.title)
	}
	p.Close()
	if p, err = open("/desk"); err != nil {
		return err
	}
	defer p.Close()
	w, err := watched(p, program)
	if err != nil {
		return err
	}
	w.print("Desk: the same lamps")
	for m := range runs {
		id, at := journal.NextID(), time.Now()
		if why := a.Engine.RunMacro(engine.Input{Entry: id, At: at, Via: "bench", Actor: "bench"}, fmt.Sprint("run", m)); why != "" {
			return errors.New(why)
		}
	}
	if err := p.Wait(fmt.Sprintf(`document.querySelectorAll("[data-run]").length === %d`, runs)); err != nil {
		return err
	}
	if w, err = watched(p, program); err != nil {
		return err
	}
	w.print(fmt.Sprintf("Desk: the same, and %d runs", runs))
	return nil
}

// watched counts frames and long tasks in a page while something changes.
func watched(p *browser.Page, change func(int) error) (w watchedFrames, err error) {
	if _, err := browser.Eval[bool](p, watch); err != nil {
		return w, err
	}
	for i, end := 0, time.Now().Add(watchTime); time.Now().Before(end); i++ {
		if err := change(i); err != nil {
			return w, err
		}
		time.Sleep(time.Second / changesASecond)
	}
	return browser.Eval[watchedFrames](p, `(() => { const w = window.watched; window.watched = undefined; return {Frames: w.frames, Long: w.long}; })()`)
}

// print tells how many frames there were and how many of 60 a second were dropped.
func (w watchedFrames) print(title string) {
	const frame = 1000.0 / 60
	total, dropped, longest := 0.0, 0, 0.0
	for _, f := range w.Frames {
		total += f
		dropped += int(f/frame - 0.5)
	}
	if len(w.Long) > 0 {
		longest = slices.Max(w.Long)
	}
	fmt.Printf("%-34s %14.1f %9d %12d %17.0f\n", title, float64(len(w.Frames))*1000/total, dropped, len(w.Long), longest)
}

// toTheScreen measures from a hand on the switcher's front panel to the frame in
// which the panel in the browser shows it.
func toTheScreen(b *browser.Browser, addr string, sw panel.StandIn) error {
	p, err := b.Open("http://"+addr, 1024, 768, true)
	if err != nil {
		return err
	}
	defer p.Close()
	if err := p.Goto("/panel/c0"); err != nil {
		return err
	}
	if err := p.See(`[data-control="a1"] .tile`); err != nil {
		return err
	}
	// A message of the live socket, the change of the face it brings, and the frame that
	// shows it, as the page's own clock has them.
	hook := `(() => { window.shown = []; const key = document.querySelector('[data-control="a1"]');
		new MutationObserver(() => { const on = !!key.querySelector(".on-air"); const at = performance.timeOrigin + performance.now(); const began = performance.now();
			requestAnimationFrame((t) => setTimeout(() => window.shown.push({on, at, frames: Math.max(0, t - began) / (1000 / 60)}))); }).observe(key, {subtree: true, attributes: true, childList: true, attributeFilter: ["class"]}); return true; })()`
	if _, err := browser.Eval[bool](p, hook); err != nil {
		return err
	}
	var took []time.Duration
	if err := sw.Operate(device.Message{Address: "/mix/1/program", Args: []any{2}}); err != nil {
		return err
	}
	if err := p.See(`[data-control="a1"] .tile:not(.on-air)`); err != nil {
		return err
	}
	for i := range 100 {
		want := i%2 == 0
		before := time.Now()
		if err := sw.Operate(device.Message{Address: "/mix/1/program", Args: []any{int(2 - (i+1)%2)}}); err != nil {
			return err
		}
		if err := p.Wait(fmt.Sprintf("window.shown.at(-1)?.on === %v", want)); err != nil {
			return err
		}
		at, err := browser.Eval[float64](p, `window.shown.find((s) => s.on === `+strconv.FormatBool(want)+` && s.at > `+strconv.FormatFloat(float64(before.UnixMicro())/1000, 'f', 3, 64)+`)?.at ?? 0`)
		if err != nil {
			return err
		}
		if at > 0 {
			took = append(took, time.Duration(at*1e6)-time.Duration(before.UnixNano()))
		}
	}
	frames, err := browser.Eval[[]float64](p, `window.shown.map((s) => s.frames)`)
	if err != nil {
		return err
	}
	slices.Sort(frames)
	fmt.Println("\nmicroseconds                                            median     p95     p99   worst")
	fmt.Println("hand on the switcher → the face on a panel's page has it ", describe(took))
	fmt.Printf("from there to the frame that shows it: median %.1f frames, worst %.1f\n", frames[len(frames)/2], frames[len(frames)-1])
	return nil
}

// opening measures how long a show of 4,800 mappings takes to open and to edit.
func opening(b *browser.Browser) error {
	data, err := os.MkdirTemp("", "synaptor-bench")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	o := app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Files: web.Files()}
	a, err := app.Start(o)
	if err != nil {
		return err
	}
	if err := a.Edit.Fill(edit.Who{Session: "bench", Actor: "bench"}, "fill", func(d *show.Draft) { large(d, "127.0.0.1", 9) }); err != nil {
		a.Close()
		return err
	}
	a.Close()
	began := time.Now()
	if a, err = app.Start(o); err != nil {
		return err
	}
	defer a.Close()
	started := time.Since(began)
	resp, err := http.Get("http://" + a.Addr + "/api/v1/show")
	if err != nil {
		return err
	}
	_ = resp.Body.Close()
	answered := time.Since(began)
	p, err := b.Open("http://"+a.Addr, 1280, 800, true)
	if err != nil {
		return err
	}
	defer p.Close()
	opened := time.Now()
	if err := p.Goto("/patch"); err != nil {
		return err
	}
	if err := p.Wait(`document.querySelectorAll(".tile").length >= 24`); err != nil {
		return err
	}
	seen := time.Since(opened)
	var edits []time.Duration
	for i := range 100 {
		before := time.Now()
		_, err := a.Edit.PutAction(edit.Who{Session: "bench", Actor: "bench"}, "page007", "a1",
			edit.Action{Device: "sw", Action: "put-on-program", Params: map[string]string{"input": strconv.Itoa(1 + i%6), "mix": "1"}})
		if err != nil {
			return err
		}
		edits = append(edits, time.Since(before))
	}
	fmt.Printf("\na show of %d mappings: started in %d ms, first answer after %d ms, drawn in the browser in %d ms\n", pages*24, started.Milliseconds(), answered.Milliseconds(), seen.Milliseconds())
	fmt.Println("microseconds                             median     p95     p99   worst")
	fmt.Println("an edit is stored and in the engine    ", describe(edits))
	return nil
}
