package demo

import (
	"strconv"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// The profiles.
const (
	night = "meteor-night"
	check = "sound-check"
)

// The layouts.
const (
	grid    = "grid-6x4"
	console = "console-3x3"
	pedals  = "pedals-4"
	thumb   = "thumb-5x2"
	tablet  = "tablet-4x3"
)

// controllers stand as Tobin has them in front of him.
var controllers = []show.Controller{
	{ID: "producer-grid", Name: "Producer grid", Layout: grid, Start: []string{"cut"}},
	{ID: "scope-console", Name: "Scope console", Layout: console, X: 428},
	{ID: "treadle", Name: "Treadle", Layout: pedals, X: 428, Y: 312},
	{ID: "thumb-pad", Name: "Thumb pad", Layout: thumb, Y: 324},
	{ID: "saskias-tablet", Name: "Saskia's tablet", Layout: tablet, X: 824},
}

// pages in the order of their tabs.
var pages = []show.Page{
	{ID: "home", Name: "Home", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "cut", Name: "Cut", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "dome", Name: "Dome", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "stream", Name: "Stream", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "replay", Name: "Replay", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "sound", Name: "Sound", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "lights", Name: "Lights", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "lecture", Name: "Lecture", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "music", Name: "Music", Profile: night, Layout: grid, Zone: "keys"},
	{ID: "scope-keys", Name: "Guests", Profile: night, Layout: console, Zone: "keys"},
	{ID: "faders", Name: "Faders", Profile: night, Layout: console, Zone: "dials"},
	{ID: "jog", Name: "Jog", Profile: night, Layout: console, Zone: "dials"},
	{ID: "lecture-dials", Name: "Lecture", Profile: night, Layout: console, Zone: "dials"},
	{ID: "feet", Name: "Feet", Profile: night, Layout: pedals, Zone: "pedals"},
	{ID: "captions", Name: "Captions", Profile: night, Layout: thumb, Zone: "keys"},
	{ID: "sounds", Name: "Sounds", Profile: night, Layout: thumb, Zone: "keys"},
	{ID: "outputs", Name: "Outputs", Profile: night, Layout: thumb, Zone: "keys"},
	{ID: "guests", Name: "Guests", Profile: night, Layout: tablet, Zone: "keys"},
	{ID: "check-grid", Name: "Check", Profile: check, Layout: grid, Zone: "keys"},
	{ID: "check-keys", Name: "Check", Profile: check, Layout: console, Zone: "keys"},
	{ID: "check-dials", Name: "Check", Profile: check, Layout: console, Zone: "dials"},
	{ID: "check-feet", Name: "Check", Profile: check, Layout: pedals, Zone: "pedals"},
	{ID: "check-thumb", Name: "Check", Profile: check, Layout: thumb, Zone: "keys"},
	{ID: "check-tablet", Name: "Check", Profile: check, Layout: tablet, Zone: "keys"},
}

// names of the devices, by id.
func nameOf(id string) string {
	for _, d := range devices {
		if d.id == id {
			return d.name
		}
	}
	return "Synaptor"
}

// desk puts mappings on pages.
type desk struct{ d *show.Draft }

type params = map[string]string

// does is a response to a gesture.
func does(gesture, dev, action string, p params) show.Response {
	return show.Response{Gesture: gesture, Action: show.Call{Device: dev, DeviceName: nameOf(dev), Action: action, Params: p}}
}

func (k desk) put(page, control string, responses ...show.Response) *show.Mapping {
	m := &show.Mapping{ID: page + "-" + control, Placements: []show.Placement{{Page: page, Control: control}}, Responses: responses}
	k.d.Put(m)
	return m
}

// key puts an action on a press.
func (k desk) key(page, control, dev, action string, p params) *show.Mapping {
	return k.put(page, control, does(input.Press, dev, action, p))
}

// row puts an action on the keys of a row, with a parameter that counts from 1.
func (k desk) row(page string, column, row, n int, dev, action, param string, p params) {
	for i := range n {
		all := params{param: strconv.Itoa(i + 1)}
		for key, v := range p {
			all[key] = v
		}
		k.key(page, device.CellID(column+i, row), dev, action, all)
	}
}

// stand has a mapping stay on every page of a controller's zone.
func (k desk) stand(profile, layout, zone, control string, responses ...show.Response) {
	k.d.Put(&show.Mapping{ID: "standing-" + profile + "-" + layout + "-" + control, Responses: responses,
		Placements: []show.Placement{{Standing: &show.Standing{Profile: profile, Layout: layout, Zone: zone}, Control: control}}})
}

func (k desk) fill() {
	k.cut()
	k.grid()
	k.console()
	k.hands()
	k.lecture()
	k.check()
	k.macros()
	k.reflexes()
	k.safe()
	k.hue()
}

// cut is the page that most of the night is made on.
func (k desk) cut() {
	mix := params{"mix": "1"}
	k.row("cut", 0, 0, 6, "dome-switcher", "put-on-program", "input", mix)
	k.row("cut", 0, 1, 6, "dome-switcher", "put-on-preview", "input", mix)
	k.key("cut", "a3", "dome-switcher", "cut", mix)
	k.key("cut", "b3", "dome-switcher", "auto", mix)
	k.row("cut", 3, 2, 3, "dome-switcher", "keyer-toggle", "keyer", nil)
}

// grid fills the other pages of the producer grid.
func (k desk) grid() {
	for i, p := range []string{"cut", "dome", "stream", "replay", "sound", "lights"} {
		k.key("home", device.CellID(i, 0), program.SelfID, "page", params{"page": p})
	}
	k.key("home", "a2", program.SelfID, "profile", params{"profile": check})
	k.key("home", "a4", "audience", "clip", params{"title": "Meteor"})
	k.stand(night, grid, "keys", "c3", does(input.Press, program.SelfID, "page-home", nil))
	for output := range 3 {
		k.row("dome", 0, output, 2, "dome-switcher", "route", "input", params{"output": strconv.Itoa(output + 1)})
		k.key("dome", device.CellID(3, output), "dome-switcher", "route", params{"output": strconv.Itoa(output + 1), "input": "3"})
		k.key("dome", device.CellID(4, output), "dome-switcher", "route", params{"output": strconv.Itoa(output + 1), "input": "4"})
		k.key("dome", device.CellID(5, output), "dome-switcher", "route", params{"output": strconv.Itoa(output + 1), "input": "5"})
	}
	k.row("dome", 0, 3, 3, "dome-camera", "goto", "preset", nil)
	k.key("dome", "c2", "dome-camera", "goto", params{"preset": "4"})

	set := params{"set": "1"}
	k.row("stream", 0, 0, 6, "stream-pc", "scene", "scene", set)
	k.key("stream", "a2", "stream-pc", "scene", params{"scene": "7", "set": "1"})
	k.key("stream", "b2", "stream-pc", "scene", params{"scene": "8", "set": "1"})
	k.row("stream", 2, 1, 4, "stream-pc", "mute-toggle", "input", nil)
	k.key("stream", "a3", "stream-pc", "record-toggle", nil)
	live := k.key("stream", "b3", "stream-pc", "stream-toggle", nil)
	live.Guard = &show.Guard{Kind: input.GuardHold, Ms: 1000}
	k.put("stream", "d3", does(input.Press, "stream-pc", "lookback-save", nil), does(input.Hold, "stream-pc", "lookback-toggle", nil))
	k.row("stream", 4, 2, 2, "stream-pc", "filter-toggle", "filter", nil)
	k.row("stream", 0, 3, 3, "stream-pc", "source-toggle", "source", params{"scene": "2", "set": "1"})

	k.key("replay", "a1", "replay-player", "play", nil)
	k.key("replay", "b1", "replay-player", "pause", nil)
	k.put("replay", "c1", does(input.Press, "replay-player", "jog", params{"frames": "-1"}), does(input.Repeat, "replay-player", "jog", params{"frames": "-1"}))
	k.put("replay", "d1", does(input.Press, "replay-player", "jog", params{"frames": "1"}), does(input.Repeat, "replay-player", "jog", params{"frames": "1"}))
	k.key("replay", "e1", "replay-player", "jog-seconds", params{"seconds": "-1"})
	k.key("replay", "f1", "replay-player", "goto-in", nil)
	k.key("replay", "a2", "replay-player", "in", nil)
	k.key("replay", "b2", "replay-player", "out", nil)
	k.key("replay", "c2", "replay-player", "reset-in", nil)
	k.key("replay", "d2", "replay-player", "reset-out", nil)
	k.key("replay", "e2", "replay-player", "countdown", params{"left": "5:00"})
	for i, percent := range []string{"25", "50", "100"} {
		k.key("replay", device.CellID(i, 3), "replay-player", "speed", params{"percent": percent})
	}

	k.row("sound", 0, 0, 6, "sound-desk", "mute-toggle", "channel", nil)
	k.row("sound", 0, 1, 6, "sound-desk", "cue-toggle", "channel", nil)
	for i, at := range []string{"a3", "b3", "d3"} {
		k.key("sound", at, "talkback", "talk-toggle", params{"line": strconv.Itoa(i + 1)})
	}
	k.row("sound", 0, 3, 3, "talkback", "listen-toggle", "line", nil)

	k.row("lights", 0, 0, 4, "dome-lights", "lamp-toggle", "lamp", nil)
	k.key("lights", "e1", program.SelfID, "run", params{"macro": "camera-look"})
	k.key("lights", "f1", "dome-lights", "colour", params{"lamp": "1", "colour": "red", "fade": "2000"})
	k.row("lights", 0, 1, 4, "dome-lights", "brightness", "lamp", params{"level": "40", "fade": "2000"})
	k.row("lights", 0, 3, 3, "dome-lights", "brightness", "lamp", params{"level": "5", "fade": "2000"})
	k.key("lights", "d3", "dome-lights", "brightness", params{"lamp": "4", "level": "5", "fade": "2000"})
}

// console puts the faders under the dials, with the mute on their push.
func (k desk) console() {
	for i, channel := range []string{"1", "5", "4"} {
		m := k.put("faders", "dial"+strconv.Itoa(i+1), does(input.Turn, "sound-desk", "level", params{"channel": channel, "level": "0"}),
			does(input.Press, "sound-desk", "mute-toggle", params{"channel": channel}))
		if i == 1 {
			m.Responses = append(m.Responses, does(input.Hold, program.SelfID, "page", params{"page": "lecture-dials"}))
		}
		if i == 2 {
			m.Responses = append(m.Responses, does(input.Hold, program.SelfID, "page-next", nil))
		}
	}
	k.put("jog", "dial1", does(input.Turn, "replay-player", "jog", params{"frames": "1"}), does(input.Press, "replay-player", "play", nil))
	k.put("jog", "dial2", does(input.Turn, "replay-player", "speed", params{"percent": "100"}))
	k.put("jog", "dial3", does(input.Turn, "dome-camera", "brightness", params{"level": "50"}), does(input.Hold, program.SelfID, "page-next", nil))
	for _, page := range []string{"faders", "jog", "lecture-dials"} {
		k.put(page, "slider1", does(input.Slide, "sound-desk", "main-level", params{"level": "0"}))
		k.put(page, "slider2", does(input.Slide, "sound-desk", "level", params{"channel": "2", "level": "0"}))
	}
	k.row("scope-keys", 0, 0, 3, "sound-desk", "mute-toggle", "channel", nil)
	k.row("scope-keys", 0, 1, 3, "talkback", "talk-toggle", "line", nil)
	k.row("scope-keys", 0, 2, 3, "dome-camera", "goto", "preset", nil)
}

// hands fills the treadle, the thumb pad and the tablet.
func (k desk) hands() {
	k.put("feet", "pedal2", does(input.Talk, "talkback", "talk-toggle", params{"line": "1"}))
	k.key("feet", "pedal3", "stream-pc", "lookback-save", nil)

	k.row("captions", 0, 0, 3, "dome-switcher", "keyer-toggle", "keyer", nil)
	k.key("captions", "d1", "stream-pc", "source-toggle", params{"source": "1", "scene": "2", "set": "1"})
	k.key("captions", "c2", "stream-pc", "source-toggle", params{"source": "4", "scene": "2", "set": "1"})
	k.key("captions", "e1", "audience", "send", params{"words": "Look up!"})
	k.row("sounds", 0, 0, 5, "workstation", "play", "sound", nil)
	k.key("captions", "shift1", program.SelfID, "page-held", params{"page": "sounds"})

	k.key("guests", "a1", "sound-desk", "mute-toggle", params{"channel": "2"})
	k.key("guests", "b1", "sound-desk", "mute-toggle", params{"channel": "3"})
	call := k.key("guests", "d1", "talkback", "call", params{"station": "1"})
	call.Face.Label = "Call\nthe desk"
	k.key("guests", "a3", program.SelfID, "take-output", params{"output": "dome-switcher.out.2.source"})
	k.row("guests", 0, 1, 4, "dome-switcher", "route", "input", params{"output": "2"})
}

// check is the smaller set for the sound check.
func (k desk) check() {
	k.row("check-grid", 0, 0, 6, "sound-desk", "mute-toggle", "channel", nil)
	k.row("check-grid", 0, 1, 3, "sound-desk", "track-play", "track", nil)
	k.row("check-grid", 3, 1, 3, "sound-desk", "track-stop", "track", nil)
	k.key("check-grid", "f4", program.SelfID, "profile", params{"profile": night})
	for i := range 3 {
		k.put("check-dials", "dial"+strconv.Itoa(i+1), does(input.Turn, "sound-desk", "level", params{"channel": strconv.Itoa(i + 1), "level": "0"}))
	}
}
