package ui

import (
	"fmt"
	"testing"

	"synaptor/test/browser"
)

// band draws a rubber band from the middle of one control to that of another.
func (p *person) band(from, to string) {
	p.Helper()
	p.do(p.Drag(on("producer-grid", from, ""), on("producer-grid", to, ""), 0))
}

func (p *person) selected(n int) error {
	return p.Wait(fmt.Sprintf(`document.querySelectorAll(".selected, .also").length === %d`, n))
}

func TestSeveralKeysAreSelectedMovedCopiedAndCleared(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	// A band from an empty key takes what it touches.
	p.band("f4", "d3")
	p.do(p.selected(6), p.Text(".tools b", "6 keys"))
	p.do(p.Press("Delete", 0))
	p.empty("d3")
	p.do(p.Press("z", 2), p.See(key("d3", ".tile")))
	// Shift adds; dragging one takes all along, and shows where they land.
	p.do(p.Click(on("producer-grid", "a3", "")), p.Mouse("mousePressed", p.place(on("producer-grid", "b3", "")), 8), p.Mouse("mouseReleased", p.place(on("producer-grid", "b3", "")), 8), p.selected(2))
	p.do(p.Hold(on("producer-grid", "a3", ""), on("producer-grid", "d4", ""), 0), p.Wait(`document.querySelectorAll(".landing").length === 2`))
	p.do(p.Drag(on("producer-grid", "a3", ""), on("producer-grid", "d4", ""), 0), p.Text(key("d4", ".label"), "Cut"), p.Text(key("e4", ".label"), "Auto"), p.selected(2))
	p.empty("a3")
	// Copied and put on from another key on, and to another page.
	p.do(p.Press("c", 2), p.Click(on("producer-grid", "a4", "")), p.Press("v", 2), p.Text(key("a4", ".label"), "Cut"), p.Text(key("b4", ".label"), "Auto"))
	p.do(p.Press("ArrowRight", 8), p.selected(2), p.Press("d", 2), p.Click(`[aria-label="Copy to a page"] button:nth-of-type(5)`), p.Text(key("a4", ".label"), "Cut"),
		p.Text(`[role="tab"][aria-selected="true"]`, "Sound"))
	// The same mapping twice.
	p.do(p.Press("c", 2), p.Click(on("producer-grid", "c4", "")), p.Press("Escape", 0), p.Press("V", 2|8), p.Text("#undo", "Copy"))
	for range 4 {
		p.do(p.Press("z", 2))
	}
	p.do(p.Click(`[role="tab"]:nth-child(2)`), p.Text(key("a3", ".label"), "Cut"))
	p.do(p.Press("a", 2), p.selected(18))
}

// place is where an element is.
func (p *person) place(selector string) browser.Point {
	p.Helper()
	at, err := p.At(selector)
	p.do(err)
	return at
}

