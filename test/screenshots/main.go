// Command screenshots takes a picture of each main view, from the demo show:
// screenshots FOLDER.
package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"synaptor/internal/app"
	"synaptor/internal/bench/faults"
	"synaptor/test/browser"
	"synaptor/web"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: screenshots FOLDER")
		os.Exit(2)
	}
	if err := run(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "screenshots:", err)
		os.Exit(1)
	}
}

func run(folder string) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	data, err := os.MkdirTemp("", "synaptor-shots")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Demo: true, Files: web.Files()})
	if err != nil {
		return err
	}
	defer a.Close()
	b, err := browser.Start()
	if err != nil {
		return err
	}
	defer b.Close()
	p, err := b.Open("http://"+a.Addr, 1280, 800, false)
	if err != nil {
		return err
	}
	defer p.Close()
	s := shots{p, folder}
	return errors.Join(s.patch(), s.find(), s.bench(), s.rig(), s.away(a), s.journal(), s.panel())
}

type shots struct {
	*browser.Page
	folder string
}

// steps runs steps until one fails.
func steps(list ...func() error) error {
	for _, f := range list {
		if err := f(); err != nil {
			return err
		}
	}
	return nil
}

func (s shots) shot(name string) func() error {
	return func() error { return s.Shot(filepath.Join(s.folder, name+".png")) }
}

func (s shots) see(selector string) func() error { return func() error { return s.See(selector) } }

func (s shots) click(selector string) func() error { return func() error { return s.Click(selector) } }

func (s shots) goTo(path string) func() error { return func() error { return s.Goto(path) } }

func (s shots) patch() error {
	return steps(s.goTo("/patch"), s.see(`[data-control="a1"] .on-air`), s.click(`[data-control="b1"]`), s.click(".try"),
		s.see(`[data-control="b1"] .on-air`), func() error { return s.Text(".path", "Put Telescope feed") }, s.shot("patch"))
}

func (s shots) find() error {
	return steps(s.click(`[data-control="a4"]`), func() error { return s.Press("a", 0) }, s.see(`[data-find^="kit:"]`),
		func() error { return s.Keys("preview row") }, s.see(`[data-find="kit:preview-row:2"]`),
		func() error { return s.Hold(`[data-find="kit:preview-row:2"]`, `[data-control="a4"]`, 0) }, s.see(".landing"), s.shot("what-should-it-do"),
		func() error { return s.Press("Escape", 0) }, s.goTo("/patch"))
}

func (s shots) bench() error {
	return steps(s.see("#bench"), s.click("#bench"), s.see(`[data-front="1/program/3"]`), s.click(`[data-front="1/program/3"]`),
		s.see(`[data-control="c1"] .on-air`), s.shot("bench"), s.click(`[data-standin="mixer"]`), s.see(`[data-front="open/1"]`),
		s.click(`[data-front="open/1"]`), s.see(`[data-front="open/1"].lit`), s.shot("bench-sound-desk"))
}

func (s shots) rig() error {
	return steps(s.goTo("/rig"), s.see(".phase.up"), s.click(`[data-device="dome-switcher"] .name`), s.see("#device-host"), s.see("dl dd"), s.shot("rig"))
}

// away cuts the cable, presses, and looks.
func (s shots) away(a *app.App) error {
	cut := func() error { return a.Bench.Switcher.SetFaults(faults.Faults{Cut: true}) }
	mend := func() error { return a.Bench.Switcher.SetFaults(faults.Faults{}) }
	return steps(s.goTo("/patch"), s.see(`[data-control="c1"] .on-air`), cut, s.see(`[data-control="c1"] .unknown`), s.click(`[data-control="d1"]`),
		s.click(".try"), s.see(`[data-control="d1"] .refusal`), s.shot("device-away"), mend, s.see(`[data-control="c1"] .on-air:not(.unknown)`))
}

func (s shots) journal() error {
	return steps(s.goTo("/journal"), s.see("tbody tr.confirmed"), s.click("tbody tr.confirmed"), s.see(".trace [data-stage=face]"), s.shot("journal"))
}

func (s shots) panel() error {
	return steps(s.goTo("/panel/producer-grid"), s.see(`[data-control="c1"] .on-air`),
		func() error { return s.Wait(`!document.querySelector(".refusal")`) }, s.shot("panel"),
		func() error { return s.Resize(390, 844) }, s.see(`[data-control="c1"] .on-air`), s.shot("panel-phone"))
}
