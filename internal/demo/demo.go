// Package demo builds the demo show, Meteor Night at Larkfell Observatory, as
// far as the bench carries it.
package demo

import (
	"strconv"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// Build fills a draft of an empty show. ports are those on loopback that the
// stand-ins of the bench listen on, by their ids.
func Build(d *show.Draft, ports map[string]int) {
	d.Put(&show.Settings{ID: show.SettingsID, Name: "Meteor Night", FrameRate: 25, TimeZone: "Europe/Berlin"})
	d.Put(&show.Device{ID: "dome-switcher", Slug: "dome-switcher", Name: "Dome switcher", Type: "switcher.osc", Host: "127.0.0.1", Port: ports["switcher"], Position: 1})
	d.Put(&show.Device{ID: "sound-desk", Slug: "sound-desk", Name: "Sound desk", Type: "mixer.osc", Host: "127.0.0.1", Port: ports["mixer"], Position: 2})
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
