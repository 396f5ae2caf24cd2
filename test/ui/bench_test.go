package ui

import (
	"net"
	"strings"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/bench/chat"
	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/intercom"
	"synaptor/internal/bench/lights"
	"synaptor/internal/bench/meeting"
	"synaptor/internal/bench/music"
	"synaptor/internal/bench/streaming"
	"synaptor/web"
)

// TestAllDevicesAreRiggedFromNothing types what a rigger types: address,
// port, name and password of each device, one password wrong at first.
func TestAllDevicesAreRiggedFromNothing(t *testing.T) {
	t.Parallel()
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Bench: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	p := meet(t, a, "/")
	p.do(p.Click("#start-own"), p.Wait(`location.pathname === "/rig"`), p.Text(".empty", "Nothing is connected yet"))
	for i, d := range []struct{ standIn, typ, name, slug, password, found string }{
		{"streaming", "streaming.jsonrpc", "Stream PC", "stream-pc", "meteor-shouwer", ""},
		{"switcher", "switcher.osc", "Dome switcher", "dome-switcher", "", "12 inputs"},
		{"mixer", "mixer.osc", "Sound desk", "sound-desk", "", "6 channels"},
		{"intercom", "intercom.http", "Talkback", "talkback", intercom.Password, "3 party lines"},
		{"lights", "lights.mqtt", "Dome lights", "dome-lights", lights.Password, "4 lamps"},
		{"camera", "camera.lines", "Dome camera", "dome-camera", "", "4 presets"},
		{"player", "player.lines", "Replay player", "replay-player", "", "3 clips"},
		{"chat", "chat.http", "Audience", "audience", chat.Token, "version 5.1"},
		{"workstation", "computer.local", "Workstation", "workstation", "", "5 sounds"},
		{"titles", "titles.jsonrpc", "Name plates", "name-plates", "", "5 entries"},
		{"slides", "slides.lines", "Talk slides", "talk-slides", "", "24 slides"},
		{"prompter", "prompter.osc", "Lectern prompter", "lectern-prompter", "", "3 scripts"},
		{"meeting", "meeting.http", "Guest room", "guest-room", meeting.Token, "3 guests"},
		{"music", "music.mqtt", "Record shelf", "record-shelf", music.Password, "3 lists"},
	} {
		_, port, err := net.SplitHostPort(a.Bench.StandIn(d.standIn).Addr())
		if err != nil {
			t.Fatal(err)
		}
		role, _, _ := strings.Cut(d.typ, ".")
		if role == "mixer" {
			role = "sound"
		}
		open := "#add-device"
		if i == 0 {
			open = ".empty button"
		}
		p.do(p.Click(open), p.See("#device-role"), p.Choose("#device-role", role), p.Choose("#device-type", d.typ), p.Fill("#device-name", d.name))
		if d.standIn != "workstation" {
			p.do(p.Fill("#device-host", "127.0.0.1"), p.Fill("#device-port", port))
		}
		if d.password != "" {
			p.do(p.Fill("#device-password", d.password))
		}
		row := `[data-device="` + d.slug + `"] `
		p.do(p.Click(`aside form button[type="submit"]`))
		if d.found == "" {
			// The wrong password is said, and entered again.
			p.do(p.See(row+".phase.locked"), p.Text(row, "the password is wrong"), p.Text(".line", "Stream PC away"), p.Click(row+".name"))
			p.do(p.Text(".state", "the password is wrong"), p.Click("#enter-again"), p.Fill("#device-password", streaming.Password), p.Click(`aside form button[type="submit"]`))
			d.found = "9 scenes"
			p.do(p.See(row+".phase.up"), p.Text(".state", d.found), p.Text("aside", "never shown"), p.Press("Escape", 0))
			continue
		}
		p.do(p.See(row+".phase.up"), p.Click(row+".name"), p.Text(".state", d.found), p.Press("Escape", 0))
	}

	// Everybody answers, and one thing is tried.
	p.do(p.Click("#roll-call"), p.Text("#roll", "14 of 14 answered"))
	p.do(p.Click(`[data-device="dome-camera"] .name`), p.Click(`[data-part="try"]`), p.Click(`[data-action="hue"]`), p.Click(`aside form button[type="submit"]`))
	p.do(p.Text(`[data-outcome="refused"]`, "refused"), p.Text("aside", "hue is not supported by this head"))
	p.do(p.Click(`[data-action="goto"]`), p.Choose(`[data-param="preset"]`, "2"), p.Click(`aside form button[type="submit"]`), p.See(`[data-outcome="confirmed"]`))
	p.do(p.Click(`[data-part="wire"]`), p.Text("aside ol", "GOTO 2"), p.Press("Escape", 0))

	// Readings of all devices can be searched.
	p.do(p.Click("#all-readings"), p.Fill("#search-readings", "eyepiece"), p.Text("aside ul", "Dome camera"), p.Wait(`document.querySelectorAll("aside ul li").length === 1`))
}

