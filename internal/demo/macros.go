package demo

import (
	"fmt"

	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// script puts the steps of a macro into the draft.
type script struct {
	d     *show.Draft
	macro string
	n     int
}

// macro begins a macro.
func (k desk) macro(position int, m show.Macro) *script {
	m.Slug, m.Position = m.ID, position
	k.d.Put(&m)
	return &script{k.d, m.ID, 0}
}

// step adds a step; within, it is the parent of the steps that f adds.
func (s *script) step(parent string, st show.Step, f ...func(parent string)) {
	s.n++
	st.ID, st.Macro, st.Parent, st.Position = fmt.Sprintf("%s-%d", s.macro, s.n), s.macro, parent, s.n
	s.d.Put(&st)
	for _, g := range f {
		g(st.ID)
	}
}

func call(dev, action string, p params) *show.Call {
	return &show.Call{Device: dev, DeviceName: nameOf(dev), Action: action, Params: p}
}

func (s *script) do(parent, dev, action string, p params) {
	s.step(parent, show.Step{Kind: macro.Do, Action: call(dev, action, p)})
}

func (s *script) wait(ms int) { s.step("", show.Step{Kind: macro.Wait, Ms: ms}) }

func (s *script) marker(words, kind, lead string) {
	s.do("", program.SelfID, "marker", params{"words": words, "kind": kind, "lead": lead})
}

// macros are those of the night.
func (k desk) macros() {
	mix := params{"mix": "1"}
	s := k.macro(0, show.Macro{ID: "open-the-night", Name: "Open the night", Group: "Running order"})
	s.do("", "sound-desk", "track-play", params{"track": "1"})
	s.do("", "stream-pc", "scene", params{"set": "1", "scene": "1"})
	s.step("", show.Step{Kind: macro.Fade, Ms: 2000, Action: call("dome-lights", "brightness", params{"lamp": "2", "level": "10"})})
	s.do("", "stream-pc", "stream-start", nil)
	s.step("", show.Step{Kind: macro.WaitFor, When: "reading('stream-pc:stream/on') == true", LimitMs: 15000, Name: "On air"})
	s.do("", "stream-pc", "lookback-start", nil)
	s.do("", "audience", "send", params{"words": "The night begins. Clear skies!"})
	s.marker("The night begins", "chapter", "0")

	s = k.macro(1, show.Macro{ID: "meteor", Name: "Meteor!", Group: "Moments", Again: "restart", OnError: "go-on"})
	s.do("", "stream-pc", "lookback-save", nil)
	s.step("", show.Step{Kind: macro.Together}, func(in string) {
		s.do(in, "dome-switcher", "put-on-program", params{"mix": "1", "input": "3"})
		s.do(in, "stream-pc", "scene", params{"set": "1", "scene": "3"})
	})
	s.do("", "dome-switcher", "keyer-on", params{"keyer": "2"})
	s.marker("Meteor", "highlight", "5") // a hand comes after it
	s.wait(8000)
	s.step("", show.Step{Kind: macro.PutBack})

	s = k.macro(2, show.Macro{ID: "guest-joins", Name: "Guest joins", Group: "Guests"})
	s.do("", "dome-switcher", "put-on-preview", params{"mix": "1", "input": "4"})
	s.do("", "sound-desk", "open", params{"channel": "2"})
	s.do("", "talkback", "listen-on", params{"line": "3"})
	s.do("", "dome-switcher", "auto", mix)

	s = k.macro(3, show.Macro{ID: "clouds", Name: "Clouds rolled in", Group: "Moments"})
	s.step("", show.Step{Kind: macro.Together}, func(in string) {
		s.do(in, "stream-pc", "scene", params{"set": "1", "scene": "7"})
		s.do(in, "dome-switcher", "route", params{"output": "1", "input": "81"})
	})
	s.step("", show.Step{Kind: macro.Fade, Ms: 4000, Action: call("sound-desk", "level", params{"channel": "5", "level": "0"})})
	s.do("", "sound-desk", "mute", params{"channel": "1"})
	s.do("", "talkback", "talk-on", params{"line": "2"})

	s = k.macro(4, show.Macro{ID: "corner-camera", Name: "Corner camera", Group: "Pictures"})
	s.step("", show.Step{Kind: macro.Turns}, func(in string) {
		for _, corner := range []string{"top left", "top right", "bottom right", "bottom left"} {
			when := fmt.Sprintf("reading('dome-switcher:mix/1/keyer/1/on') == true and reading('dome-switcher:mix/1/keyer/1/corner') == '%s'", corner)
			s.step(in, show.Step{Kind: macro.Branch, Name: corner, When: when}, func(branch string) {
				s.do(branch, "dome-switcher", "mix-keyer-corner", params{"corner": corner, "mix": "1", "mixkeyer": "1"})
				s.do(branch, "dome-switcher", "mix-keyer-on", params{"mix": "1", "mixkeyer": "1"})
			})
		}
	})

	s = k.macro(5, show.Macro{ID: "surprise-sound", Name: "Surprise sound", Group: "Moments", Again: "both"})
	s.step("", show.Step{Kind: macro.OneOf}, func(in string) {
		for i := range 5 {
			s.step(in, show.Step{Kind: macro.Branch}, func(branch string) {
				s.do(branch, "workstation", "play", params{"sound": fmt.Sprint(i + 1)})
			})
		}
	})

	s = k.macro(6, show.Macro{ID: "thank-the-helpers", Name: "Thank the helpers", Group: "Running order"})
	for i, who := range []string{"Volunteers", "Donors"} {
		s.step("", show.Step{Kind: macro.Do, Name: who, Action: call("dome-switcher", "still", params{"still": "1", "picture": fmt.Sprint(i + 3)})})
		s.do("", "dome-switcher", "keyer-on", params{"keyer": "2"})
		s.wait(6000)
	}
	s.step("", show.Step{Kind: macro.PutBack})

	s = k.macro(7, show.Macro{ID: "good-night", Name: "Good night", Group: "Running order"})
	s.step("", show.Step{Kind: macro.Fade, Ms: 3000, Action: call("sound-desk", "level", params{"channel": "5", "level": "-60"})})
	s.do("", "stream-pc", "scene", params{"set": "1", "scene": "8"})
	s.wait(10000)
	s.do("", "stream-pc", "stream-stop", nil)
	s.do("", "stream-pc", "record-stop", nil)
	s.do("", "dome-lights", "brightness", params{"lamp": "1", "level": "60", "fade": "4000"})
	s.do("", "dome-lights", "brightness", params{"lamp": "2", "level": "80", "fade": "4000"})
	k.macroKeys()
}

// macroKeys puts the macros on keys.
func (k desk) macroKeys() {
	run := func(id string) show.Response { return does("press", program.SelfID, "run", params{"macro": id}) }
	for at, id := range map[string]string{"b2": "open-the-night", "c2": "guest-joins", "d2": "clouds", "e2": "corner-camera", "f2": "surprise-sound",
		"a3": "thank-the-helpers", "b3": "good-night"} {
		m := k.put("home", at, run(id))
		if id == "open-the-night" || id == "good-night" {
			m.Guard = &show.Guard{Kind: input.GuardHold, Ms: 800}
		}
	}
	k.stand(night, grid, "keys", "f4", run("meteor"))
	k.stand(night, grid, "keys", "e4", does("press", program.SelfID, "halt", nil))
	k.put("feet", "pedal1", run("meteor"))
	k.put("captions", "a2", run("surprise-sound"))
	k.put("captions", "b2", run("thank-the-helpers"))
	k.put("guests", "c1", run("guest-joins"))
}
