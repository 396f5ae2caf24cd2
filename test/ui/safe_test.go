package ui

import "testing"

// TestSafeIsPressedTwiceAndPutBack: a safe picture is chosen by saying it, all are shown by a key, again by a second press, and what was there returns.
func TestSafeIsPressedTwiceAndPutBack(t *testing.T) {
	p := sit(t, "/rig", true)
	row := `[data-output="dome-switcher.mix.1.program"]`
	p.do(p.Text(row, "Put All-sky cam on program"), p.Click(`[aria-label="Another for Dome switcher: Program of mix effect 1"]`), p.Fill("#safe-find", "telescope on preview"), p.Text("#safe-find-offers .active .title", "preview"), p.Press("Enter", 0), p.Text("body", "This shows nothing on"))
	p.do(p.Fill("#safe-find", "bars on air"), p.Text("#safe-find-offers .active .title", "Put Bars on program"), p.Press("Enter", 0), p.Text(row, "Put Bars on program"))
	p.axe("the outputs and their safe pictures")
	p.do(p.Click("#safe"), p.Text(row, "Bars"), p.See(row+" .phase.up"), p.Click("#safe"), p.See(row+" .phase.up"))
	p.do(p.Goto("/patch"), p.See(key("c3", "")), p.Click(key("c3", "")), p.Click(".try"), p.Text(on("thumb-pad", "e2", ""), "6 of 6"), p.Click(key("c4", "")), p.Hold(".try", ".try", 0))
	p.do(p.Wait(`fetch("/api/v1/readings?device=dome-switcher").then(r => r.json()).then(l => { window.mix = l.find(r => r.path === "mix/1/program").value; }) && window.mix == 1`))
}