// TestAnAddressIsLookedAtAndWhatAnswersIsAdded finds a device by its port.
func TestAnAddressIsLookedAtAndWhatAnswersIsAdded(t *testing.T) {
	p := sit(t, "/rig", true)
	_, port, err := net.SplitHostPort(p.app.Bench.StandIn("intercom").Addr())
	if err != nil {
		t.Fatal(err)
	}
	p.do(p.See(".phase.up"), p.Click(`[data-device="talkback"] .name`), p.Click("#remove"), p.Click(".removing button"), p.Wait(`!document.querySelector('[data-device="talkback"]')`))
	p.do(p.Click("#look"), p.Fill("#look-host", "127.0.0.1"), p.Fill("#look-port", port), p.Click(`aside form button[type="submit"]`))
	found := `[data-found="intercom.http"] `
	p.do(p.Text(found, "Larkfell bench intercom"), p.Fill(found+`input[type="password"]`, intercom.Password), p.Click(".add button"))
	p.do(p.See(`[data-device="intercom"] .phase.up`))
}

// TestEveryLinkIsPulledWhileKeysArePressed puts a key of each device on the
// grid, pulls its cable, presses, and puts the cable back.
func TestEveryLinkIsPulledWhileKeysArePressed(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")))
	for _, d := range []struct{ standIn, control, words, title string }{
		{"streaming", "a4", "show telescope", "Show Telescope"},
		{"switcher", "b1", "", ""},
		{"mixer", "b4", "open guest 1 sound desk", "Open Guest 1"},
		{"intercom", "c4", "talk to foyer", "Talk to Foyer"},
		{"lights", "d4", "red walkway off", "Switch Red walkway off"},
		{"camera", "e4", "lectern", "Move to Lectern"},
		{"player", "f4", "load slow pan", "Load Slow pan"},
		{"chat", "d1", "slow the chat", "Slow the chat down"},
		{"workstation", "d1", "start slides", "Start Slides"},
	} {
		at := `[data-controller="producer-grid"][data-control="` + d.control + `"]`
		if d.words != "" {
			p.do(p.Click(at), p.Press("a", 0), p.See(`[data-find^="kit:"]`), p.Keys(d.words), p.Text(".result.active .title", d.title), p.Keys("\r"), p.Text("#undo", d.title), p.See(key(d.control, ".tile")),
				p.Wait(`!document.querySelector('`+at+`').matches(".selected") || !document.querySelector('[data-controller="producer-grid"] .cross')`), p.Press("Escape", 0))
		}
		s := p.app.Bench.StandIn(d.standIn)
		p.do(p.Click(at), p.See(key(d.control, ".tile:not(.away)")))
		if err := s.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		p.do(p.See(key(d.control, ".tile.away")), p.Click(".try"), p.See(key(d.control, ".refusal")), p.See(key("a1", ".tile:not(.refused)")))
		if err := s.SetFaults(faults.Faults{}); err != nil {
			t.Fatal(err)
		}
		p.do(p.See(key(d.control, ".tile:not(.away):not(.refused)")), p.Click(".try"), p.Wait(`(() => { const s = document.querySelector('`+at+` .tile').dataset.state;
			return /set|on-air|armed|preview|running/.test(s) && !/unknown|pending/.test(s) || `+quoted(d.standIn == "lights")+` && !/unknown|pending|set/.test(s); })()`))
	}
}

func quoted(b bool) string {
	if b {
		return "true"
	}
	return "false"
}
