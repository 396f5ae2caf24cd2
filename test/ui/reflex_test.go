package ui

import (
	"fmt"
	"testing"

	"synaptor/internal/core/device"
)

// TestTheMapCommandIsBuilt as a person would, over that of the demo which is taken away: an event of the audience, its text, what is done, and how often. The
// audience asks for it on its front panel, the limit holds, and the record is asked what it would have done.
func TestTheMapCommandIsBuilt(t *testing.T) {
	p := sit(t, "/reflexes", true)
	row := `[data-reflex="Where is it"]`
	p.do(p.See(`[data-reflex="Map command"]`), p.Text(`[data-reflex="Map command"]`, "provided that its text is “!map”"))
	p.axe("the reflexes of the demo")
	p.do(p.Click(`[aria-label="Remove Map command"]`), p.Wait(`!document.querySelector('[data-reflex="Map command"]')`))
	p.do(p.Click("#add-reflex"), p.See("#reflex-name:focus"), p.Keys("Where is it"), p.Choose("#on-device", "audience"), p.Wait(`document.querySelector("#on-event").options.length > 2`), p.Choose("#on-event", "message"))
	p.do(p.Click("#reflex-save"), p.Text("aside", "Choose what it does"))
	p.do(p.Click("#reflex-when-add"), p.Fill(`[data-condition="reflex-when"] input`, "!map"), p.Fill("#then-find", "map for the audience"), p.Text("#then-find-offers .active .title", "Map for the audience"), p.Press("Enter", 0), p.See("#then-other"))
	p.do(p.Fill("#reflex-every", "60"), p.Click("#reflex-save"), p.Text(row, "When Audience tells of a message, provided that its text is “!map”: Run Map for the audience, no more often than once in 1 min."), p.Text(row, "Has not fired"))
	p.axe("a reflex that is built")
	p.do(p.Click("#bench"), p.Click(`[data-standin="chat"]`), p.Fill(`[aria-label="What they write"]`, "hello"), p.Click(".front form button"), p.Text(row, "It was not so that its text is"))
	asks := `[data-front="say-!map"]`
	p.do(p.Click(asks), p.Text(row, "Fired once"), p.Click(asks), p.Text(row, "at most once in 1 min"), p.Click("#bench"))
	p.do(p.See(`[data-timeline="Where is it"] .bar.held`), p.Wait(`document.querySelector("#try-text")?.value === "!map"`), p.Click("#rehearse-reflex"), p.Text("#tried", "Run Map for the audience"), p.Click("#ask-night"), p.Text("#night", "would have fired once"), p.Text("#night", "2 events would have been held back"))
	p.axe("what it would have done")
	p.do(p.Click(`label[for="audience-reflexes"]`), p.Wait(`document.querySelector("#audience-reflexes").checked === false`))
	p.do(p.Click(row+" label"), p.See(row+".off"), p.Goto("/patch"), p.See(key("a1", ".on-air")), p.Press("4", 0), p.See(row+".off"), p.Click(row+" label"), p.Wait(`document.querySelector('`+row+`') && !document.querySelector('`+row+`.off')`))
	p.do(p.Wait(`((e) => { e?.focus(); return !!e && document.activeElement === e; })([...document.querySelectorAll('[data-timeline="happened"] .tick')].findLast((e) => e.ariaLabel.endsWith(": !map")))`), p.Keys("\r"), p.See("#reflex-name:focus"), p.Wait(`document.querySelector("#on-device").value === "audience" && document.querySelector("#on-event").value === "message"`))
}

// TestTheLatestEventIsTried until somebody has taken one or typed; then what comes changes nothing under their hands.
func TestTheLatestEventIsTried(t *testing.T) {
	p := sit(t, "/reflexes/new", true)
	says := func(text string) {
		t.Helper()
		p.do(p.app.Bench.StandIn("chat").Operate(device.Message{Address: "/say", Args: []any{"Okular: " + text}}))
	}
	tried := func(text string, events int) error {
		return p.Wait(fmt.Sprintf(`document.querySelectorAll("#try-event option").length === %d && document.querySelector("#try-text").value === %q`, events, text))
	}
	p.do(p.Choose("#on-device", "audience"), p.Wait(`document.querySelector("#on-event").options.length > 2`), p.Choose("#on-event", "message"), p.Fill("#then-find", "bars on air"), p.Press("Enter", 0), p.Text("aside", "None has come"))
	says("hello")
	p.do(tried("hello", 1))
	says("!map")
	p.do(tried("!map", 2))
	p.do(p.Choose("#try-event", "1"), tried("hello", 2))
	says("good night")
	p.do(tried("hello", 3), p.Wait(`document.querySelector("#try-event").value === "2"`))
	p.do(p.Choose("#try-event", "0"), tried("good night", 3), p.Fill("#try-text", "?why"))
	says("!map")
	p.do(tried("?why", 4))
}

