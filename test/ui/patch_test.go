package ui

import (
	"errors"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/test/browser"
)

// TestTheFirstThingAPractitionerDoes is the whole slice: a program row is
// dragged onto keys, pressed, seen red; the front panel moves it; the link is
// cut and restored; the row is undone.
func TestTheFirstThingAPractitionerDoes(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))

	// Drag a program row of the second mix effect onto the free fourth row.
	p.do(p.Click(key("b4", ".cross")), p.Press("a", 0), p.See(`[data-find^="kit:"]`), p.Keys("program row 2"))
	row := `[data-find="kit:program-row:2"]`
	p.do(p.See(row), p.Wait(`document.querySelector(".result.active")?.dataset.find === "kit:program-row:2"`), p.Hold(row, `[data-control="c4"]`, 0))
	p.do(p.Wait(`document.querySelectorAll(".landing").length === 6`))
	p.do(p.Drag(row, `[data-control="c4"]`, 0), p.See(key("f4", ".tile")), p.See(key("b4", ".on-air")))

	// Press, and see red because the switcher said so.
	p.do(p.Press("Escape", 0), p.Click(`[data-control="d4"]`), p.Text(".path", "Put Guest cam on program of mix effect 2"))
	p.do(p.Click(".try"), p.See(key("d4", ".on-air")), p.Wait(`!document.querySelector('[data-control="b4"] .on-air')`))
	p.do(p.Text(".back", "Guest cam"))

	// Press on the front panel, and see it move.
	p.do(p.Click("#bench"), p.Click(".banks button:nth-child(2)"), p.See(`[data-front="2/program/4"].lit`))
	p.do(p.Click(`[data-front="2/program/5"]`), p.See(key("e4", ".on-air")))

	// Pull the cable in the bench drawer: unknown at once, and a press is refused in words.
	p.do(p.Click(`label[for="fault-cut"]`), p.See(key("e4", ".on-air.unknown.away")), p.See(key("a2", ".unknown")), p.Text(".line", "Dome switcher away"))
	p.do(p.Press("Escape", 0), p.Click(`[data-control="c4"]`), p.Click(".try"), p.Text(key("c4", ".refusal"), "does not answer"))

	// Restore it.
	p.do(p.Click("#bench"), p.Click(`label[for="fault-cut"]`), p.See(key("e4", ".on-air:not(.unknown):not(.away)")), p.Press("Escape", 0))

	// Undo the row by keyboard, and do it again.
	p.do(p.Click(`[data-control="a1"]`), p.Press("z", 2))
	p.empty("d4")
	p.do(p.Text(".notices", "Undone: Program row of mix effect 2 on Cut"), p.Press("Z", 2|8), p.See(key("e4", ".on-air")))
}

func TestKeysAreMovedSwappedReplacedAndCleared(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	p.do(p.Drag(`[data-control="a1"]`, `[data-control="c4"]`, 0), p.See(key("c4", ".on-air")))
	p.empty("a1")
	p.do(p.Drag(`[data-control="c4"]`, `[data-control="e1"]`, 1), p.See(key("e1", ".on-air")), p.Text(key("c4", ".label"), "Slides"))
	p.do(p.Drag(`[data-control="e1"]`, `[data-control="f1"]`, 0), p.See(key("f1", ".on-air")))
	p.empty("e1")
	p.do(p.Press("Delete", 0))
	p.empty("f1")
	for range 4 {
		p.do(p.Click("#undo"))
	}
	p.do(p.See(key("a1", ".on-air")), p.Text(key("f1", ".label"), "Replay"), p.Text(key("e1", ".label"), "Slides"))
}

