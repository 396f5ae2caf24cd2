package ui

import (
	"testing"

	"synaptor/test/browser"
)

// focused is what has the focus, as far as a test needs to know it.
func (p *person) focused(selector string) error {
	return p.Wait(`document.activeElement?.matches(` + "`" + selector + "`" + `)`)
}

// TestWhatOpensTakesTheFocusAndGivesItBack: a person types at once, and nothing that is typed is a shortcut.
func TestWhatOpensTakesTheFocusAndGivesItBack(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.Move(), p.Wait(moves), p.See(".phase.up"))
	for opener, first := range map[string]string{"#look": "#look-host", "#add-device": "#device-role, #device-name, #device-type", "#sheets": "#sheet-body", "#all-readings": "#search-readings",
		`[data-device="dome-switcher"] .name`: "aside input, aside select"} {
		p.do(p.Click(opener), p.focused(first), p.Press("Escape", 0), p.Wait(`!document.querySelector("aside")`), p.focused(opener))
	}
	p.do(p.Click("#look"), p.focused("#look-host"), p.Keys("127.0.0.1"), p.Wait(`document.querySelector("#look-host").value === "127.0.0.1"`), p.Wait(`location.pathname === "/rig"`))
	p.do(p.Press("Escape", 0), p.Press("2", 0), p.See(key("a1", ".on-air")), p.Press("ArrowRight", 0), p.Press("a", 0), p.focused(`[aria-label="What should it do?"] input`))
	p.do(p.Keys("cut 1"), p.Wait(`location.pathname === "/patch"`), p.Press("Escape", 0), p.focused(`[data-controller="producer-grid"][data-control="b1"]`))
	p.do(p.Press("e", 0), p.focused(`[aria-label="Face of b1"] input, [aria-label="Face of b1"] select`), p.Press("Escape", 0), p.focused(`[data-control="b1"]`))
}

// TestSingleKeysCanBeSwitchedOff, for those who speak to their computer or rest a hand on the keys.
func TestSingleKeysCanBeSwitchedOff(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(".phase.up"), p.Press("?", 0), p.See(`[role="dialog"] kbd`))
	fits, err := browser.Eval[bool](p.Page, `(() => { const d = document.querySelector('[role="dialog"] dl'); return d.scrollHeight <= d.clientHeight + 1 &&
		d.getBoundingClientRect().bottom <= innerHeight; })()`)
	if err != nil || !fits {
		t.Errorf("the list of the keys does not fit the screen (%v)", err)
	}
	p.do(p.Click(`[role="dialog"] .bx--toggle__switch`), p.Wait(`localStorage.getItem("single-keys") === "off"`), p.Press("Escape", 0), p.Wait(`!document.querySelector('[role="dialog"]')`))
	p.do(p.Press("2", 0), p.Press("b", 0), p.Press("Tab", 0), p.Wait(`location.pathname === "/rig" && !document.querySelector(".drawer")`))
	p.do(p.Goto("/patch"), p.See(key("a1", ".on-air")), p.Press("ArrowRight", 0), p.Press("a", 0), p.Press("Enter", 0), p.Wait(`document.activeElement?.matches("input")`))
}

// TestTheStatusLineCutsNoWord: what has no room is behind a count, which opens.
func TestTheStatusLineCutsNoWord(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(".phase.up"), p.Text(".line", "PGM 1"))
	p.do(p.Resize(900, 800), p.See(".line .more"), p.Click(".line .more"), p.Text(`[role="dialog"]`, "Viewers"), p.Text(`[role="dialog"]`, "PGM 1"))
	cut, err := browser.Eval[string](p.Page, `(() => { const r = document.querySelector(".line .parts").getBoundingClientRect();
		return [...document.querySelectorAll(".line .parts > *")].map(e => [e, e.getBoundingClientRect()]).filter(([e, b]) => b.top < r.top + 5)
			.filter(([e, b]) => b.right > r.right + 1 || e.scrollWidth > e.clientWidth + 1 || [...e.children].some(c => c.scrollWidth > c.clientWidth + 1)).map(([e]) => e.textContent.trim()).join("; "); })()`)
	if err != nil || cut != "" {
		t.Errorf("cut off: %s (%v)", cut, err)
	}
	p.do(p.Resize(1920, 1080), p.Wait(`!document.querySelector(".line .more")`))
}
