package ui

import (
	"fmt"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// touch does something to what lies on the bench.
func (p *person) touch(standIn, control string, args ...any) {
	p.Helper()
	for _, arg := range args {
		p.do(p.app.Bench.StandIn(standIn).Operate(device.Message{Address: "/" + control, Args: []any{arg}}))
	}
}

// TestSixControlsAreLearnedByTouching: the fader row, which has no map for the console, becomes its keys, a dial and its sliders by being
// touched; then they play.
func TestSixControlsAreLearnedByTouching(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(`[data-loose="Fader row"]`), p.Wait(`(() => { const s = document.querySelector('[data-loose="Fader row"] select'); s.value = [...s.options].find(o => o.text === "Scope console").value; s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`))
	p.do(p.See(`[data-of="scope-console"] .phase.up`), p.Click(`[data-of="scope-console"] .act`), p.See(`[data-link="Fader row"]`), p.Click(on("scope-console", "a1", "")), p.Click("#learn"), p.See(`[data-learns="a1"]`))
	learns := func(control, source string, touches func()) {
		t.Helper()
		if control != "a1" {
			p.do(p.Click(on("scope-console", control, "")))
		}
		// The lesson has to have begun before it can be touched.
		p.do(p.Text(`[data-learns="`+control+`"]`, "What is touched does nothing else"), p.Wait(`document.querySelector('[data-lesson]')?.dataset.lesson`))
		touches()
		p.do(p.Text("[data-source]", source), p.Wait(`!document.querySelector("#take-lesson").disabled`), p.Click("#take-lesson"), p.Wait(`document.querySelector('[data-binding="`+source+`"]')`))
	}
	for i, control := range []string{"a1", "b1", "c1"} {
		learns(control, fmt.Sprintf("note 1 %d", 36+i), func() { p.touch("faders", fmt.Sprintf("pad%d", i+1), "press") })
	}
	learns("dial1", "controller 1 16", func() { p.touch("faders", "dial1", 1, 1, 1, -1, -1, -1) })
	for i, control := range []string{"slider1", "slider2"} {
		learns(control, fmt.Sprintf("bend %d", i+1), func() {
			fader := fmt.Sprintf("fader%d", i+1)
			p.touch("faders", fader+"/touch", "down")
			p.touch("faders", fader, 0.1, 0.2, 0.3, 0.5, 0.6, 0.8)
			p.touch("faders", fader+"/touch", "up")
		})
	}
	p.axe("a lesson")
	p.do(p.Click("#end-lesson"), p.Wait(`!document.querySelector("[data-learns]")`))
	for _, one := range []struct {
		touch, control string
		arg            any
	}{{"pad2", "b1", "press"}, {"dial1", "dial1", 2}, {"fader1", "slider1", 0.4}, {"pad1", "a1", "press"}, {"fader2", "slider2", 0.9}, {"pad3", "c1", "press"}} {
		p.touch("faders", one.touch, one.arg)
		p.do(p.Text(`[data-link="Fader row"] .inputs`, "→ "+one.control))
	}
}

// TestAKeyboardIsTakenInRig: with the way back, and what it says.
func TestAKeyboardIsTakenInRig(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(`[data-loose="Numeric block"]`), p.Wait(`(() => { [...document.querySelectorAll('[data-loose="Numeric block"] .act')].at(-1).click(); return true; })()`))
	p.do(p.See(`[data-of="numeric-block"] .phase.up`), p.Click(`[data-of="numeric-block"] .act`), p.Text("[data-take]", "Other programs get"), p.Click("#take"), p.Text("[data-take]", "passed on again in"))
	p.axe("a keyboard that is taken")
	p.do(p.Click("#keep-taken"), p.Text("[data-take]", "Only Synaptor gets what comes"), p.Click("#pass-on"), p.Text("[data-take]", "Other programs get"))
	p.touch("numeric", "KEY_A", "press")
	p.touch("numeric", "KEY_KP7", "press")
	p.do(p.Text(".inputs", "KEY_KP7 up"), p.Wait(`!document.querySelector(".inputs").textContent.includes("KEY_A")`), p.Click(`[data-field="Show keys that are bound to nothing, too"]`))
	p.do(p.Wait(`(() => { fetch("/api/v1/bench/numeric/operate", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({address: "/KEY_A", value: "down"})}); return document.querySelector(".inputs").textContent.includes("KEY_A"); })()`))
}

// handsOn adds a link with bindings to a controller.
func (p *person) handsOn(slug string, f edit.LinkForm) {
	p.Helper()
	for _, c := range p.app.Edit.Program().Show.Controllers() {
		if c.Slug == slug {
			f.Controller = c.ID
			_, err := p.app.Edit.AddLink(edit.Who{Session: "setup", Actor: "Setup"}, f)
			p.do(err)
			return
		}
	}
	p.Fatalf("there is no controller %s", slug)
}

// TestAPanelCatchesKeys: by their place on the keyboard and as combinations, while it is in front, and lets go when it is not.
func TestAPanelCatchesKeys(t *testing.T) {
	p := sit(t, "/panel/producer-grid", true)
	p.do(p.See(key("a1", ".on-air"))) // its device answers
	p.handsOn("producer-grid", edit.LinkForm{Kind: show.LinkKeysHere, Bindings: []show.Binding{{Source: "KeyK", Control: "c1", As: "key"}, {Source: "Shift+KeyK", Control: "d1", As: "key"}, {Source: "Space", Control: "b2", As: "key"}}})
	p.do(p.Text("header", "Keys are caught while this window is in front"), p.Press("k", 0), p.See(key("c1", ".on-air")))
	p.do(p.Press("K", 8), p.See(key("d1", ".on-air")))
	p.axe("a panel that catches keys")
	p.do(p.Wait(`(() => { dispatchEvent(new KeyboardEvent("keydown", {code: "Space"})); return true; })()`), p.Wait(`true`), p.Wait(`(() => { dispatchEvent(new Event("blur")); return true; })()`), p.Text("header", "Keys are not caught"))
}

