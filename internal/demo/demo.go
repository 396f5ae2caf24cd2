// Package demo builds the demo show, Meteor Night at Larkfell Observatory, as
// far as the bench carries it.
package demo

import (
	"strconv"

	"synaptor/internal/bench/chat"
	"synaptor/internal/bench/intercom"
	"synaptor/internal/bench/lights"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// devices of the show: the stand-in of each, with its name and type.
var devices = []struct{ id, standIn, name, typ string }{
	{"stream-pc", "streaming", "Stream PC", "streaming.jsonrpc"},
	{"dome-switcher", "switcher", "Dome switcher", "switcher.osc"},
	{"sound-desk", "mixer", "Sound desk", "mixer.osc"},
	{"talkback", "intercom", "Talkback", "intercom.http"},
	{"dome-lights", "lights", "Dome lights", "lights.mqtt"},
	{"dome-camera", "camera", "Dome camera", "camera.lines"},
	{"replay-player", "player", "Replay player", "player.lines"},
	{"audience", "chat", "Audience", "chat.http"},
	{"workstation", "workstation", "Workstation", "computer.local"},
}

// Passwords are those of the stand-ins, by id.
func Passwords() map[string]string {
	return map[string]string{"streaming": streaming.Password, "intercom": intercom.Password, "lights": lights.Password, "chat": chat.Token}
}

// Build fills a draft of an empty show. ports are those on loopback that the
// stand-ins of the bench listen on, secrets the ids of their passwords, by their
// ids.
func Build(d *show.Draft, ports map[string]int, secrets map[string]string) {
	d.Put(&show.Settings{ID: show.SettingsID, Name: "Meteor Night", FrameRate: 25, TimeZone: "Europe/Berlin"})
	for i, v := range devices {
		d.Put(&show.Device{ID: v.id, Slug: v.id, Name: v.name, Type: v.typ, Host: "127.0.0.1", Port: ports[v.standIn], Secret: secrets[v.standIn], Position: i + 1})
	}
	d.Put(&show.Profile{ID: "meteor-night", Slug: "meteor-night", Name: "Meteor Night"})
	d.Put(&show.Page{ID: "cut", Slug: "cut", Name: "Cut", Profile: "meteor-night", Layout: "grid-6x4", Zone: "keys"})
	d.Put(&show.Controller{ID: "producer-grid", Slug: "producer-grid", Name: "Producer grid", Layout: "grid-6x4", Profile: "meteor-night", X: 32, Y: 32})

	put := func(column, row int, action string, params map[string]string) {
		control := device.CellID(column, row)
		d.Put(&show.Mapping{ID: "cut-" + control, Placements: []show.Placement{{Page: "cut", Control: control}},
			Responses: []show.Response{{Gesture: "press", Action: show.Call{Device: "dome-switcher", DeviceName: "Dome switcher", Action: action, Params: params}}}})
	}
	for i := range 6 {
		input := strconv.Itoa(i + 1)
		put(i, 0, "put-on-program", map[string]string{"input": input, "mix": "1"})
		put(i, 1, "put-on-preview", map[string]string{"input": input, "mix": "1"})
	}
	put(0, 2, "cut", map[string]string{"mix": "1"})
	put(1, 2, "auto", map[string]string{"mix": "1"})
	for i := range 3 {
		put(3+i, 2, "keyer-toggle", map[string]string{"keyer": strconv.Itoa(i + 1)})
	}
}