func TestAKeyIsMappedByWordsAndLabelledByHand(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(`[data-control="a4"]`), p.Press("a", 0), p.See(`[data-find^="kit:"]`))
	p.do(p.Keys("slides to foyer"), p.Text(".result.active .title", "Route Slides to Foyer screen"), p.Keys("\r"))
	p.do(p.Text(key("a4", ".where"), "FOYER"), p.Wait(`document.querySelector('[data-control="b4"]').classList.contains("selected")`))
	p.do(p.Press("Escape", 0), p.Click(`[data-control="a4"]`), p.Press("Enter", 0), p.Wait(`document.activeElement.id === "label"`))
	p.do(p.Keys("Foyer: slides\r"), p.Text(key("a4", ".label"), "Foyer:"))
	p.do(p.Fill("#label", "{oops("), p.Keys("\r"), p.Text(".does .bx--form-requirement", "cannot be worked out"))
	p.do(p.Press("Escape", 0), p.Click(".try"), p.See(key("a4", ".tile.set")))

	// Undo takes the label off the key and out of its field.
	p.do(p.Click("#undo"), p.Text(key("a4", ".label"), "Slides"), p.Wait(`document.querySelector("#label").value === ""`))

	// What is being filled in stays while the words go on, for as long as they mean it too.
	p.do(p.Click(key("d4", ".cross")), p.Press("a", 0), p.seek("write"), p.Click(`[data-find="action:write:1"]`), p.Click(`.params button`))
	p.do(p.Click(".bx--search-input"), p.Keys(" as name"), p.Wait(`document.querySelectorAll(".result").length < 8`), p.Wait(`document.querySelector('[data-param="words"]').value === "{event.typed}"`))
	p.do(p.seek("slides to foyer"), p.Text(".result.active .title", "Slides"), p.Wait(`!document.querySelector(".params")`))
}

// TestWhoeverTypesOnHasNotMeantWhatWasThere: Enter before the answer means the words that it was pressed on, and no others.
func TestWhoeverTypesOnHasNotMeantWhatWasThere(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.asks(`(window.puts = (window.puts ?? 0) + (r.method === "PUT"), window.hold && r.url.includes("/find") ? later(r) : send(r))`))
	p.do(p.Goto("/patch"), p.See(key("a1", ".on-air")), p.Click(key("d4", ".cross")), p.Press("a", 0), p.seek("cut"), p.Wait("hold = true"))
	p.do(p.Fill(".bx--search-input", "aut"), p.Wait("late.length > 0"), p.Keys("\r"), p.Keys("o"), p.Wait("late.length > 1"), p.Keys("\b"), p.Wait("late.length > 2"), p.Wait("(hold = false, late.forEach((go) => go()), true)"))
	p.do(p.See(`.all[aria-busy="false"]`), p.See(".result.active"), p.Keys("\r"), p.See(key("d4", ".tile")), p.Wait("puts === 1"))
}

// TestWhatCannotBeReadSaysSo, instead of there being nothing: what a key and a reflex should do, an action's parameters, and events to try one with.
func TestWhatCannotBeReadSaysSo(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.asks(`window.shut?.test(r.url) ? refused() : send(r)`))
	p.do(p.Goto("/patch"), p.See(key("a1", ".on-air")), p.Click(key("d4", ".cross")), p.Press("a", 0), p.seek("write"), p.Wait(`window.shut = /actions/`), p.Click(`[data-find="action:write:1"]`), p.Text(".notices", "The dome is closed"))
	p.do(p.Wait(`window.shut = /find/`), p.seek("music"), p.Text(".problem", "The dome is closed"), p.Wait(`window.shut = /none/`), p.seek("cut"), p.See(".result.active"), p.Wait(`!document.querySelector(".problem")`))
	p.do(p.Goto("/reflexes"), p.Click(`[data-reflex="Map command"] .name`), p.Wait(`window.shut = /events/`), p.See("#try-text"), p.Text("aside", "The dome is closed"))
	p.do(p.Click("#then-other"), p.Wait(`window.shut = /find/`), p.Fill("#then-find", "music"), p.Text("aside .find", "The dome is closed"))
}

// seek says what a key should do, and waits for what is found.
func (p *person) seek(words string) error {
	return errors.Join(p.See(".bx--search-input"), p.Fill(".bx--search-input", words), p.See(`.all[aria-busy="false"]`))
}

func TestALabelFollowsTheSwitchersName(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click("#bench"), p.Click("details:first-of-type summary"))
	p.do(p.Fill(`[data-name="3"]`, "Comet cam"), p.Keys("\r"), p.Text(key("c1", ".label"), "Comet"), p.Text(key("c2", ".label"), "Comet"))
}

