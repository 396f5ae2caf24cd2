package ui

import (
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// What one key does is never shown as what another does.
func TestTheSignalPathIsThatOfTheSelectedKey(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Text(".path", "/mix/1/program 1"))
	p.app.Close()
	p.do(p.Text(".line", "not connected to this page"), p.Press("ArrowRight", 0), p.Text(".does", "Synaptor does not answer"))
	p.do(p.Wait(`!document.querySelector(".path").innerText.includes("/mix/1/program")`))
}

// A lamp that is being written for one key does not travel to the next, though neither has any yet.
func TestALampThatIsWrittenStaysWithItsKey(t *testing.T) {
	p := sit(t, "/patch", true)
	lamps := `document.querySelectorAll("[data-lamp]").length`
	p.do(p.Click(on("producer-grid", "a3", "")), p.Press("e", 0), p.Click(`[data-lamps="add"]`), p.Wait(lamps+" === 1"))
	p.do(p.Click(on("producer-grid", "c3", "")), p.See(`aside[aria-label="Face of c3"] [data-lamps="add"]`), p.Wait(lamps+" === 0"))
}

// TestWhatIsTypedStaysWhileSomebodyElseEdits something else.
func TestWhatIsTypedStaysWhileSomebodyElseEdits(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(`[data-loose="Numeric block"]`)) // what is loose stands above, and comes when it is found
	p.do(p.Click(`[data-of="saskias-tablet"] .name`), p.Fill("#controller-name", "Guest tab"))
	c := *p.app.Edit.Program().Show.Controller("treadle")
	c.Name = "Foot board of Tobin"
	p.do(p.app.Edit.Fill(edit.Who{Session: "elsewhere", Actor: "Oyelaran"}, "Rename", func(d *show.Draft) { d.Put(&c) }))
	p.do(p.Text(`[data-of="treadle"]`, "Foot board of Tobin"), p.Keys("let\r"), p.Text(`[data-of="saskias-tablet"]`, "Guest tablet"))
}
