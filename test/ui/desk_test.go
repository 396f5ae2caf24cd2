package ui

import (
	"fmt"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/test/browser"
)

// TestThePanelsOfTheDesk plays the console, the treadle and the thumb pad with
// mouse and keyboard, as their hands and feet would.
func TestThePanelsOfTheDesk(t *testing.T) {
	p := sit(t, "/panel/scope-console", true)
	p.do(p.Text(`[data-control="dial1"] b`, "-10"))
	value := func(control, want string) error { return p.Text(`[data-control="`+control+`"] b`, want) }
	at, err := p.At(`[data-control="dial1"]`)
	p.do(err, p.Mouse("mousePressed", at, 0), held(p)) // a hand that rests on it first turns it all the same, and mutes nothing
	for x := 6.0; x <= 60; x += 6 {
		p.do(p.Mouse("mouseMoved", browser.Point{X: at.X + x, Y: at.Y}, 0))
	}
	p.do(p.Mouse("mouseReleased", browser.Point{X: at.X + 60, Y: at.Y}, 0))
	p.do(p.Wait(`parseFloat(document.querySelector('[data-control="dial1"] b').textContent) > -8`), p.See(`[data-control="dial1"] .dial:not(.set)`))
	// A push without a turn opens or mutes.
	p.do(p.See(`[data-control="dial2"] .dial:not(.set)`), p.Click(`[data-control="dial2"]`), p.See(`[data-control="dial2"] .dial.set:not(.pending-set)`))
	p.do(p.Wait(`document.querySelector('[data-control="dial2"]').matches(":focus")`), p.Press("ArrowUp", 0), value("dial2", "-9"))
	// A slider's cap is grabbed anywhere, and taken along.
	slot, err := p.At(`[data-control="slider1"] .slot`)
	p.do(err, p.Mouse("mousePressed", browser.Point{X: slot.X, Y: 60}, 0), p.Mouse("mouseMoved", browser.Point{X: slot.X, Y: 200}, 0), p.Mouse("mouseReleased", browser.Point{X: slot.X, Y: 200}, 0))
	p.do(p.Wait(`parseFloat(document.querySelector('[data-control="slider1"] b').textContent) < -5`))
	// On a phone held upright it lies, and is pushed along.
	p.do(p.Resize(390, 844), p.Wait(`(() => { const r = document.querySelector('[data-control="slider1"]').getBoundingClientRect(); return r.width > 2 * r.height; })()`))
	slot, err = p.At(`[data-control="slider1"] .slot`)
	p.do(err, p.Mouse("mousePressed", slot, 0), p.Mouse("mouseMoved", browser.Point{X: slot.X + 120, Y: slot.Y}, 0), p.Mouse("mouseReleased", browser.Point{X: slot.X + 120, Y: slot.Y}, 0))
	p.do(p.Wait(`parseFloat(document.querySelector('[data-control="slider1"] b').textContent) > 0`), p.Resize(1280, 800))
	// The pages of the dials change, the keys stay.
	p.do(p.Click(`nav button:nth-child(2)`), p.Text(`nav [aria-current="page"]`, "Jog"), value("dial2", "100"), p.See(`[data-control="a1"] .tile`))

	p.do(p.Goto("/panel/treadle"), p.See(`[data-control="pedal2"] .tile`), p.Down(`[data-control="pedal2"]`), p.See(`[data-control="pedal2"] :is(.tile.armed, .tile.set, .tile.on-air)`))
	p.do(held(p), p.Up(`[data-control="pedal2"]`), p.Wait(`!document.querySelector('[data-control="pedal2"] :is(.tile.armed, .tile.set, .tile.on-air)')`))

	// A page is shown as long as the shift key is down.
	p.do(p.Goto("/panel/thumb-pad"), p.Text(`[data-control="a1"]`, "Logo"), p.Down(`[data-control="shift1"]`), p.Wait(`!document.querySelector('[data-control="a1"]').textContent.includes("Logo")`))
	p.do(p.Up(`[data-control="shift1"]`), p.Text(`[data-control="a1"]`, "Logo"))
}

// held keeps what is down there for longer than a tap: the length of the touch is
// the input itself.
func held(p *person) error {
	return p.Wait(`(window.since ??= performance.now()) < performance.now() - 400`)
}

// TestPagesAreMadeAndGoneThrough makes a page, copies a key to it, shows it, and
// takes all of it back.
func TestPagesAreMadeAndGoneThrough(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	menu := func(item string) {
		t.Helper()
		p.do(p.Click(`[aria-label="Producer grid"] .menu button`), p.Click(`[data-menu="`+item+`"]`))
	}
	menu("new")
	p.do(p.See("form input"), p.Keys("Guests\r"), p.Text(`[aria-label="Producer grid"] [aria-selected="true"]`, "Guests"), p.See(key("a1", ".cross")))
	// A key of the tablet is copied to the new page, with Ctrl held.
	p.do(p.Drag(on("saskias-tablet", "d1", ""), on("producer-grid", "a1", ""), 2), p.Text(on("producer-grid", "a1", ".tile"), "Call"), p.See(on("saskias-tablet", "d1", ".tile")))
	menu("show")
	p.do(p.See(`[aria-label="Producer grid"] [aria-selected="true"].shown`))
	panel := meet(t, p.app, "/panel/producer-grid")
	panel.do(panel.Text(`[data-control="a1"]`, "Call"), panel.Click(`[data-control="c3"]`), panel.Text(`nav [aria-current="page"]`, "Home"))
	panel.do(panel.Click(`[data-control="c1"]`), panel.Text(`nav [aria-current="page"]`, "Stream"))
	menu("delete")
	p.do(p.Wait(`![...document.querySelectorAll('[aria-label="Producer grid"] [role="tab"]')].some((t) => t.textContent === "Guests")`))
	p.do(p.Press("z", 2), p.Wait(`[...document.querySelectorAll('[aria-label="Producer grid"] [role="tab"]')].some((t) => t.textContent === "Guests")`))
}

