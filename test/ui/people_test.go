package ui

import (
	"testing"
	"time"

	"synaptor/test/browser"
)

const words = "seven bright meteors"

// arrives waits until a page that is gone to has an element: one that is left meanwhile cannot be asked.
func (p *person) arrives(selector string) {
	p.Helper()
	for late := time.Now().Add(browser.Patience); time.Now().Before(late); time.Sleep(20 * time.Millisecond) {
		if there, err := browser.Eval[bool](p.Page, "document.querySelector(`"+selector+"`)?.getBoundingClientRect().width > 0"); err == nil && there {
			return
		}
	}
	p.do(p.See(selector)) // it says what is there instead
}

// TestPeopleGetInAndOut: the first passphrase, an invitation that another browser accepts, what an operator may not do, and a session that
// is ended.
func TestPeopleGetInAndOut(t *testing.T) {
	p := sit(t, "/rig", true)
	for _, one := range p.app.People.All() { // those of the demo come in a test of their own
		p.do(p.app.People.Remove(one.ID))
	}
	p.do(p.Click("#people"), p.See("#claim-name"))
	p.axe("before anybody has set a passphrase")
	p.do(p.Fill("#claim-name", "Tobin"), p.Fill("#claim-passphrase", "short"), p.Click("#claim"), p.Text(".over", "at least 10 characters"), p.Fill("#claim-passphrase", words), p.Click("#claim"), p.Text(".over", "Tobin"))
	p.do(p.Click(`[data-part="people"]`), p.See(`[data-person="Tobin"]`), p.Choose("#invite", "operator"), p.See("[data-invited]"), p.Wait(`!document.querySelector("main.lost")`))
	p.axe("people")
	link, err := browser.Eval[string](p.Page, `document.querySelector("[data-invited]").textContent.replace(location.origin, "")`)
	p.do(err)
	other := meet(t, p.app, "/patch")
	other.do(other.Text("h1", "Sign in"))
	other.axe("the sign-in")
	other.do(other.Goto(link), other.Text("h1", "You are invited"), other.Text("main", "as an operator"), other.Fill(`[name="name"]`, "Oyelaran"), other.Fill(`[name="passphrase"]`, words), other.Click("button"))
	other.arrives("#people")
	other.do(other.Goto("/patch"), other.See(key("a1", ".on-air")), other.Click("#people"), other.Text(".over", "Oyelaran, operator"), other.Press("Escape", 0))
	// An operator presses, and edits nothing.
	other.do(other.Goto("/panel/producer-grid"), other.See(key("c1", "")), other.Click(`[data-control="c1"]`), other.See(key("c1", ".on-air")))
	other.do(other.Goto("/rig"), other.See(`[data-of="producer-grid"] .act`), other.Click(`[data-of="producer-grid"] .act`), other.Fill("#controller-name", "Mine"), other.Press("Tab", 0), other.Text(".notices", "This takes an editor"))
	p.do(p.Click(`[data-part="you"]`), p.Click(`[data-part="people"]`), p.See(`[data-person="Oyelaran"]`), p.Wait(`(() => { const b = [...document.querySelectorAll('[data-person="Oyelaran"] .act')].find(b => b.textContent.trim() === "End"); b?.click(); return b; })()`))
	other.arrives(`[name="passphrase"]`)
	other.do(other.Fill(`[name="name"]`, "Oyelaran"), other.Fill(`[name="passphrase"]`, "something else"), other.Click("button"))
	other.arrives(".problem")
	other.do(other.Text(".problem", "do not belong together"), other.Fill(`[name="passphrase"]`, words), other.Click("button"))
	other.arrives(`[data-of="producer-grid"]`)
	// Narrowed to one mix effect, the key of another one says why it does nothing.
	p.do(p.Click(`[data-person="Oyelaran"] [data-all-changes] label`), p.See(`[data-person="Oyelaran"] textarea`), p.Fill(`[data-person="Oyelaran"] textarea`, "nonsense"), p.Press("Tab", 0), p.Text(`[data-person="Oyelaran"]`, "is not device:path"))
	p.do(p.Fill(`[data-person="Oyelaran"] textarea`, "dome-switcher:mix/2/*"), p.Press("Tab", 0), p.Wait(`!document.querySelector('[data-person="Oyelaran"]').textContent.includes("is not device:path")`))
	p.axe("an operator who is narrowed")
	other.do(other.Goto("/panel/producer-grid"), other.See(key("d1", "")), other.Click(`[data-control="d1"]`), other.Text(`[data-control="d1"]`, "may not change"))
	p.do(p.Click(`[data-part="programs"]`), p.Fill("#program", "Cue lights"), p.Choose("#program-role", "operator"), p.See("[data-token]"), p.See(`[data-program="Cue lights"]`))
	p.axe("programs")
	p.do(p.Click(`[data-part="you"]`), p.Click("#sign-out"))
	p.arrives(`[name="passphrase"]`)
	if c := p.app.Edit.Program().BySlug["producer-grid"]; c == nil || c.Name != "Producer grid" {
		t.Error("an operator has renamed a controller")
	}
}
