package ui

import (
	"encoding/json"
	"fmt"
	"testing"

	"synaptor/internal/core/device"
)

// begins makes a macro of a name, with the keyboard.
func (p *person) begins(name string) {
	p.Helper()
	p.do(p.See("nav [data-macro]"), p.Press("n", 0), p.See(`[data-field="Name of the new macro"]`), p.Keys(name), p.Keys("\r"),
		p.Text("nav [aria-current] .name", name), p.Text(".steps", "does nothing yet"), p.Press("a", 0))
}

// step types a step and takes the first that is offered, which has a title; it is what is
// selected then.
func (p *person) step(words, title string) {
	p.Helper()
	p.do(p.See("#add-step:focus"), p.Keys(words), p.Text("#add-step-offers .active .title", title), p.Keys("\r"),
		p.Wait(`document.querySelector("#add-step").value === ""`))
}

// lines waits until the macro has steps of these titles, each with a mark for its depth.
func (p *person) lines(want ...string) {
	p.Helper()
	list, err := json.Marshal(want)
	if err != nil {
		p.Fatal(err)
	}
	js := `[...document.querySelectorAll(".steps .step")].map((s) => ">".repeat(Math.round((parseFloat(s.style.paddingLeft) - 1) / 1.4)) + s.querySelector(".title").textContent)`
	p.do(p.Wait(fmt.Sprintf("JSON.stringify(%s) === JSON.stringify(%s)", js, list)))
}

// TestMeteorIsBuiltRehearsedPutRightRunAndPutBack builds the macro with the keyboard
// alone, as somebody does who knows what it should do.
func TestMeteorIsBuiltRehearsedPutRightRunAndPutBack(t *testing.T) {
	p := sit(t, "/macros", true)
	p.begins("Meteor by hand")
	p.step("together", "Together")
	p.step("all-sky on program", "Put All-sky cam on program")
	p.step("scene telescope", "Show Telescope")
	p.step("toggle caption", "Switch Caption on or off")
	// That went into the together; out of it again.
	p.do(p.Press("Escape", 0), p.Press("ArrowLeft", 1))
	p.lines("Together", ">Put All-sky cam on program", ">Show Telescope", "Switch Caption on or off")
	p.do(p.Press("a", 0))
	p.step("mark", "Mark")
	p.step("wait 6", "Wait 6 s")
	p.step("put back", "Put back")
	p.lines("Together", ">Put All-sky cam on program", ">Show Telescope", "Switch Caption on or off", "Mark “Marker”", "Wait", "Put back")

	// The marker's text, by the keyboard.
	p.do(p.Press("Escape", 0), p.Press("ArrowUp", 0), p.Press("ArrowUp", 0), p.Press("Enter", 0), p.See(`[data-param="words"]:focus`),
		p.Fill(`[data-param="words"]`, "Meteor"), p.Keys("\r"), p.Text(".steps", "Mark “Meteor”"))

	// What was found is put right, and can be taken back.
	p.do(p.Text(`[data-finding="toggle-in-macro"]`, "wrong way"), p.Click(`[data-finding="toggle-in-macro"] .fix`), p.Text(".steps", "Switch Caption on"),
		p.Wait(`!document.querySelector("[data-finding]")`), p.Click("#undo"), p.Text(".steps", "Switch Caption on or off"), p.Click("#redo"),
		p.Wait(`!document.querySelector("[data-finding]")`))

	// Rehearsed, the audience sees the meteor and then what was there before.
	p.do(p.Text(`[aria-label="What the audience sees"] .outputs`, "All-sky cam"), p.Click("#at-once"), p.Text(`[aria-label="What the audience sees"]`, "Presenter cam"),
		p.Press("r", 0), p.Wait(`document.querySelector("#rehearse").textContent.includes("Pause")`), p.Press("r", 0))

	// On a key: it runs, and says how far it is.
	p.do(p.Press("2", 0), p.Click(key("a4", ".cross")), p.Press("a", 0), p.Keys("run meteor by hand"), p.Text(".result.active .title", "Run Meteor by hand"),
		p.Keys("\r"), p.See(key("a4", ".tile")), p.Press("Escape", 0), p.Click(`[data-control="a4"]`), p.Text(".path", "Open Meteor by hand"))
	p.do(p.Click(".try"), p.See(key("a4", ".progress")), p.See(key("c1", ".on-air")), p.Text("#halt", "Halt 1 run"), p.Text(".line", "Meteor by hand"))
	// Pressed again in the middle, it says why nothing happens.
	p.do(p.Click(".try"), p.Text(key("a4", ".refusal"), "left to finish"))
	// The front panel shows it; a hand on it stays.
	p.do(p.Click("#bench"), p.See(`[data-front="1/program/3"].lit`), p.Click(`[data-front="1/program/5"]`), p.See(key("e1", ".on-air")), p.Press("Escape", 0))
	p.do(p.Wait(`!document.querySelector('`+key("a4", ".progress")+`')`), p.See(key("e1", ".on-air")), p.See(key("e3", ":not(.on-air)")), p.Text("#halt", "Halt"))

	// The journal says what came of it; and what a press changed can be put back, listed first.
	p.do(p.Click(`[data-control="b1"]`), p.Click(".try"), p.See(key("b1", ".on-air")), p.Press("7", 0), p.Text("tbody tr:first-child", "Telescope feed"),
		p.Click("tbody tr:first-child"), p.Click(".back .act"), p.Text(`[role="dialog"]`, "Telescope feed → Slides"), p.Click("#put-back-now"),
		p.Press("2", 0), p.See(key("e1", ".on-air")))
}