// TestAKeyIsFoundCopiedAndTheDeskFilled goes by keyboard to a key of another
// page, copies it, and has its controller fill the drawing.
func TestAKeyIsFoundCopiedAndTheDeskFilled(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Press("f", 0), p.See(".sought input"), p.Keys("zzz"), p.Text(".places", "No key does that"))
	p.do(p.Fill(".sought input", "look-back"), p.Text(".places", "Feet"), p.Text(".places", "Stream"), p.Keys("\r"), p.Text(".path .id", "d3"), p.Text(`[aria-label="Producer grid"] [aria-selected="true"]`, "Stream"))
	p.do(p.Press("c", 2), p.Press("[", 0), p.Text(`[aria-label="Producer grid"] [aria-selected="true"]`, "Dome"), p.Click(on("producer-grid", "f4", "")))
	p.do(p.Press("v", 2), p.Text(on("producer-grid", "f4", ".tile"), "look-back"), p.Text(".path", "hold"))
	p.do(p.Press("z", 0), p.Wait(`document.querySelectorAll(".box").length === 1 && document.querySelector('[data-control="f4"]').getBoundingClientRect().width > 70`))
	p.do(p.Press("z", 0), p.Wait(`document.querySelectorAll(".box").length === 5`))
	// A controller is put elsewhere by its header, and back with undo.
	left := `document.querySelector('.box[aria-label="Treadle"]').getBoundingClientRect().left`
	before, err := browser.Eval[float64](p.Page, left)
	p.do(err, p.Drag(`.box[aria-label="Treadle"] .name`, `.box:last-child .name`, 0), p.Wait(fmt.Sprintf("%s > %f + 100", left, before)))
	p.do(p.Press("z", 2), p.Wait(fmt.Sprintf("Math.abs(%s - %f) < 2", left, before)))
}

// TestAnUndoIsAboutWhatWasDoneBeforeIt: one that is pressed while what was done is still on its way to Synaptor overtakes nothing.
func TestAnUndoIsAboutWhatWasDoneBeforeIt(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.asks(`(window.asked = (window.asked ?? 0) + r.url.endsWith("/undo"), r.method === "PUT" ? later(r) : send(r))`))
	p.do(p.Goto("/patch"), p.See(key("a1", ".on-air")))
	left := `document.querySelector('.box[aria-label="Treadle"]').getBoundingClientRect().left`
	before, err := browser.Eval[float64](p.Page, left)
	p.do(err, p.Drag(`.box[aria-label="Treadle"] .name`, `.box:last-child .name`, 0), p.Wait("late.length === 1"), p.Press("z", 2))
	p.do(p.Wait("(late[0](), true)"), p.Wait("asked === 1"), p.Wait(fmt.Sprintf("Math.abs(%s - %f) < 2", left, before)))
}

// TestAGestureAndAGuardAreAddedInPlace gives a hold to a key, which delays its
// press, and a guard to another one.
func TestAGestureAndAGuardAreAddedInPlace(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(`[data-control="d3"]`), p.Text(`[data-gesture="press"]`, "at once"))
	p.do(p.Click(`[data-gesture="hold"]`), p.See(`[data-find^="kit:"]`), p.Keys("caption on"), p.Text(".result.active .title", "Caption"), p.Keys("\r"))
	p.do(p.Text(`[data-gesture="press"]`, "when it is let go"), p.Press("Escape", 0), p.Click(`[data-gesture="press"]`))
	p.do(p.Click(`[data-control="a3"]`), p.Choose(`[data-field="guard"]`, "twice"), p.Click(`form button[type="submit"]`), p.Text(key("a3", ".marks"), "guard"))
	p.do(p.Click(".try"), p.See(key("a3", ".guard.armed")), p.See(key("a1", ".on-air")))
	p.do(p.Click(".try"), p.See(key("b1", ".on-air")))
}

// TestTheDeskAsksForNothingAgainWhileThingsChange: a change of one thing is told, and has nothing else fetched.
func TestTheDeskAsksForNothingAgainWhileThingsChange(t *testing.T) {
	p := sit(t, "/desk", true)
	p.do(p.See(`[data-part="presses"]`), p.See(key("a1", ".on-air")))
	asked := func() (n int) {
		n, err := browser.Eval[int](p.Page, `performance.getEntriesByType("resource").filter((r) => /\/api\/v1\/(markers|me\/keys|reflexes|show$)/.test(r.name)).length`)
		p.do(err)
		return n
	}
	still := `(() => { const n = performance.getEntriesByType("resource").length; const now = performance.now(); if (window.asked !== n) window.askedAt = now; window.asked = n; return now - window.askedAt > 500; })()`
	p.do(p.Wait(still)) // all that it asks for at first has come
	before := asked()
	for i := range 30 {
		if err := p.app.Bench.StandIn("switcher").Operate(device.Message{Address: "/mix/1/program", Args: []any{1 + (i+1)%2}}); err != nil {
			t.Fatal(err)
		}
		p.do(p.See(key([]string{"b1", "a1"}[i%2], ".on-air")))
	}
	if after := asked(); before == 0 || after != before {
		t.Errorf("%d were asked for, %d after 30 changes", before, after)
	}
}
