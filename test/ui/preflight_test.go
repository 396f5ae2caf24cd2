package ui

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/test/browser"
)

// TestTheShowIsMadeReady: what is found is shown, fixed, undone and accepted with the keyboard; the roll call is made, the night rehearsed, and Safe
// pressed twice and put back.
func TestTheShowIsMadeReady(t *testing.T) {
	p := sit(t, "/patch", true)
	risk := `[data-finding="risk-unguarded"]`
	p.do(p.See("#findings"), p.Click("#findings"), p.Text("[data-verdict] h1", "Ready, but"), p.Text(risk, "Start or stop the recording happens at the first touch"))
	p.axe("preflight")

	// It is shown, and marked where it is.
	p.do(p.Click(risk+" .show"), p.See(strings.TrimSpace(on("producer-grid", "a3", ""))+"[data-pointed]"), p.Text(".path", "a3 of Producer grid"))
	p.do(p.Goto("/preflight"), p.See(risk))

	// Its fix is previewed, done and undone.
	p.do(p.Wait(`document.querySelector('[data-finding="risk-unguarded"] .show').focus() === undefined`), p.Press("f", 0), p.Text(risk+" section", "guard kind: nothing → hold"), p.Text(risk+" section", "One thing is found no more"))
	p.axe("the preview of a fix")
	p.do(p.Click(risk+" .apply"), p.Text("[data-verdict] h1", "Ready"), p.Wait(`!document.querySelector('[data-finding="risk-unguarded"]')`))
	p.do(p.Click("#undo"), p.See(risk))

	// It is accepted, with a reason.
	p.do(p.Click(risk+" .accept"), p.See(risk+" form"), p.Click(risk+" form button"), p.Text(risk, "Say why this is all right"), p.Fill(risk+" form input", "Nobody records tonight."), p.Click(risk+" form button"))
	p.do(p.Text(risk, "“Nobody records tonight.”"), p.Text("[data-verdict]", "2 are accepted"), p.See(risk+".accepted"))

	// The roll call.
	p.do(p.Click("#call"), p.See(`[data-rolled="dome-switcher"]`), p.Text("section", "14 of 14 answered"), p.Click(`label[for="counting"]`), p.See("#counting-touches"))
	panel := meet(t, p.app, "/panel/saskias-tablet")
	panel.do(panel.Text("main", "Roll call: touches are counted"), panel.Click(`[data-control="a2"]`), panel.Click(`[data-control="b2"]`))
	p.do(p.Wait(`document.querySelectorAll('[data-touched="saskias-tablet"] rect[style*=select]').length === 2`), p.Text(`[data-touched="saskias-tablet"]`, "2 of 12"))
	p.axe("the roll call")
	p.do(p.Click("#counting-touches button"), p.Wait(`!document.querySelector("#counting-touches")`))
	panel.do(panel.Wait(`!document.querySelector("main").textContent.includes("Roll call")`))

	// The night, and what Safe would do.
	p.do(p.Click("#rehearse-night"), p.Text("#night", "macros tried"), p.See(`[data-finding="precondition-unmet"]`), p.Text("#safe-in", "6 of 6 are safe"))

	// A hand that is frightened presses twice.
	p.do(p.Goto("/patch"), p.See(on("thumb-pad", "e2", "")), p.Click(on("thumb-pad", "e2", "")))
	p.makeSafe(on("thumb-pad", "e2", ""))
	p.makeSafe(on("thumb-pad", "e2", ""))
	p.do(p.Goto("/patch/outputs/d2"), p.See(strings.TrimSpace(on("thumb-pad", "d2", ""))+"[data-pointed]"), p.Hold(".try", ".try", 0), p.Wait(`!document.querySelector('[data-controller="thumb-pad"][data-control="e2"]').textContent.includes("6 of 6")`))
}

// makeSafe presses Safe until all outputs are at their safe pictures: one whose device does not say so in time counts as not safe, and pressing again asks
// it again.
func (p *person) makeSafe(key string) {
	for limit := time.Now().Add(browser.Patience); ; {
		p.do(p.Click(".try"), p.Text(key, " of 6"))
		all, err := browser.Eval[bool](p.Page, fmt.Sprintf(`document.querySelector(%q).textContent.includes("6 of 6")`, key))
		if p.do(err); all {
			return
		}
		if time.Now().After(limit) {
			p.Fatal("not all outputs are safe")
		}
	}
}

// TestWhatIsFoundIsLedTo: each kind of subject where it is, and what cannot be drawn is said.
func TestWhatIsFoundIsLedTo(t *testing.T) {
	p := sit(t, "/rig/device/dome-camera", true)
	p.do(p.See(`[data-device="dome-camera"][data-pointed]`), p.Text("aside", "Dome camera"))
	p.do(p.Goto("/rig/safe"), p.See("#safe-pictures[data-pointed]"))
	p.do(p.Goto("/rig/controller/treadle"), p.See(`[data-of="treadle"][data-pointed]`))
	p.do(p.Goto("/macros/clouds/clouds-2"), p.See(`[data-step="clouds-2"][data-pointed]`))
	p.do(p.Goto("/patch/check-grid/a1"), p.Text("body", "This is on the page Check of the profile Sound check"))
	p.do(p.Goto("/patch/nowhere"), p.Text("body", "This page does not exist any more"))
}
