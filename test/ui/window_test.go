package ui

import (
	"testing"

	"synaptor/test/browser"
)

// TestAPartOfTheDeskHasAWindowOfItsOwn: the part leaves the Desk, and comes back when the window is closed, or is ended with no word.
func TestAPartOfTheDeskHasAWindowOfItsOwn(t *testing.T) {
	p := sit(t, "/desk", true)
	eval := func(js string) {
		t.Helper()
		if _, err := browser.Eval[bool](p.Page, "("+js+", true)"); err != nil {
			t.Fatal(err)
		}
	}
	here, away := `document.querySelector('[data-part="markers"] form')`, `document.querySelector('[data-part="markers"]').textContent.includes("In a window of its own")`
	p.do(p.Wait(here))
	eval(`window.other = window.open("/desk/markers", "markers", "popup,width=500,height=400")`)
	p.do(p.Wait(away), p.Wait(`window.other.document.querySelector('[data-window="markers"] form')`))
	eval(`window.other.close()`)
	p.do(p.Wait(here))
	// Ended by the system, it says nothing any more.
	eval(`window.other = window.open("/desk/markers", "markers2", "popup,width=500,height=400")`)
	p.do(p.Wait(away))
	eval(`(() => { for (let i = 0; i < 10000; i++) window.other.clearInterval(i); })()`)
	p.do(p.Wait(here))
}

// TestTheDeskIsArrangedByWhoeverLooks, counts down, explains instead of pressing, and edits nothing.
func TestTheDeskIsArrangedByWhoeverLooks(t *testing.T) {
	p := sit(t, "/desk", true)
	p.do(p.See(`[data-plate="thumb-pad"]`), p.See("#count-to"), p.Click("#arrange"), p.Click(`[data-arrange="Thumb pad"] label`), p.Wait(`!document.querySelector('[data-plate="thumb-pad"]')`),
		p.Click(`[data-arrange="markers"] label`), p.Wait(`!document.querySelector('[data-part="markers"]')`), p.Choose(`select[data-field="Where the parts are"]`, "below"), p.See(".plane.below"), p.Press("Escape", 0))
	p.do(p.Goto("/desk"), p.See(`[data-part="clocks"]`), p.See(".plane.below"), p.Wait(`!document.querySelector('[data-plate="thumb-pad"], [data-part="markers"]')`))
	p.axe("the Desk")

	// Explained, and not pressed.
	p.do(p.See(onDesk("producer-grid", "a1", ".on-air")), p.Press("?", 0), p.See("#ask"), p.Click(onDesk("producer-grid", "c1", "")), p.Text("#explained", "Put All-sky cam on program"), p.Press("Escape", 0), p.See("#ask"),
		p.Click(`[data-part="presses"] h2`), p.Text("#explained", "two minutes"), p.Press("Escape", 0), p.Press("?", 0), p.Wait(`!document.querySelector("#ask")`))
	p.do(p.Wait(`document.querySelector('[data-part="presses"]').textContent.includes("Nothing has been pressed")`), p.See(onDesk("producer-grid", "a1", ".on-air")))
	p.do(p.Press("z", 2), p.Text(".notices", "Nothing is edited on the Desk"))
	if shown, err := browser.Eval[string](p.Page, `document.title`); err != nil || shown == "" {
		t.Error(shown, err)
	}
}

// TestTheJournalIsHeldStillComparedAndCounted: follow live, two traces side by side, markers placed in a recording, and the use of controls.
func TestTheJournalIsHeldStillComparedAndCounted(t *testing.T) {
	p := sit(t, "/desk", true)
	p.do(p.See(onDesk("producer-grid", "a1", ".tile")), p.Click(onDesk("producer-grid", "b1", "")), p.See(onDesk("producer-grid", "b1", ".on-air")), p.Click(onDesk("producer-grid", "c1", "")), p.See(onDesk("producer-grid", "c1", ".on-air")))
	p.do(p.Goto("/journal"), p.Wait(`document.querySelectorAll("tbody tr").length === 2`), p.Click(`.ticks label`), p.Wait(`fetch("/api/v1/input/producer-grid/d1/press", {method: "POST"}) && true`), p.Text(".ticks", "1 more by now"), p.Wait(`document.querySelectorAll("tbody tr").length === 2`),
		p.Click(`.ticks label`), p.Wait(`document.querySelectorAll("tbody tr").length === 3`))
	p.do(p.Click("tbody tr:nth-child(3)"), p.Click("#compare"), p.Click("tbody tr:nth-child(2)"), p.See("[data-against]"), p.Text("[data-against]", "than the other"), p.Click("#compare-end"), p.Wait(`!document.querySelector("[data-against]")`))
	p.do(p.Goto("/journal/use"), p.Wait(`[...document.querySelectorAll('[data-use="producer-grid"] text')].length === 3`))
	p.axe("the use of controls")
	if _, err := browser.Eval[bool](p.Page, `(fetch("/api/v1/markers", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({text: "Fireball"})}), true)`); err != nil {
		t.Fatal(err)
	}
	p.do(p.Goto("/journal/markers"), p.See(`[data-marker="Fireball"]`), p.Click(`[data-marker="Fireball"] .acts button`), p.Fill(`form input[data-field="Text"]`, "Meteor"), p.Click("form .buttons button"), p.See(`[data-marker="Meteor"]`))
	p.axe("the markers")
	p.do(p.Click(`[data-marker="Meteor"] .acts button:last-child`), p.Text(".empty", "No marker"), p.Click(".notices .offer"), p.See(`[data-marker="Meteor"]`))
}
