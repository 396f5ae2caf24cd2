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
		const where = window.axeLooked && over.length ? over : document; window.axeLooked = true;
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
	for _, theme := range []struct {
		name  string
		rules []string
	}{{"g100", nil}, {"g10", []string{"color-contrast"}}} {
		if _, err := browser.Eval[bool](p.Page, `(localStorage.setItem("theme", "`+theme.name+`"), true)`); err != nil {
			t.Fatal(err)
		}
		p.do(p.Goto("/rig"), p.See(`[theme="`+theme.name+`"] [data-device]`))
		p.everywhere(theme.name, theme.rules)
	}
}

// everywhere goes through the views and what opens in them, by the rules that are named.
func (p *person) everywhere(theme string, rules []string) {
	p.Helper()
	p.axe(theme+", rig", rules...)
	p.do(p.Click(`[data-device="dome-switcher"] .name`), p.See(`[data-part="readings"]`))
	for _, part := range []struct{ id, seen string }{{"link", "#device-host"}, {"readings", ".browse li"}, {"try", "[data-action]"}, {"wire", ".wire"}} {
		p.do(p.Click(fmt.Sprintf(`[data-part=%q]`, part.id)), p.See(part.seen))
		p.axe(theme+", a device, "+part.id, rules...)
	}
	p.do(p.Press("Escape", 0), p.Goto("/patch"), p.See(key("a1", ".on-air")))
	p.axe(theme+", patch", rules...)
	p.do(p.Press("a", 0), p.See("[data-find]"))
	p.axe(theme+", what should it do", rules...)
	p.do(p.Press("Escape", 0), p.Press("e", 0), p.See("[data-lamp]"))
	p.axe(theme+", face and lamps", rules...)
	p.do(p.Press("Escape", 0))
	for _, tool := range []string{"map", "profiles", "add"} {
		p.do(p.Click(fmt.Sprintf(`[data-tool=%q]`, tool)))
		p.axe(theme+", "+tool, rules...)
		p.do(p.Press("Escape", 0))
	}
	p.do(p.Goto("/macros"), p.Click("[data-macro]"), p.Click("[data-step]"), p.See("aside form"))
	p.axe(theme+", macros", rules...)
	p.do(p.Goto("/journal"), p.See("h1, h2, table"))
	p.axe(theme+", journal", rules...)
	p.do(p.Press("b", 0), p.See(`[data-stand-in], aside`))
	p.axe(theme+", bench", rules...)
	p.do(p.Press("b", 0), p.Press("?", 0), p.See(`[role="dialog"]`))
	p.axe(theme+", keys", rules...)
	p.do(p.Goto("/panel/saskias-tablet"), p.See("[data-control]"))
	p.axe(theme+", panel", rules...)
	p.do(p.Goto("/legend/producer-grid"), p.See("dl dt"))
	p.axe(theme+", legend", rules...)
}
