package ui

import (
	"encoding/json"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/overlay"
	"synaptor/internal/paint"
	"synaptor/test/browser"
)

// TestOverlaysAreMadeShownAndTakenBack: a clock and a name plate are made as a person would, shown by a key, read on the page that streaming software takes
// in, and gone from there when the address is taken back.
func TestOverlaysAreMadeShownAndTakenBack(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(".phase.up"), p.Click("#overlays"), p.Click("#overlay-make"), p.See("#overlay-address"))
	add := func(name, kind string, more ...error) {
		t.Helper()
		p.do(p.Click("#add-overlay"), p.Fill("#overlay-name", name), p.Choose(`[data-field="Shows"]`, kind))
	}
	add("Talk clock", "timer")
	p.do(p.Click("#overlay-save"), p.Text("form", "Choose a timer"), p.Choose(`[data-field="Timer"]`, "on-air"), p.Click("#overlay-save"), p.See(`[data-overlay="Talk clock"]`))
	add("Guests", "caption")
	p.do(p.Fill("#overlay-lines", "Noor Halvorsen | Watches meteors\nPiet Rasmus | Draws sky maps"), p.Click("#overlay-save"), p.See(`[data-overlay="Guests"]`))
	// It is moved by hand, and back.
	place := `document.querySelector('[data-place="Guests"]').dataset.at`
	p.do(p.Wait(`document.querySelector('[data-place="Guests"]').focus() === undefined`), p.Press("ArrowRight", 0), p.Wait(place+` === "7 76"`), p.Press("ArrowDown", 0), p.Wait(place+` === "7 77"`), p.Press("z", 2), p.Wait(place+` === "7 76"`))
	p.axe("overlays")

	var at struct{ Path string }
	if err := json.Unmarshal(p.get("/api/v1/overlay-address"), &at); err != nil {
		t.Fatal(err)
	}
	q := meet(t, p.app, at.Path)
	q.do(q.Resize(1280, 720), q.See("main"), q.Wait(`document.querySelectorAll(".overlay").length === 5 && !document.querySelector(".overlay.on")`))
	only, err := browser.Eval[bool](q.Page, `document.cookie === "" && performance.getEntriesByType("resource").every((r) => /overlay|\/assets\/.*\.(woff2|css)$|\/events$|favicon/.test(r.name)) && document.scripts.length === 1`)
	if err != nil || !only {
		t.Errorf("something of the application is on the page (%v)", err)
	}

	// Keys show them.
	p.do(p.Goto("/patch"), p.See(key("a1", ".on-air")))
	for control, name := range map[string]string{"d4": "Guests", "e4": "Talk clock"} {
		p.do(p.Click(key(control, ".cross")), p.Press("a", 0), p.seek("show or hide "+strings.ToLower(name)),
			p.See(`.result.active[data-find^="action:overlay:"]`), p.Keys("\r"), p.Text(key(control, ".label"), strings.Fields(name)[0]), p.Press("Escape", 0), p.Click(key(control, "")), p.Click(".try"), p.See(key(control, ".on-air")))
	}
	q.do(q.Text(".caption.on", "Noor Halvorsen"), q.Text(".timer.on", "0:00"), q.Wait(`[...document.querySelectorAll(".overlay.on")].every((o) => getComputedStyle(o).opacity === "1")`))
	var all []overlay.Element
	if err := json.Unmarshal(p.get("/api/v1/overlays"), &all); err != nil {
		t.Fatal(err)
	}
	clock := all[slices.IndexFunc(all, func(e overlay.Element) bool { return e.Kind == "timer" && e.ID != "corner-clock" })]
	clock.Shown, clock.Text = true, "0:00"
	plate := overlay.Element{Kind: "caption", Look: "band", Align: "left", X: 7, Y: 76, Width: 46, Size: 6, Shown: true, Text: "Noor Halvorsen", Second: "Watches meteors"}
	q.asPainted(clock, plate)
	q.do(q.Goto(at.Path), q.Text(".caption.on", "Noor Halvorsen"), q.Text(".timer.on", "0:00"))

	// A viewer asks something, and is seen.
	if err := p.app.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{"Okular: ?is it far"}}); err != nil {
		t.Fatal(err)
	}
	q.do(q.Text(".comment.on .second", "Okular"), q.Wait(`(() => { const seen = document.querySelector(".comment.on .face img"); return seen.naturalWidth > 0 && !seen.hidden && getComputedStyle(document.querySelector(".comment.on")).opacity === "1"; })()`))
	q.asPainted(clock, plate, overlay.Element{Kind: "comment", Look: "board", Align: "left", X: 6, Y: 50, Width: 60, Size: 5, Shown: true, Text: "?is it far", Second: "Okular", Initial: "O"})

	p.do(p.Goto("/rig/overlays"), p.Text(".address", "Open at 127.0.0.1"), p.Click("#overlay-back"), p.See("#overlay-make"))
	q.do(q.Wait(`document.querySelectorAll(".overlay").length === 0`))
	q.do(q.Goto(at.Path), q.Text("body", "There are no overlays at this address"))
}

// asPainted holds the page against how overlays are painted: at least 85 in a hundred pixels that either has ink on.
func (p *person) asPainted(all ...overlay.Element) {
	p.Helper()
	painter, err := paint.New(nil)
	if err != nil {
		p.Fatal(err)
	}
	want := image.NewRGBA(image.Rect(0, 0, 1280, 720))
	painter.Overlays(want, overlay.Page{Elements: all})
	file := filepath.Join(p.TempDir(), "page.png")
	p.do(p.Shot(file))
	raw, err := os.ReadFile(file)
	if err != nil {
		p.Fatal(err)
	}
	got, err := png.Decode(strings.NewReader(string(raw)))
	if err != nil {
		p.Fatal(err)
	}
	both, either := 0, 0
	ground := color.RGBAModel.Convert(got.At(1270, 710))
	for y := range 720 {
		for x := range 1280 {
			a, b := want.RGBAAt(x, y) != (color.RGBA{}), color.RGBAModel.Convert(got.At(x, y)) != ground
			if a || b {
				either++
			}
			if a && b {
				both++
			}
		}
	}
	if either == 0 || both*100 < either*85 {
		p.Errorf("of %d pixels with ink on the page or as it is painted, %d have it on both", either, both)
	}
}