func TestAFaceAndItsLampsAreEditedInPlace(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(on("producer-grid", "a3", "")), p.Press("e", 0), p.See(`[aria-label="Face of a3"] [data-face="label"]`))
	// Label, place and size.
	p.do(p.Fill(`[data-face="label"]`, "Swap them"), p.Click(`[aria-label="middle centre"]`), p.Text(key("a3", ".label"), "Swap"), p.See(key("a3", ".label.middle.centre")))
	p.do(p.Fill(`[data-face="label"]`, "on {reading(1}"), p.Click(`[aria-label="top right"]`), p.Text(`aside [role="alert"]`, "at character 5"), p.Text(key("a3", ".label"), "Swap"))
	p.do(p.Fill(`[data-face="label"]`, "🌠 {1 + 1}"), p.Click(`[aria-label="bottom left"]`), p.Text(key("a3", ".label"), "🌠 2"))
	// A glyph, and a picture that is uploaded, then one that is refused.
	p.do(p.Click(`[data-shows="glyph"]`), p.See(`[data-glyph="rocket"]`), p.Click(`[data-glyph="rocket"]`), p.Wait(`document.querySelector('[data-control="a3"] use').getAttribute("href").endsWith("#rocket")`))
	p.do(p.Click(`[data-shows="picture"]`), p.See(`[data-upload]`))
	upload := func(name, body string) error {
		_, err := browser.Eval[bool](p.Page, fmt.Sprintf(`(() => { const d = new DataTransfer(); d.items.add(new File([%q], %q)); const i = document.querySelector("[data-upload] input");
			i.files = d.files; i.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`, body, name))
		return err
	}
	p.do(upload("Meteor.svg", `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="#fc6"/></svg>`))
	p.do(p.Wait(`document.querySelector('[data-control="a3"] img.picture')?.naturalWidth > 0`), p.See(`[data-media="Meteor"][aria-pressed="true"]`))
	p.do(upload("notes.png", "guest mic here"), p.Text(".notices .refused", "not a picture"))
	// The look is given to others, which keep their labels.
	p.do(p.Mouse("mousePressed", p.place(on("producer-grid", "b3", "")), 8), p.Mouse("mouseReleased", p.place(on("producer-grid", "b3", "")), 8), p.selected(2))
	look := `[aria-label="Selected keys"] button:nth-of-type(1)`
	p.do(p.Click(look), p.See(key("b3", "img.picture")), p.Text(key("b3", ".label"), "Auto"), p.Press("Escape", 0))

	// A lamp in a sentence: while the logo is on, armed.
	p.do(p.Click(on("producer-grid", "a3", "")), p.Press("e", 0), p.Click(`[data-lamps="add"]`), p.See(`[data-lamp="0"] [data-field="Device"]`))
	p.do(p.Choose(`[data-lamp="0"] [data-field="Device"]`, "dome-switcher"), p.Wait(`document.querySelectorAll('[data-lamp="0"] [data-field="Reading"] option').length > 10`),
		p.Choose(`[data-lamp="0"] [data-field="Reading"]`, "dome-switcher:keyer/1/on"), p.See(`[data-lamp="0"] select[data-field="Value"]`), p.Choose(`[data-lamp="0"] [data-field="Value"]`, "true"),
		p.Choose(`[data-lamp="0"] [data-field="show"]`, "armed"), p.Click(`[data-lamps="save"]`), p.See(`[data-state-id="lamp-0"]`))
	p.do(p.Click(on("producer-grid", "d3", "")), p.Click(".try"), p.See(key("a3", ".armed")), p.Click(".try"), p.See(key("a3", ".tile:not(.armed)")))
	// Tried out: it shows, and says that it is only tried.
	p.do(p.Click(on("producer-grid", "a3", "")), p.Click(`[data-state-id="lamp-0"]`), p.See(key("a3", ".armed.forced")), p.Click(`[data-state-id="lamp-0"]`), p.See(key("a3", ".tile:not(.forced)")))
}

func TestPagesAndLayoutsAreMadeFromTheDesk(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	menu := func(item string) error {
		if err := p.Click(`[aria-label^="Page menu of Producer grid"], [aria-label="Producer grid"] .menu button`); err != nil {
			return err
		}
		return p.Click(`[data-menu="` + item + `"]`)
	}
	p.do(menu("launcher"), p.Text(`[aria-label="Producer grid"] [role="tab"][aria-selected="true"]`, "Launcher"), p.Text(key("a1", ".label"), "Home"))
	// Planned first, then mapped with the words of the plan.
	p.do(p.Click(on("producer-grid", "f4", "")), p.Press("n", 0), p.See(".writing input"), p.Keys("mute imke sound desk"), p.Keys("\r"), p.Text(on("producer-grid", "f4", ".note"), "mute imke"))
	p.do(p.Press("a", 0), p.Text(".result.active .title", "Mute Imke"), p.Keys("\r"), p.See(key("f4", ".tile")), p.Press("Escape", 0))
	// The map, and from it to a page.
	p.do(p.Click(`[data-tool="map"]`), p.See(`[aria-label="Page map"] svg`))
	p.do(p.Text(`[aria-label="Page map"]`, "controls in use"), p.Wait(`[...document.querySelectorAll('[aria-label="Page map"] button b')].find((b) => b.textContent === "Jog")?.click() ?? true`),
		p.Text(`[aria-label="Scope console"] [role="tab"][aria-selected="true"]`, "Jog"))
	// A layout of one's own is drawn while it is made, then stands on the desk.
	p.do(p.Click(`[data-tool="add"]`), p.Click(`[data-menu="own-layout"]`), p.See(`[data-controller="layout-preview"]`))
	p.do(p.Fill(`[data-layout-title]`, "Lectern keys"), p.Fill(`[data-columns="0"]`, "2"), p.Wait(`document.querySelectorAll('[data-controller="layout-preview"]').length === 6`))
	p.do(p.Click(`[data-add="dial"]`), p.Wait(`document.querySelectorAll('[data-controller="layout-preview"]').length === 9`), p.Click(`aside [type="submit"]`))
	p.do(p.See(`[data-controller="lectern-keys"][data-control="dial1"]`), p.Wait(`document.querySelectorAll('[data-controller="lectern-keys"]').length === 9`))
}