// TestABrowserCarriesMIDIAndGameControls: with both of them injected, through the page that carries them.
func TestABrowserCarriesMIDIAndGameControls(t *testing.T) {
	p := sit(t, "/carry", true)
	p.do(p.See("#midi"))
	p.handsOn("producer-grid", edit.LinkForm{Kind: show.LinkMIDIHere, Match: "Fader row", Bindings: []show.Binding{{Source: "note 1 36", Control: "c1", As: "key", Lamps: map[string]int{"on-air": 5, "off": 0}}}})
	p.handsOn("producer-grid", edit.LinkForm{Kind: show.LinkGamepad, Match: "Foot board", Bindings: []show.Binding{{Source: "button 1", Control: "d1", As: "key"}, {Source: "axis 0", Control: "e1", As: "key"}}})
	p.do(p.Wait(`(() => {
		window.sent = [];
		window.faders = {id: "in", name: "Fader row", state: "connected"};
		const access = {inputs: new Map([["in", faders]]), outputs: new Map([["out", {name: "Fader row", send: (b) => sent.push([...b].join(" "))}]])};
		navigator.requestMIDIAccess = async () => access;
		window.board = {index: 0, id: "Foot board", connected: true, buttons: [{pressed: false}, {pressed: false}], axes: [-1, 0]};
		navigator.getGamepads = () => [board, null];
		return true;
	})()`), p.Click("#midi"), p.Text(`[data-carried="Fader row"]`, "attached"), p.Text(`[data-carried="Foot board"]`, "attached"))
	p.do(p.Wait(`(() => { faders.onmidimessage({data: new Uint8Array([0x90, 36])}); faders.onmidimessage({data: new Uint8Array([100, 0x80, 36, 0])}); return true; })()`), p.Text(`[data-carried="Fader row"]`, "→ c1"), p.Wait(`sent.includes("144 36 5")`))
	p.do(p.Wait(`(() => { board.buttons[1].pressed = true; return true; })()`), p.Text(`[data-carried="Foot board"]`, "button 1 down"), p.Text(`[data-carried="Foot board"]`, "→ d1"), p.Wait(`sent.at(-1) === "144 36 0"`))
	p.do(p.Wait(`(() => { board.buttons[1].pressed = false; board.axes[0] = 1; return true; })()`), p.Text(`[data-carried="Foot board"]`, "→ e1"))
	p.axe("a page that carries hardware")
	p.do(p.Wait(`(() => { navigator.getGamepads = () => []; return true; })()`), p.Wait(`!document.querySelector('[data-carried="Foot board"]')`))
}

// TestALegendSaysWhatHandsCannotSee: how the hardware calls each control, and what it does while a layer is held.
func TestALegendSaysWhatHandsCannotSee(t *testing.T) {
	p := sit(t, "/legend/thumb-pad", true)
	p.do(p.See("dt"))
	p.handsOn("thumb-pad", edit.LinkForm{Kind: show.LinkKeysHost, Match: "Numeric block", Bindings: []show.Binding{{Source: "KEY_F13", Control: "a1", As: "key"}, {Source: "KEY_LEFTSHIFT", Control: "shift1", As: "key"}}})
	p.do(p.Text("dl", "F13"), p.Text("dl", "with LEFTSHIFT:"))
	p.axe("a legend with layers")
}

// TestTouchSelectsInPatch: what is touched on hardware is selected on the desk, and does nothing else.
func TestTouchSelectsInPatch(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	p.handsOn("producer-grid", edit.LinkForm{Kind: show.LinkKeysHost, Match: "Numeric block", Bindings: []show.Binding{{Source: "KEY_KP7", Control: "c1", As: "key"}}})
	p.do(p.Click(`[data-tool="more"]`), p.Click(`[data-menu="touch"]`), p.See(`[data-tool="touch-ends"]`), p.Wait(`fetch("/api/v1/hardware").then(r => r.json()).then(all => all.some(h => h.link))`))
	p.do(p.Text(".touch", "Touch selects"))
	p.touch("numeric", "KEY_KP7", "press")
	p.do(p.Text(".path", "All-sky cam"), p.See(key("a1", ".on-air")))
	p.axe("touch selects")
	p.do(p.Click(`[data-tool="touch-ends"]`), p.Wait(`!document.querySelector('[data-tool="touch-ends"]')`))
}

// TestPagesAreGoneThroughByGesturesFromTheMap: the map proposes it where no key leads.
func TestPagesAreGoneThroughByGesturesFromTheMap(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	treadle := p.app.Edit.Program().BySlug["treadle"]
	_, err := p.app.Edit.AddPage(edit.Who{Session: "setup", Actor: "Setup"}, edit.NewPage{Profile: treadle.Profile, Layout: "pedals-4", Zone: "pedals", Name: "More feet"})
	p.do(err, p.Click(`[data-tool="map"]`), p.See(`[data-through="pedals"]`))
	p.axe("a map that proposes gestures")
	p.do(p.Click(`[data-through="pedals"]`), p.Wait(`!document.querySelector('[data-through="pedals"]')`))
}
