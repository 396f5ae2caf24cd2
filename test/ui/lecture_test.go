package ui

import (
	"testing"
)

// TestALectureIsLaidOutAndPlayed lays out a page for a talk from kits, plays it on a panel with the fronts of the devices beside it, types a name, and
// has a device fail in the middle of it.
func TestALectureIsLaidOutAndPlayed(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(`[aria-label="Producer grid"] .menu button`), p.Click(`[data-menu="new"]`), p.See("form input"), p.Keys("Evening talk\r"))
	p.do(p.Text(`[aria-label="Producer grid"] [aria-selected="true"]`, "Evening talk"), p.See(key("a1", ".cross")))
	kit := func(words, find, at, last string) {
		t.Helper()
		p.do(p.Click(key(at, ".cross")), p.Press("a", 0), p.seek(words), p.See(`.result.active[data-find="`+find+`"]`))
		p.do(p.Drag(`[data-find="`+find+`"]`, `[data-control="`+at+`"]`, 0), p.See(key(last, ":is(.tile, .dial)")), p.Press("Escape", 0))
	}
	kit("presentation", "kit:talk:", "a1", "e1")
	kit("prompter", "kit:prompter:", "a2", "d2")
	kit("meeting", "kit:meeting:", "a4", "d4")
	kit("name plate kit", "kit:plate:", "a3", "e3") // round the key that stands there
	// A key that asks for its text.
	p.do(p.Click(key("f3", ".cross")), p.Press("a", 0), p.seek("write as name"), p.Click(`.result.active[data-find="action:write:1"]`))
	p.do(p.Click(`.params button`), p.Wait(`document.querySelector('[data-param="words"]').value === "{event.typed}"`), p.Click(`.params .bx--btn`), p.See(key("f3", ".tile")), p.Press("Escape", 0))
	p.do(p.Text(key("f3", ".label"), "text …"))
	p.do(p.Click(`[aria-label="Producer grid"] .menu button`), p.Click(`[data-menu="show"]`), p.See(`[aria-label="Producer grid"] [aria-selected="true"].shown`))

	front := func(standIn string) { t.Helper(); p.do(p.Click(`[data-standin="` + standIn + `"]`)) }
	p.do(p.Click("#bench"))
	panel := meet(t, p.app, "/panel/producer-grid")
	press := func(control string) { t.Helper(); panel.do(panel.Click(`[data-control="` + control + `"]`)) }
	panel.do(panel.Text(`[data-control="a1"]`, "Start"))
	front("slides")
	press("a1")
	p.do(p.Text(".slide", "1 of 24"))
	panel.do(panel.See(`[data-control="a1"].running, [data-control="a1"] .running`))
	press("c1")
	p.do(p.Text(".slide", "A grain of sand"))
	press("d1")
	p.do(p.See(".slide.dark"))
	p.do(p.Click(`[data-front="next"]`)) // a hand at the lectern
	press("d1")
	p.do(p.Text(".slide", "Forty kilometres"))

	front("prompter")
	press("a2")
	p.do(p.Text(".front", "rolls"))
	p.do(p.Click(`[data-front="remove/1"]`), p.Text(".glass", "nothing is loaded"))
	press("a2")
	panel.do(panel.Text(`[data-control="a2"]`, "No script is loaded"))

	front("titles")
	press("a3")
	p.do(p.Text(".plate", "Imke Vardal"))
	press("e3")
	p.do(p.Text(".plate", "Oyelaran Bassey"))
	press("f3")
	panel.do(panel.See("#type-now"), panel.Keys("Ada 🌠 עדה\r"), panel.Wait(`!document.querySelector("#type-now")`))
	p.do(p.Text(".plate", "Ada 🌠 עדה"))
	press("f3")
	panel.do(panel.See("#type-now"), panel.Press("Escape", 0), panel.Wait(`!document.querySelector("#type-now")`))

	front("meeting")
	press("b4")
	panel.do(panel.Text(`[data-control="b4"]`, "Join the meeting first"))
	press("a4")
	p.do(p.Text(".lcd", "3 in the meeting"))
	press("b4")
	panel.do(panel.Text(`[data-control="b4"]`, "heard"))
	p.do(p.Click(`label[for="fault-cut"]`))
	panel.do(panel.See(`[data-control="a4"].away, [data-control="a4"] .away`))
	press("d4")
	panel.do(panel.Text(`[data-control="d4"]`, "does not answer"))
	p.do(p.Click(`label[for="fault-cut"]`))
	panel.do(panel.Wait(`!document.querySelector('[data-control="a4"].away, [data-control="a4"] .away')`))
	press("d4")
	p.do(p.Wait(`[...document.querySelectorAll(".guest")].every((g) => g.querySelector("button:last-child").getAttribute("aria-pressed") === "true")`))
}
