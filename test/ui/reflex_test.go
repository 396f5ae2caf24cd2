package ui

import (
	"testing"

	"synaptor/internal/core/device"
)

// TestAReflexIsBuiltAndFires: the command of the audience, as a person builds it in the form; the limit holds, the list says why, and the switch keeps it off.
func TestAReflexIsBuiltAndFires(t *testing.T) {
	p := sit(t, "/reflexes", true)
	say := func(text string) {
		t.Helper()
		p.do(p.app.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{text}}))
	}
	p.do(p.Text(".reflexes", "Nothing happens by itself yet"))
	p.axe("no reflexes")
	p.do(p.Click("#add-reflex"), p.Fill("#reflex-name", "Slides please"), p.Choose("#on-kind", "device"), p.Choose("#on-device", "audience"), p.Wait(`document.querySelector("#on-event").options.length > 2`), p.Choose("#on-event", "message"))
	p.do(p.Fill("#reflex-when", "event.text =="), p.Choose("#then-device", "dome-switcher"), p.Wait(`document.querySelector("#then-action").options.length > 2`), p.Choose("#then-action", "put-on-program"), p.Choose(`[data-param="input"]`, "5"), p.Fill("#reflex-every", "60"), p.Click("#reflex-save"))
	p.do(p.Text("aside", "cannot be read"), p.Fill("#reflex-when", "event.text == '!slides'"))
	p.axe("a reflex that is built")
	p.do(p.Click("#reflex-save"), p.See(`[data-reflex="Slides please"]`), p.Text(`[data-reflex="Slides please"]`, "Has not fired"), p.Text(`[data-reflex="Slides please"]`, "no more often than once in 1 min"))
	say("Nachteule: hello")
	p.do(p.Text(`[data-reflex="Slides please"]`, "It was not so that"))
	say("Nachteule: !slides")
	p.do(p.Text(`[data-reflex="Slides please"]`, "Fired once"))
	say("Sternfahrer: !slides")
	p.do(p.Text(`[data-reflex="Slides please"]`, "at most once in 1 min"))
	p.axe("a reflex that was held back")
	p.do(p.Goto("/patch"), p.See(key("e1", ".on-air")), p.Press("4", 0), p.See(`[data-reflex="Slides please"]`), p.Click(`[data-reflex="Slides please"] label`), p.See(`[data-reflex="Slides please"].off`))
	if r := p.app.Edit.Program().Show.Reflexes(); len(r) != 1 || !r[0].Off {
		t.Errorf("the reflexes are %+v", r)
	}
	p.do(p.Click("#undo"), p.Wait(`!document.querySelector('[data-reflex="Slides please"].off')`))
}