// TestCornerCameraFollowsTheDevice builds turns that say when each is in force, so that
// the next press goes on from what a hand has set.
func TestCornerCameraFollowsTheDevice(t *testing.T) {
	p := sit(t, "/macros", true)
	p.begins("Corner by hand")
	corners := []string{"top left", "top right", "bottom right", "bottom left"}
	p.step("turns", "Turns")
	for i, corner := range corners {
		if i == 1 {
			p.do(p.Press("Escape", 0), p.Press("ArrowDown", 0), p.Press("a", 0)) // the second branch is there already
		} else if i > 1 {
			p.step("branch", "Branch")
		}
		p.step("picture in picture "+corner, "Picture in picture at the "+corner)
		p.step("picture in picture on", "Picture in picture on")
	}
	p.lines("Turns", ">Press 1", ">>Picture in picture at the top left", ">>Picture in picture on", ">Press 2", ">>Picture in picture at the top right", ">>Picture in picture on",
		">Press 3", ">>Picture in picture at the bottom right", ">>Picture in picture on", ">Press 4", ">>Picture in picture at the bottom left", ">>Picture in picture on")
	for i, corner := range corners {
		p.do(p.Click(fmt.Sprintf(".steps .step.branch:nth-child(%d)", 2+3*i)), p.Text("aside h3:not(:first-child), aside section:nth-child(2) h3", fmt.Sprintf("Press %d", i+1)),
			p.Click(`[data-sentence="add"]`), p.Wait(`document.querySelector('aside [data-field="Reading"] option[value="dome-switcher:mix/1/keyer/1/corner"]')`), p.Choose(`aside [data-field="Reading"]`, "dome-switcher:mix/1/keyer/1/corner"),
			p.Wait(`[...(document.querySelector('aside [data-field="Value"]')?.options ?? [])].some((o) => o.text === "`+corner+`")`), p.Choose(`aside [data-field="Value"]`, `"`+corner+`"`), p.Text(fmt.Sprintf(".steps .step.branch:nth-child(%d)", 2+3*i), "Corner of keyer 1 of mix effect 1 is "+corner))
	}
	run := func(shows string) {
		t.Helper()
		p.do(p.Click("#run-macro"), p.Text(".transport .outcome", "ended"), p.Text(`[aria-label="What the audience sees"] .state`, "mix effect 1 "+shows))
	}
	run("top right") // top left is in force at first
	run("bottom right")
	// A hand on the device: the next press goes on from there.
	p.do(p.app.Bench.Switcher.Operate(device.Message{Address: "/mix/1/keyer/1/corner", Args: []any{"top left"}}),
		p.Text(`[aria-label="What the audience sees"] .state`, "mix effect 1 top left"))
	run("top right")
}
