// Command screenshots takes a picture of each main view, from the demo show:
// screenshots FOLDER.
package main

import (
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"path/filepath"

	"synaptor/internal/app"
	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
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
	return errors.Join(s.patch(), s.face(), s.find(), s.bench(), s.others(), s.rig(), s.hardware(a), s.away(a), s.macros(), s.reflexes(a), s.preflight(), s.journal(), s.panel(), s.people())
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

// face edits a face, with a picture and a lamp of its own, and looks at the page map.
func (s shots) face() error {
	upload := func() error {
		_, err := browser.Eval[bool](s.Page, `(() => { const d = new DataTransfer(); d.items.add(new File(['`+meteor+`'], "Meteor.svg"));
			const i = document.querySelector("[data-upload] input"); i.files = d.files; i.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`)
		return err
	}
	return steps(s.click(`[data-controller="producer-grid"][data-control="a3"]`), func() error { return s.Press("e", 0) }, s.see(`[data-face="label"]`),
		s.click(`[data-shows="picture"]`), s.see("[data-upload]"), upload, s.see(`[data-control="a3"] img.picture`),
		s.click(`[data-lamps="add"]`), s.see(`[data-lamp="0"] [data-field="Reading"]`), s.shot("face"), func() error { return s.Press("Escape", 0) },
		s.click("#undo"), s.click(`[data-tool="map"]`), s.see(`[aria-label="Page map"] svg`), s.shot("page-map"), s.goTo("/patch"), s.see(`[data-control="b1"] .on-air`))
}

// meteor is a picture for a key.
const meteor = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect width="100" height="100" fill="#1a2340"/><path d="M10 15L62 62" stroke="#f6d27a" stroke-width="6" stroke-linecap="round"/><circle cx="66" cy="66" r="9" fill="#fff3c4"/></svg>`

func (s shots) find() error {
	return steps(s.click(`[data-control="a4"]`), func() error { return s.Press("a", 0) }, s.see(`[data-find^="kit:"]`),
		func() error { return s.Keys("preview row") }, s.see(`[data-find="kit:preview-row:2"]`),
		func() error { return s.Hold(`[data-find="kit:preview-row:2"]`, `[data-control="a4"]`, 0) }, s.see(".landing"), s.shot("what-should-it-do"),
		func() error { return s.Press("Escape", 0) }, s.goTo("/patch"))
}

func (s shots) bench() error {
	return steps(s.see("#bench"), s.click("#bench"), s.see(`[data-front="1/program/3"]`), s.click(`[data-front="1/program/3"]`),
		s.see(`[data-control="c1"] .on-air`), s.shot("bench"), s.click(`[data-standin="mixer"]`), s.see(`[data-front="open/1"]`),
		s.click(`[data-front="open/1"]`), s.see(`[data-front="open/1"].lit`),
		s.click(`[data-standin="streaming"]`), s.see(`[data-front="scene/3"] img`), s.click(`[data-front="scene/3"]`), s.click(`[data-front="stream"]`),
		s.see(`[data-front="scene/3"].live`), s.shot("bench-streaming"))
}

// others puts the front panels of the other stand-ins side by side.
func (s shots) others() error {
	var parts []image.Image
	for _, p := range []struct{ standIn, seen, press string }{
		{"intercom", "talk/1", "talk/1"}, {"lights", "lamp/1", "lamp/3"}, {"camera", "preset/3", "preset/3"}, {"player", "play", "play"}, {"chat", "follow", "follow"},
		{"workstation", "app/2", "app/2"}, {"keys", "a1", "c1"}, {"faders", "pad1", "pad3"}, {"numeric", "KEY_KP5", "KEY_KP5"},
	} {
		if p.standIn == "keys" {
			if err := s.attached(); err != nil {
				return err
			}
		}
		front := func(id string) string { return fmt.Sprintf("[data-front=%q]", id) }
		file := filepath.Join(os.TempDir(), "synaptor-part.png")
		err := steps(s.click(fmt.Sprintf("[data-standin=%q]", p.standIn)), s.see(front(p.seen)), s.click(front(p.press)), func() error { return s.Shot(file) })
		if err != nil {
			return err
		}
		img, err := read(file)
		if err != nil {
			return err
		}
		parts = append(parts, img)
	}
	sheet := image.NewRGBA(image.Rect(0, 0, 3*440, 3*330))
	draw.Draw(sheet, sheet.Rect, image.NewUniform(color.RGBA{0x14, 0x18, 0x1b, 0xff}), image.Point{}, draw.Src)
	for i, p := range parts {
		at := image.Pt(i%3*440, i/3*330)
		draw.Draw(sheet, image.Rectangle{at, at.Add(image.Pt(440, 330))}, p, image.Pt(830, 204), draw.Src)
	}
	f, err := os.Create(filepath.Join(s.folder, "bench-others.png"))
	if err != nil {
		return err
	}
	return errors.Join(png.Encode(f, sheet), f.Close())
}

// attached has the keys of the bench show the page of the producer's grid.
func (s shots) attached() error {
	return steps(s.click(`[data-standin="keys"]`), func() error {
		return s.Wait(`(() => { if (!window.attaching) window.attaching = fetch("/api/v1/show").then(r => r.json()).then(d => fetch("/api/v1/links", {method: "POST", headers: {"Content-Type": "application/json"},
			body: JSON.stringify({controller: d.controllers.find(c => c.slug === "producer-grid").id, kind: "wire", match: "BENCH-8K2D"})}));
			return document.querySelector('[data-front="a1"]')?.title.includes("Presenter"); })()`)
	})
}

// reflexes has the audience ask for the map, and asks the record what the reflex would have done.
func (s shots) reflexes(a *app.App) error {
	var asks []func() error
	for _, text := range []string{"Nachteule: hello!", "Sternfahrer: !map", "Okular: !map", "Kometa: WHERE IS IT"} {
		asks = append(asks, func() error {
			return a.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{text}})
		})
	}
	return steps(s.goTo("/reflexes/map"), s.see("#reflex-save"), func() error { return steps(asks...) }, func() error { return s.Text(`[data-reflex="Map command"]`, "Fired") },
		s.see(`[data-timeline="Map command"] .bar.held`), s.see("#try-event"), s.click("#ask-night"), s.see("#night"),
		func() error {
			return s.Wait(`(document.querySelector("#night").scrollIntoView({block: "center"}), true)`)
		}, s.shot("reflexes"), s.goTo("/patch"), s.see(`[data-control="b1"]`))
}

func read(file string) (image.Image, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return png.Decode(f)
}

func (s shots) rig() error {
	return steps(s.goTo("/rig"), s.see(`[data-device="workstation"] .phase.up`), s.click("#roll-call"), s.see("#roll"),
		s.click(`[data-device="dome-camera"] .name`), s.click(`[data-part="try"]`), s.click(`[data-action="brightness"]`),
		s.click(`aside form button[type="submit"]`), s.see("[data-outcome]"), s.click(`[data-part="link"]`), s.click(`[data-device="stream-pc"] .name`),
		s.see("#enter-again"), s.shot("rig"), func() error { return s.Press("Escape", 0) }, s.click("#all-readings"), s.see("#search-readings"),
		func() error { return s.Fill("#search-readings", "level") }, func() error { return s.Press("Escape", 0) })
}

// hardware learns a pad of the fader row by touching it.
func (s shots) hardware(a *app.App) error {
	touch := func() error {
		return a.Bench.StandIn("faders").Operate(device.Message{Address: "/pad2", Args: []any{"press"}})
	}
	return steps(s.goTo("/rig"), s.see(`[data-loose="Fader row"]`),
		func() error {
			return s.Wait(`(() => { [...document.querySelectorAll('[data-loose="Fader row"] .act')].at(-1).click(); return true; })()`)
		},
		s.see(`[data-of="fader-row"] .phase.up`), s.click(`[data-of="fader-row"] .act`), s.see("[data-link]"), s.click("#learn"),
		func() error { return s.Wait(`document.querySelector("[data-lesson]")?.dataset.lesson`) }, touch, s.see("[data-source]"), s.shot("rig-hardware"),
		s.click("#end-lesson"), s.click("#undo"))
}

// preflight makes the roll call, rehearses the night and previews a fix.
func (s shots) preflight() error {
	return steps(s.goTo("/preflight"), s.see(`[data-finding="risk-unguarded"]`), s.click("#call"), s.see("[data-rolled]"), s.click("#rehearse-night"), s.see("#night"),
		s.click(`[data-finding="risk-unguarded"] .fix`), s.see(".apply"), s.shot("preflight"), s.goTo("/patch"), s.see(`[data-control="b1"]`))
}

// away cuts the cable, presses, and looks.
func (s shots) away(a *app.App) error {
	cut := func() error { return a.Bench.Switcher.SetFaults(faults.Faults{Cut: true}) }
	mend := func() error { return a.Bench.Switcher.SetFaults(faults.Faults{}) }
	return steps(s.goTo("/desk"), s.see(`[data-control="c1"] .on-air`), s.click(`[data-control="b2"]`), s.see(`[data-control="b2"] .preview`), s.click(`[data-plate="treadle"] [data-control="pedal1"]`), s.see("[data-run]"), cut, s.see(`[data-control="c1"] .unknown`),
		s.click(`[data-control="d1"]`), s.see(`[data-control="d1"] .refusal`), func() error { return s.Text("[data-away]", "1 press was not sent") }, s.shot("desk"), mend, s.see(`[data-control="c1"] .on-air:not(.unknown)`),
		func() error { return s.Wait(`!document.querySelector("[data-run]")`) }, s.goTo("/patch"))
}

// macros runs one for real, a second into it.
func (s shots) macros() error {
	return steps(s.goTo("/macros/meteor"), s.see(".bar"), s.click("#run-macro"), s.see("#run-really"), s.click("#run-really"), s.see(".lane .real"), s.see(".together"), s.shot("macros"), s.click("#halt"),
		s.see("#run-macro"), func() error { return s.Click(`.decisions p button:last-child`) }, s.goTo("/patch"), s.see(`[data-control="c1"] .on-air`))
}

func (s shots) journal() error {
	return steps(s.click(`[data-control="b1"]`), s.click(".try"), s.see(`[data-control="b1"] .on-air`), s.goTo("/journal"), s.see("tbody tr.confirmed"), s.click("tbody tr.confirmed"), s.see(".trace [data-stage=face]"), s.shot("journal"),
		s.click("#shows"), s.click(`[data-part="versions"]`), func() error { return s.Fill("#version-name", "Before the rehearsal") }, func() error { return s.Keys("\r") }, s.see("[data-version]"), s.shot("shows"), func() error { return s.Press("Escape", 0) })
}

func (s shots) panel() error {
	return steps(s.goTo("/panel/producer-grid"), s.see(`[data-control="b1"] .on-air`),
		func() error { return s.Wait(`!document.querySelector(".refusal")`) }, s.shot("panel"),
		func() error { return s.Resize(390, 844) }, s.see(`[data-control="b1"] .on-air`), s.shot("panel-phone"),
		func() error { return s.Resize(1280, 800) }, s.goTo("/panel/scope-console"), s.see(`[data-control="dial1"] .dial:not(.unknown)`), s.shot("panel-console"))
}

// people sets the first passphrase, and invites.
func (s shots) people() error {
	return steps(s.goTo("/rig"), s.click("#people"), s.see("#claim-name"), func() error { return s.Fill("#claim-name", "Tobin") }, func() error { return s.Fill("#claim-passphrase", "seven bright meteors") },
		s.click("#claim"), s.see(`[data-part="people"]`), s.click(`[data-part="people"]`), s.see(`[data-person="Oyelaran"]`), s.click(`[data-part="panels"]`), s.see(`[data-panel="Saskia's tablet"]`),
		func() error {
			return s.Wait(`!document.querySelector("main.lost") && !document.querySelector(".notices > *")`)
		}, s.shot("people"))
}
