// Package ui does with the real interface what a person does.
package ui

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/demo/demotest"
	"synaptor/internal/sheet"
	"synaptor/test/browser"
	"synaptor/web"
)

var chromium *browser.Browser

// TestMain has four people sit beside each other, since each waits now and then. A device that a busy machine keeps from answering is not lost to them.
func TestMain(m *testing.M) {
	flag.Parse()
	lib, err := sheet.Load(nil)
	if err == nil {
		err = flag.Set("test.parallel", "4")
	}
	if err != nil {
		panic(err)
	}
	for _, t := range lib.Devices() {
		t.Deadline *= 6
		if t.Sheet.Link.Transport != "udp" { // nothing but silence says that one by UDP has gone
			t.Alive *= 3
		}
	}
	b, err := browser.StartWith("force-prefers-reduced-motion") // a third of the pictures are of things that slide in and fade over; those who have them Move say so
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	chromium = b
	code := m.Run()
	b.Close()
	os.Exit(code)
}

// moves is whether things on the page slide in and fade over.
const moves = `!matchMedia("(prefers-reduced-motion: reduce)").matches`

// person is somebody with a browser of their own on a running Synaptor.
type person struct {
	*testing.T
	*browser.Page
	app *app.App
}

// sit starts a Synaptor, with the demo show or empty, and opens a path of it.
// Others do so beside it, each with a Synaptor of their own.
func sit(t *testing.T, path string, demo bool) *person {
	t.Helper()
	return sitWith(t, path, app.Options{Demo: demo})
}

// sitWith starts a Synaptor with options of its own.
func sitWith(t *testing.T, path string, o app.Options) *person {
	t.Helper()
	t.Parallel()
	o.Listen, o.OSC, o.Data, o.Files = "127.0.0.1:0", "127.0.0.1:0", t.TempDir(), web.Files()
	a, err := app.Start(o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	if o.Demo {
		if err := demotest.Clear(a.Edit); err != nil {
			t.Fatal(err)
		}
	}
	return meet(t, a, path)
}

// asks has the requests of the pages that are gone to from now on be what JavaScript makes of a request r: send(r), later(r), which waits in
// window.late until it is called there, or refused(), which says that it is closed.
func (p *person) asks(js string) error {
	return p.Before(`window.late = []; const send = window.fetch;
		const later = (r) => new Promise((go) => late.push(() => go(send(r))));
		const refused = () => Promise.resolve(Response.json({ detail: "The dome is closed." }, { status: 503, headers: { "Content-Type": "application/problem+json" } }));
		window.fetch = (r) => ` + js)
}

// meet opens another browser on the same Synaptor.
func meet(t *testing.T, a *app.App, path string) *person {
	t.Helper()
	p, err := chromium.Open("http://"+a.Addr, 1280, 800, true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.Close)
	who := &person{t, p, a}
	who.do(p.Goto(path))
	return who
}

// do fails the test, with a picture, when a step did not work.
func (p *person) do(errs ...error) {
	p.Helper()
	for _, err := range errs {
		if err == nil {
			continue
		}
		file := os.TempDir() + "/synaptor-" + strings.ReplaceAll(p.Name(), "/", "-") + ".png"
		if p.Shot(file) == nil {
			p.Logf("what the screen showed: %s", file)
		}
		p.Fatal(err)
	}
}

// key selects a key of the producer grid, in a state.
func key(control, state string) string { return on("producer-grid", control, state) }

// on selects a part of a control of a controller.
func on(controller, control, part string) string {
	return `[data-controller="` + controller + `"][data-control="` + control + `"] ` + part
}

// empty waits until a key has nothing on it.
func (p *person) empty(control string) {
	p.Helper()
	p.do(p.Wait(`document.querySelector('[data-control="` + control + `"] .cross')`))
}
