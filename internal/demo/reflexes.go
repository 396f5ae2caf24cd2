package demo

import (
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// safe has the safe pictures of the outputs, and the keys for them.
func (k desk) safe() {
	put := func(output, dev, action string, p params) {
		k.d.Put(&show.SafePicture{ID: output, Then: *call(dev, action, p)})
	}
	put("stream-pc.program.scene", "stream-pc", "scene", params{"scene": "7", "set": "1"})
	for _, mix := range []string{"1", "2"} {
		put("dome-switcher.mix."+mix+".program", "dome-switcher", "put-on-program", params{"mix": mix, "input": "3"})
	}
	for _, output := range []string{"1", "2", "3"} {
		put("dome-switcher.out."+output+".source", "dome-switcher", "route", params{"output": output, "input": "3"})
	}
	k.key("home", "c4", program.SelfID, "safe-back", nil).Guard = &show.Guard{Kind: input.GuardHold, Ms: 1000}
	// The grid and the thumb pad have it on every page, and a hold shows a key for each output.
	safe, outputs := does(input.Press, program.SelfID, "safe", nil), does(input.Hold, program.SelfID, "page", params{"page": "outputs"})
	k.stand(night, grid, "keys", "d4", safe, outputs)
	k.stand(night, thumb, "keys", "e2", safe, outputs)
	k.stand(check, grid, "keys", "d4", safe)
	k.stand(check, thumb, "keys", "e2", safe)
	for i, output := range safeOutputs {
		k.key("outputs", device.CellID(i%5, i/5), program.SelfID, "safe-output", params{"output": output})
	}
	k.key("outputs", "c2", program.SelfID, "page-home", nil)
	k.key("outputs", "d2", program.SelfID, "safe-back", nil).Guard = &show.Guard{Kind: input.GuardHold, Ms: 1000}
}

// safeOutputs are the outputs, in the order of their keys.
var safeOutputs = []string{"dome-switcher.mix.1.program", "dome-switcher.mix.2.program", "dome-switcher.out.1.source", "dome-switcher.out.2.source", "dome-switcher.out.3.source",
	"stream-pc.program.scene"}

// hue is a key that the head of the camera cannot do, and everybody knows it.
func (k desk) hue() {
	m := k.key("dome", "c1", "dome-camera", "hue", params{"hue": "0"})
	k.d.Put(&show.Accepted{ID: show.AcceptedID("option-unsupported", m.Ref(), input.Press), Finding: "option-unsupported", Subject: m.Ref(), At: input.Press,
		Of:     k.d.Now().Imprint(m.Ref(), "Set the hue to 0: Dome camera cannot do this, for it is a head with four presets, no hue."),
		Reason: "The spare head can, and the key is to stay for it.", By: "Tobin", When: time.Date(2026, 8, 11, 16, 0, 0, 0, time.UTC)})
}

// reflexes are those of the night, with the macros that they run and the timers that are shown.
func (k desk) reflexes() {
	s := k.macro(8, show.Macro{ID: "sky-map", Name: "Map for the audience", Group: "Pictures"})
	overlay := params{"source": "3", "scene": "3", "set": "1"}
	s.do("", "stream-pc", "source-on", overlay)
	s.wait(10_000)
	s.do("", "stream-pc", "source-off", overlay)

	s = k.macro(9, show.Macro{ID: "sound-levels", Name: "Recall sound levels", Group: "Running order"})
	s.step("", show.Step{Kind: macro.Together}, func(in string) {
		for _, c := range [][2]string{{"1", "-6"}, {"2", "-6"}, {"5", "-18"}} {
			s.do(in, "sound-desk", "level", params{"channel": c[0], "level": c[1]})
		}
	})

	// The head forgets what it was set to when its power goes.
	s = k.macro(10, show.Macro{ID: "camera-look", Name: "Recall the camera's look", Group: "Running order"})
	s.do("", "dome-camera", "look", params{"brightness": "45", "contrast": "60", "saturation": "35", "sharpness": "40", "gain": "55", "exposure": "1/25", "white": "moonlight", "focus": "auto", "iris": "open"})

	at := 0
	add := func(r show.Reflex) {
		r.Position = at
		at++
		k.d.Put(&r)
	}
	run := func(id string) show.Call { return *call(program.SelfID, "run", params{"macro": id}) }
	add(show.Reflex{ID: "map", Name: "Map command", Group: "Audience", On: show.On{Kind: reflex.OnDevice, Device: "audience", Event: "message"}, When: "event.text == '!map'", Then: run("sky-map"), EveryMs: 60_000})
	add(show.Reflex{ID: "look-back", Name: "Look-back watch", Group: "Safety", On: show.On{Kind: reflex.OnReading, Device: "stream-pc", Path: "lookback/on", Edge: reflex.Becomes, Value: "false"},
		When: "reading('stream-pc:stream/on') == true", Then: *call(program.SelfID, "warn", params{"words": "The look-back has stopped while streaming"})})
	add(show.Reflex{ID: "walkway", Name: "Walkway", Group: "Running order", On: show.On{Kind: reflex.OnSchedule, Schedule: reflex.Schedule{At: "22:30"}},
		Then: *call("dome-lights", "brightness", params{"lamp": "1", "level": "40"})})
	add(show.Reflex{ID: "duck", Name: "Duck the music", Group: "Sound", On: show.On{Kind: reflex.OnWhile}, When: "reading('sound-desk:channel/1/mute') == false",
		Then: *call("sound-desk", "level", params{"channel": "5", "level": "-30"}), Hold: &show.Hold{By: 12, OverMs: 200, AfterMs: 800, BackMs: 400}})
	add(show.Reflex{ID: "question", Name: "Question of a viewer", Group: "Audience", On: show.On{Kind: reflex.OnDevice, Device: "audience", Event: "message"},
		When: "event.text startsWith '?'", Then: run("show-question"), EveryMs: 20_000})
	add(show.Reflex{ID: "recall", Name: "Sound desk is back", Group: "Safety", On: show.On{Kind: reflex.OnLink, Device: "sound-desk", Edge: show.Comes}, Then: run("sound-levels")})

	k.key("home", "d3", program.SelfID, "timer", params{"timer": "on-air"})
	k.key("home", "e3", program.SelfID, "audience", params{"to": "the other"})
	k.key("home", "f3", program.SelfID, "reflexes", params{"to": "the other"})
	k.overlays()
	k.d.Put(&show.Timer{ID: "on-air", Name: "On air", Kind: reflex.Up})
	k.d.Put(&show.Timer{ID: "peak", Name: "Peak of the shower", Position: 1, Kind: reflex.To, At: "01:30", Coarse: true})
}