// TestMusicIsDuckedByAReflex that a person has built: it goes down while the microphone is open, and comes back; by the keyboard alone it is switched off.
func TestMusicIsDuckedByAReflex(t *testing.T) {
	p := sit(t, "/reflexes", true)
	row := `[data-reflex="Softer"]`
	desk := func(address string, value any) {
		t.Helper()
		p.do(p.app.Bench.StandIn("mixer").Operate(device.Message{Address: address, Args: []any{value}}))
	}
	level := func(js string) error {
		return p.Wait(`fetch("/api/v1/readings?device=sound-desk").then(r => r.json()).then(l => { window.level = l.find(r => r.path === "channel/5/level").value; }) && Math.abs(window.level - ` + js + `) < 0.2`)
	}
	desk("/channel/1/mute", 1)
	desk("/channel/5/level", -6.0)
	p.do(p.Click(`[aria-label="Remove Duck the music"]`), p.Wait(`!document.querySelector('[data-reflex="Duck the music"]')`))
	p.do(p.Click("#add-reflex"), p.Fill("#reflex-name", "Softer"), p.Choose("#on-kind", "while"), p.Click("#reflex-when-add"))
	when := `[data-condition="reflex-when"] `
	p.do(p.Choose(when+`[data-field="Device"]`, "sound-desk"), p.Wait(`document.querySelector('`+when+`[data-field="Reading"]').options.length > 5`), p.Choose(when+`[data-field="Reading"]`, "sound-desk:channel/1/mute"))
	p.do(p.Wait(`document.querySelector('`+when+`[data-field="Value"]').options?.length === 2`), p.Choose(when+`[data-field="Value"]`, "false"), p.Fill("#then-find", "music -20"), p.Text("#then-find-offers .active .title", "Music"), p.Press("Enter", 0), p.See("#then-other"))
	p.do(p.Fill("#hold-by", "12"), p.Fill("#hold-over", "0.2"), p.Fill("#hold-after", "0.3"), p.Click("#reflex-save"), p.Text(row, "While Sound desk: Imke is not muted: Sound desk: Level of Music is taken down by 12 dB over 0.2 s"))
	desk("/channel/1/mute", 0)
	p.do(p.Text(row, "holds now"), level("-18"))
	p.axe("a reflex that holds something")
	desk("/channel/1/mute", 1)
	p.do(p.Wait(`!document.querySelector('`+row+`')?.textContent.includes("holds now")`), level("-6"))
	p.do(p.Click("#timers"), p.Click(`[aria-label="Start On air"]`), p.See(`[aria-label="Stop On air"]`), p.Click("#add-timer"), p.Fill("#timer-name", "Break"), p.Click("#timer-save"), p.Text(`[data-timer="Break"]`, "5:00"))
	p.axe("timers")
}

// TestAWarningIsShownUntilItIsSeen, over every view.
func TestAWarningIsShownUntilItIsSeen(t *testing.T) {
	p := sit(t, "/patch", true)
	stream := func(address string, value any) {
		t.Helper()
		p.do(p.app.Bench.StandIn("streaming").Operate(device.Message{Address: address, Args: []any{value}}))
	}
	stream("/stream/on", 1)
	stream("/lookback/on", 1)
	p.do(p.Text("header + *, .status", "On air"), p.Wait(`fetch("/api/v1/readings?device=stream-pc").then(r => r.json()).then(l => { window.on = ["stream/on", "lookback/on"].every(p => l.find(r => r.path === p).value === true); }) && window.on`))
	stream("/lookback/on", 0)
	p.do(p.Text("#warning", "The look-back has stopped while streaming"), p.Text("#warning", "Reflex Look-back watch"))
	p.axe("a warning")
	p.do(p.Click("#warning button"), p.Wait(`!document.querySelector("#warning")`))
}

// TestAReadingIsFoundByTyping a part of what it is called; what the reflex then says is the sentence of it.
func TestAReadingIsFoundByTyping(t *testing.T) {
	p := sit(t, "/reflexes/new", true)
	p.do(p.See("#reflex-save"), p.Choose("#on-kind", "reading"), p.Choose("#on-device", "sound-desk"), p.Fill("#on-path", "level of mus"), p.See(".bx--list-box__menu-item"), p.Press("ArrowDown", 0), p.Press("Enter", 0), p.Wait(`document.querySelector("#on-path").value === "Level of Music"`))
	p.do(p.Choose("#on-edge", "falls"), p.Fill("#on-level", "-30"), p.Fill("#reflex-name", "Quiet"), p.Fill("#then-find", "bars on air"), p.Press("Enter", 0), p.See("#then-other"))
	p.axe("a reading that is found by typing")
	p.do(p.Click("#reflex-save"), p.Text(`[data-reflex="Quiet"]`, "When Sound desk: Level of Music falls to -30: Put Bars on program."))
}
