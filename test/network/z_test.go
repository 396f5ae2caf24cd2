package network

import "testing"

func TestZ(t *testing.T) {
	s, _ := opened(t, nil)
	p := s.look("http://"+s.Addr, 1280, 800)
	do(t, p, p.Goto("/sign-in"), p.Fill(`[name="name"]`, "Tobin"), p.Fill(`[name="passphrase"]`, words), p.Click("button"))
	arrives(t, p, "#people")
	do(t, p, p.Goto("/rig"), p.See("#this-synaptor"), p.Click("#this-synaptor"), p.See(`[data-address]`), p.Shot("/tmp/look/addresses.png"))
	do(t, p, p.Wait(`(document.querySelector("aside").scrollTop = 5000, true)`), p.Shot("/tmp/look/addresses2.png"))
	do(t, p, p.Choose("#tls", "own"), p.See("[data-pending]"), p.Wait(`(document.querySelector("aside").scrollTop = 0, true)`), p.Shot("/tmp/look/pending.png"))
	s.must(204, "DELETE", "/api/v1/addresses/change", nil, nil)
	do(t, p, p.Press("Escape", 0), p.Click("#people"), p.Click(`[data-part="panels"]`), p.See("#panel-name"), p.Fill("#panel-name", "Saskia's tablet"), p.Click(`[data-gives="producer-grid"] label`), p.Shot("/tmp/look/panels.png"))
	do(t, p, p.Click("#panel-make"), p.See("[data-code]"), p.Shot("/tmp/look/pairing.png"))
	do(t, p, p.Click(`[data-part="programs"]`), p.See("#program"), p.Click("details summary"), p.Shot("/tmp/look/programs.png"))
	do(t, p, p.Click(`[data-part="outputs"]`), p.See("[data-output]"), p.Click("[data-output] .act"), p.Text("[data-output]", "You have it"), p.Shot("/tmp/look/outputs.png"))
	do(t, p, p.Press("Escape", 0), p.Click("#locked"), p.See("#lock-me"), p.Click(`[data-field="Locked for me"] label`), p.Text("#locked", "Locked"), p.Shot("/tmp/look/locked.png"))
	do(t, p, p.Press("Escape", 0), p.Click("#look"), p.See("#listen"), p.Shot("/tmp/look/identify.png"))
}
