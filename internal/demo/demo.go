// Package demo builds the demo show, Meteor Night at Larkfell Observatory, as
// far as the bench carries it.
package demo

import (
	"synaptor/internal/bench/chat"
	"synaptor/internal/bench/intercom"
	"synaptor/internal/bench/lights"
	"synaptor/internal/bench/meeting"
	"synaptor/internal/bench/music"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/core/show"
)

// devices of the show: the stand-in of each, with its name and type, and its model where that was chosen by hand.
var devices = []struct{ id, standIn, name, typ, model string }{
	{"stream-pc", "streaming", "Stream PC", "streaming.jsonrpc", ""},
	{"dome-switcher", "switcher", "Dome switcher", "switcher.osc", ""},
	{"sound-desk", "mixer", "Sound desk", "mixer.osc", ""},
	{"talkback", "intercom", "Talkback", "intercom.http", ""},
	{"dome-lights", "lights", "Dome lights", "lights.mqtt", ""},
	{"dome-camera", "camera", "Dome camera", "camera.lines", "four-presets"},
	{"replay-player", "player", "Replay player", "player.lines", ""},
	{"audience", "chat", "Audience", "chat.http", ""},
	{"workstation", "workstation", "Workstation", "computer.local", ""},
	{"name-plates", "titles", "Name plates", "titles.jsonrpc", ""},
	{"talk-slides", "slides", "Talk slides", "slides.lines", ""},
	{"lectern-prompter", "prompter", "Lectern prompter", "prompter.osc", ""},
	{"guest-room", "meeting", "Guest room", "meeting.http", ""},
	{"record-shelf", "music", "Record shelf", "music.mqtt", ""},
}

// Passwords are those of the stand-ins, by id.
func Passwords() map[string]string {
	return map[string]string{"streaming": streaming.Password, "intercom": intercom.Password, "lights": lights.Password, "chat": chat.Token, "meeting": meeting.Token,
		"music": music.Password}
}

// Build fills a draft of an empty show. ports are those on loopback that the
// stand-ins of the bench listen on, secrets the ids of their passwords, by their
// ids.
func Build(d *show.Draft, ports map[string]int, secrets map[string]string) {
	d.Put(&show.Settings{ID: show.SettingsID, Name: "Meteor Night", FrameRate: 25, TimeZone: "Europe/Berlin"})
	for i, v := range devices {
		d.Put(&show.Device{Model: v.model, ID: v.id, Slug: v.id, Name: v.name, Type: v.typ, Host: "127.0.0.1", Port: ports[v.standIn], Secret: secrets[v.standIn], Position: i + 1})
	}
	d.Put(&show.Profile{ID: night, Slug: night, Name: "Meteor Night"})
	d.Put(&show.Profile{ID: check, Slug: check, Name: "Sound check", Position: 1})
	for i, c := range controllers {
		c.Slug, c.Profile, c.Position = c.ID, night, i
		d.Put(&c)
	}
	for i, p := range pages {
		p.Slug, p.Position = show.Slug(p.Name, func(string) bool { return false }), i
		d.Put(&p)
	}
	desk{d}.fill()
}
