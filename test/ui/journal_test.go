package ui

import (
	"testing"

	"synaptor/internal/bench/faults"
)

// TestTheJournalIsNarrowedAndFollowsWhatHappens: what fits comes while one looks, what does not stays away.
func TestTheJournalIsNarrowedAndFollowsWhatHappens(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(`[data-control="b1"]`), p.Click(".try"), p.See(key("b1", ".on-air")), p.Goto("/journal"), p.Text("tbody", "b1"))
	p.do(p.Choose(`select[data-field="Outcome"]`, "refused"), p.Text(".empty", "Nothing in the journal is like that."))
	if err := p.app.Bench.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
		t.Fatal(err)
	}
	p.do(p.Text(".line", "Dome switcher"), p.Wait(`fetch("/api/v1/input/producer-grid/c1/press", {method: "POST"}) && true`), p.Text("tbody", "c1"), p.Wait(`!document.querySelector("tbody").textContent.includes("b1")`))
	p.do(p.Choose(`select[data-field="Device"]`, "Sound desk"), p.Text(".empty", "Nothing in the journal is like that."), p.Choose(`select[data-field="Device"]`, "Dome switcher"), p.Text("tbody", "c1"))
	p.do(p.Choose(`select[data-field="Outcome"]`, ""), p.Text("tbody", "b1"), p.Fill(`.filter input[type="search"], .filter input[role="searchbox"], .filter input`, "telesc"), p.Wait(`!document.querySelector("tbody").textContent.includes("c1")`), p.Text("tbody", "b1"))
	p.axe("the journal, narrowed")
}
