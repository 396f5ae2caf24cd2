package ui

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"synaptor/test/browser"
)

// axe has the page looked through by axe-core for what keeps people out, and fails where it is serious: by all of its rules, or by those that are
// named. Where a sheet or a dialog has opened over a page that was looked through, it is looked at alone.
func (p *person) axe(where string, rules ...string) {
	p.Helper()
	source, err := os.ReadFile("../../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		p.Fatal(err)
	}
	how := map[string]any{"resultTypes": []string{"violations"}}
	if rules != nil {
		how["runOnly"] = rules
	}
	options, err := json.Marshal(how)
	if err != nil {
		p.Fatal(err)
	}
	if _, err := browser.Eval[bool](p.Page, `(() => { if (!window.axe) { `+string(source)+` } window.axeFound = undefined;
		const over = [...document.querySelectorAll('aside, [role="dialog"]')].filter((e) => e.getClientRects().length);
		const theme = document.documentElement.getAttribute("theme"), looked = window.axeLooked ??= new Set(), where = looked.has(theme) && over.length ? over : document; looked.add(theme);
		window.axe.run(where, `+string(options)+`).then((r) => window.axeFound = r.violations
			.filter((v) => v.impact === "serious" || v.impact === "critical")
			.flatMap((v) => v.nodes.map((n) => v.id + ": " + n.target.join(" ") + " " + n.html.slice(0, 160) + " " + (n.any[0]?.message ?? ""))))
			.catch((e) => window.axeFound = ["it cannot look: " + e]); return true; })()`); err != nil {
		p.Fatal(err)
	}
	p.do(p.Wait("window.axeFound"))
	found, err := browser.Eval[[]string](p.Page, "window.axeFound")
	if err != nil {
		p.Fatal(err)
	}
	few := map[string]int{} // by rule
	for _, f := range found {
		rule, _, _ := strings.Cut(f, ":")
		if few[rule]++; few[rule] < 4 {
			p.Errorf("%s: %s", where, f)
		}
	}
}

// Nothing serious keeps anybody out of any view, dialog and panel, in the dark and by day, when nothing but the colours is different.
func TestNothingKeepsAnybodyOut(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See("[data-device]"))
	p.bothWays("rig")
	p.do(p.Click(`[data-device="dome-switcher"] .name`), p.See(`[data-part="readings"]`))
	for _, part := range []struct{ id, seen string }{{"link", "#device-host"}, {"readings", ".browse li"}, {"try", "[data-action]"}, {"wire", ".wire"}} {
		p.do(p.Click(fmt.Sprintf(`[data-part=%q]`, part.id)), p.See(part.seen))
		p.bothWays("a device, " + part.id)
	}
	p.do(p.Press("Escape", 0), p.Goto("/patch"), p.See(key("a1", ".on-air")))
	p.bothWays("patch")
	p.do(p.Press("a", 0), p.See("[data-find]"))
	p.bothWays("what should it do")
	p.do(p.Press("Escape", 0), p.Press("e", 0), p.See("[data-lamp]"))
	p.bothWays("face and lamps")
	p.do(p.Press("Escape", 0))
	for _, tool := range []string{"map", "profiles", "add"} {
		p.do(p.Click(fmt.Sprintf(`[data-tool=%q]`, tool)))
		p.bothWays(tool)
		p.do(p.Press("Escape", 0))
	}
	p.do(p.Goto("/macros"), p.Click("[data-macro]"), p.Click("[data-step]"), p.See("aside form"))
	p.bothWays("macros")
	p.do(p.Goto("/journal"), p.See("h1, h2, table"))
	p.bothWays("journal")
	p.do(p.Press("b", 0), p.See(`[data-stand-in], aside`))
	p.bothWays("bench")
	p.do(p.Press("b", 0), p.Press("?", 0), p.See(`[role="dialog"]`))
	p.bothWays("keys")
	// By daylight is what the browser remembers.
	p.do(p.Click(`label[for="daylight"]`), p.See(`[theme="g10"] [role="dialog"]`), p.Goto("/rig"), p.See(`[theme="g10"] [data-device]`))
	p.do(p.Goto("/panel/saskias-tablet"), p.See("[data-control]"))
	p.axe("panel") // it and the legend are for dark rooms only
	p.do(p.Goto("/legend/producer-grid"), p.See("dl dt"))
	p.axe("legend")
}

// bothWays has what is on the screen looked through in the dark, and its colours by day.
func (p *person) bothWays(where string) {
	p.Helper()
	p.axe("g100, " + where)
	p.theme("g10")
	p.axe("g10, "+where, "color-contrast")
	p.theme("g100")
}

// theme draws the page by one of Carbon's themes, at once.
func (p *person) theme(name string) {
	p.Helper()
	_, err := browser.Eval[bool](p.Page, `(document.documentElement.setAttribute("theme", "`+name+`"), true)`)
	p.do(err)
}