func TestAPanelInAnotherWindowPressesAndFollows(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	panel := meet(t, p.app, "/panel/producer-grid")
	for _, size := range [][2]int64{{390, 844}, {1024, 768}, {1920, 1080}} {
		panel.do(panel.Resize(size[0], size[1]), panel.See(key("a1", ".on-air")))
		panel.do(panel.Wait(`(() => { const r = document.querySelector(".plate").getBoundingClientRect();
			return r.left >= 0 && r.top >= 0 && r.right <= innerWidth && r.bottom <= innerHeight && r.width > innerWidth * 0.5; })()`))
	}
	// Held upright, what lies side by side stands one above the other, and a finger finds each key.
	panel.do(panel.Resize(390, 844), panel.Text("header", "Producer grid"), panel.Text("header", "Cut"), panel.Wait(`(() => { const at = id => document.querySelector('[data-control="' + id + '"]').getBoundingClientRect();
		return at("b1").top > at("a1").bottom && at("a2").left > at("a1").right && at("a1").width >= 90; })()`))
	panel.do(panel.Click(`[data-control="c1"]`), panel.See(key("c1", ".on-air")))
	p.do(p.See(key("c1", ".on-air")))

	// The device changes; a pending look comes before the confirmed one.
	if err := p.app.Bench.Switcher.SetFaults(faults.Faults{LatencyMs: 600}); err != nil {
		t.Fatal(err)
	}
	panel.do(panel.Click(`[data-control="d1"]`), panel.See(key("d1", ".pending-on-air:not(.on-air)")), panel.See(key("d1", ".on-air:not(.pending-on-air)")))

	if err := p.app.Bench.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
		t.Fatal(err)
	}
	panel.do(panel.See(key("d1", ".on-air.unknown")), panel.Down(`[data-control="e1"]`), panel.Text(key("e1", ".refusal"), "does not answer"), panel.Up(`[data-control="e1"]`))
	panel.do(panel.Text("header", "Dome switcher away"))
}

func TestEverythingWorksWithTheKeyboardAlone(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(".phase.up"), p.Press("2", 0), p.See(key("a1", ".on-air")))
	p.do(p.Press("ArrowRight", 0), p.Press("ArrowRight", 0), p.Text(".path .id", "c1"))
	p.do(p.Press(" ", 0), p.See(key("c1", ".on-air")), p.Press("?", 0), p.Text(`[role="dialog"]`, "What should it do?"), p.Press("Escape", 0))
	p.do(p.Press("7", 0), p.Text("tbody", "Put All-sky cam on program"), p.Press("ArrowDown", 0), p.See(`.trace [data-stage="confirmation"]`))
	p.do(p.Wait(`location.pathname.startsWith("/journal/")`), p.Press("Escape", 0), p.Wait(`location.pathname === "/journal"`))
}

func TestEveryKeyIsNamedForScreenReaders(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	name, err := browser.Eval[string](p.Page, `document.querySelector('[data-control="a1"]').textContent.replace(/\s+/g, " ").trim()`)
	if err != nil || name != "PGM Presenter cam ? a1, Put Presenter cam on program, on air" {
		t.Errorf("a1 is called %q (%v)", name, err)
	}
	unnamed, err := browser.Eval[int](p.Page, `[...document.querySelectorAll("button, input, select, a")].filter(e => e.offsetParent
		&& !(e.ariaLabel || e.textContent.trim() || e.title || e.labels?.length)).length`)
	if err != nil || unnamed > 0 {
		t.Errorf("%d things to operate have no name (%v)", unnamed, err)
	}
}

func TestAnOddNameDoesNotBreakTheDrawing(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	long := "A very long name for the camera that looks at the whole of the night sky, twice"
	if err := p.app.Bench.Switcher.Operate(device.Message{Address: "/input/3/name", Args: []any{long}}); err != nil {
		t.Fatal(err)
	}
	p.do(p.Text(key("c1", ".label"), "…"), p.Wait(`(() => { const t = document.querySelector('[data-control="c1"]').getBoundingClientRect();
		const l = document.querySelector('[data-control="c1"] .label').getBoundingClientRect(); return l.right <= t.right && l.top >= t.top; })()`))
}

func TestTwoPeopleEditingOneKey(t *testing.T) {
	tobin := sit(t, "/patch", true)
	tobin.do(tobin.See(key("a1", ".on-air")), tobin.Fill("#label", "Imke"))
	saskia := meet(t, tobin.app, "/patch")
	saskia.do(saskia.See(key("a1", ".on-air")), saskia.Fill("#label", "Stage"), saskia.Keys("\r"), saskia.Text(key("a1", ".label"), "Stage"))
	tobin.do(tobin.Text(key("a1", ".label"), "Stage"), tobin.Text(".does .wrong", "Somebody else has changed this key"))
	tobin.do(tobin.Click(".does .buttons button:nth-child(2)"), tobin.Text(key("a1", ".label"), "Imke"), saskia.Text(key("a1", ".label"), "Imke"))
	tobin.do(tobin.Click("#history"), tobin.Text("[role=dialog] li:nth-child(2)", "Browser"), tobin.Text("[role=dialog] li:first-child", "you"))
}
