package ui

import (
	"context"
	"strings"
	"testing"

	"synaptor/internal/announce"
	"synaptor/internal/app"
	"synaptor/internal/edit"
	"synaptor/test/browser"
)

// claim sets the first passphrase as Tobin, in the sheet of people.
func (p *person) claim() {
	p.Helper()
	p.do(p.Click("#people"), p.Fill("#claim-name", "Tobin"), p.Fill("#claim-passphrase", words), p.Click("#claim"), p.See(`[data-part="panels"]`), p.Wait(`!document.querySelector("main.lost")`))
}

// TestAPanelIsHandedOver: the sheet has the code, the rights and the last presses, sees that a browser has opened the link, and takes it back.
func TestAPanelIsHandedOver(t *testing.T) {
	p := sit(t, "/rig", true)
	p.claim()
	p.do(p.Click(`[data-part="panels"]`), p.See(`[data-panel="Saskia's tablet"]`))
	p.axe("panels")
	p.do(p.Fill("#panel-name", "Stage phone"), p.Click(`[data-gives="producer-grid"] label`), p.Click("#panel-make"), p.See("[data-code]"), p.Text(".over", "Only this computer can reach Synaptor now"))
	p.axe("a panel that is handed over")
	src, err := browser.Eval[string](p.Page, `decodeURIComponent(document.querySelector(".over .qr").getAttribute("src"))`)
	p.do(err)
	link := src[strings.Index(src, "/pair/"):]
	phone := meet(t, p.app, link)
	phone.do(phone.Text("main", "It becomes Stage phone, an operator of Producer grid."))
	phone.axe("the page behind the code")
	p.do(p.Text("[data-reached]", "it reaches Synaptor"))
	phone.do(phone.Click("button"))
	phone.arrives(`[data-control="c1"]`)
	phone.do(phone.See(key("c1", ".tile")), phone.Click(`[data-control="c1"]`), phone.See(key("c1", ".on-air")))
	p.do(p.See("[data-paired]"), p.Text("[data-presses]", "confirmed"), p.Click("#panel-back"))
	phone.arrives(`[name="digits"]`)
	phone.axe("a panel whose right has ended")
	phone.do(phone.Text("h1", "right has ended"))
	p.do(p.Text(`[data-panel="Stage phone"]`, "Not paired"))
	if c := p.app.Edit.Program().BySlug["producer-grid"]; c == nil {
		t.Error("the controller is gone")
	}
}

// TestAnOutputIsTakenInPeople and the key of it says who has it, for somebody else.
func TestAnOutputIsTakenInPeople(t *testing.T) {
	p := sit(t, "/patch", true)
	p.claim()
	link, _, err := p.app.People.Invite("tobin", "operator")
	p.do(err)
	other := meet(t, p.app, "/invitation/"+link)
	other.do(other.Fill(`[name="name"]`, "Guest"), other.Fill(`[name="passphrase"]`, words), other.Click("button"))
	other.arrives("#people")
	other.do(other.Goto("/panel/producer-grid"), other.See(key("a1", ".tile")), other.Wait(`!document.querySelector(".barred")`))
	p.do(p.Click(`[data-part="outputs"]`), p.Click(`[data-output="Program of mix effect 1"] .act`), p.Text(`[data-output="Program of mix effect 1"]`, "You have it"))
	p.axe("outputs")
	other.do(other.See(key("a1", ".barred")), other.Click(`[data-control="a1"]`), other.Text(`[data-control="a1"]`, "Tobin has taken"))
	p.do(p.Click(`[data-output="Program of mix effect 1"] .act`))
	other.do(other.Wait(`!document.querySelector('[data-control="a1"] .barred')`))
}

// TestEditsAreLockedInTheTopBar for oneself by a key, and for all; the server refuses them, and presses go on.
func TestEditsAreLockedInTheTopBar(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(`[data-of="producer-grid"] .act`), p.Text("#locked", "Edit"), p.Press("l", 0), p.Text("#locked", "Locked"))
	p.do(p.Click(`[data-of="producer-grid"] .act`), p.Fill("#controller-name", "Mine"), p.Press("Tab", 0), p.Text(".notices", "You have locked edits for yourself"))
	p.do(p.Click("#locked"), p.See("#lock-me"), p.Click(`[data-field="Locked for me"] label`), p.Text("#locked", "Edit"))
	p.axe("edit or locked")
	p.do(p.Click(`[data-field="Locked for all"] label`), p.Text("#locked", "Locked"))
	other := meet(t, p.app, "/patch")
	other.do(other.Text("#locked", "Locked"))
	if c := p.app.Edit.Program().BySlug["producer-grid"]; c == nil || c.Name != "Producer grid" {
		t.Error("while it was locked a controller was renamed")
	}
}

// TestADeviceThatHasMovedIsMovedInOnePress: it announces itself at another address, and says that it is the same.
func TestADeviceThatHasMovedIsMovedInOnePress(t *testing.T) {
	var heard []announce.Heard
	p := sitWith(t, "/rig", app.Options{Demo: true, Hear: func(context.Context, []string, []string) []announce.Heard { return heard }})
	d := p.app.Edit.Program().Show.Device("dome-switcher")
	p.do(p.Text(`[data-device="dome-switcher"]`, "connected"))
	// It was written down at an address where nobody answers: as if it had moved.
	p.do(p.app.Edit.MoveDevice(edit.Who{Session: "setup", Actor: "Setup"}, d.ID, "127.0.0.1", 9), p.Text(`[data-device="dome-switcher"]`, "away"))
	heard = []announce.Heard{{Name: "Dome switcher", Service: "_osc._tcp", Host: d.Host, Port: d.Port}, {Name: "Something else", Service: "_http._tcp", Host: "127.0.0.1", Port: 9}}
	p.do(p.Click("#look"), p.Click("#listen"), p.Text(`[data-announced="Dome switcher"]`, "was at 127.0.0.1:9 and answers here"))
	p.axe("what announces itself")
	p.do(p.Click(`[data-announced="Dome switcher"] .act`), p.Text(`[data-device="dome-switcher"]`, "connected"))
	if now := p.app.Edit.Program().Show.Device("dome-switcher"); now.Host != d.Host || now.Port != d.Port {
		t.Errorf("it is at %s", now.Address())
	}
}
