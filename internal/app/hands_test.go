package app_test

import (
	"fmt"
	"net"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/attach/hardware"
	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
)

// hardware finds a piece of hardware that is told of; one without an id: none is.
func (r *rig) hardware(name string) (h hardware.Row) {
	r.Helper()
	var all []hardware.Row
	r.must(200, "GET", "/api/v1/hardware", nil, &all)
	for _, one := range all {
		if one.Name == name {
			return one
		}
	}
	return h
}

// here waits until hardware is here.
func (r *rig) here(name string) (h hardware.Row) {
	r.Helper()
	r.eventually(name+" is here", func() bool {
		h = r.hardware(name)
		return h.Here
	})
	return h
}

// deskFor adds a controller for hardware, with a page of keys for it: an action by control.
func (r *rig) deskFor(name string, actions map[string]show.Response) string {
	r.Helper()
	h := r.here(name)
	id := r.adds("POST", "/api/v1/controllers/hardware", map[string]any{"hardware": h.ID, "name": name})
	r.eventually(name+" is attached", func() bool { return r.hardware(name).Controller == id })
	sheet := r.Edit.Sheets().Controller(h.Layout)
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "A page for "+name, func(d *show.Draft) {
		profile := d.Now().Controller(id).Profile
		for _, zone := range sheet.Zones() {
			page := d.Now().PagesFor(profile, h.Layout, zone)[0]
			for control, response := range actions {
				if c, _ := sheet.Control(control); c.Zone == zone {
					d.Put(&show.Mapping{ID: h.Layout + "-" + control, Placements: []show.Placement{{Page: page.ID, Control: control}}, Responses: []show.Response{response}})
				}
			}
		}
	}); err != nil {
		r.Fatal(err)
	}
	return id
}

// touches does something to what lies on the bench.
func (r *rig) touches(standIn, control string, arg any) {
	r.Helper()
	r.must(204, "POST", "/api/v1/bench/"+standIn+"/operate", map[string]any{"address": "/" + control, "value": arg}, nil)
}

// bench is what a stand-in shows.
func (r *rig) bench(standIn, path string) any { return r.Bench.StandIn(standIn).View().Values[path] }

func pressed(device, action string, params map[string]string) show.Response {
	return show.Response{Gesture: "press", Action: show.Call{Device: device, Action: action, Params: params}}
}

// readingOf is a reading of any device.
func (r *rig) readingOf(device, path string) reading {
	r.Helper()
	var rows []reading
	r.must(200, "GET", "/api/v1/readings?device="+device+"&path="+path, nil, &rows)
	if len(rows) == 0 {
		return reading{}
	}
	return rows[0]
}

// TestTheKeysOfTheHost: bytes of input_event through a pipe, from a keyboard with a map in its controller's sheet. One that is unplugged
// with a key down lets go; letters that nothing is bound to are told to nobody.
func TestTheKeysOfTheHost(t *testing.T) {
	r := start(t).ready()
	talk := show.Response{Gesture: "talk", Action: show.Call{Device: "talkback", Action: "talk-toggle", Params: map[string]string{"line": "1"}}}
	r.deskFor("Numeric block", map[string]show.Response{"a1": pressed("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "4"}), "b1": talk})
	r.touches("numeric", "KEY_KP7", "press")
	r.eventually("input 4 is on program", func() bool { return r.reading("mix/1/program").Value == 4.0 })
	r.eventually("the journal has the press", func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=5", nil, &rows)
		return slices.ContainsFunc(rows, func(e journal.Entry) bool {
			return e.Via == show.LinkKeysHost && e.Actor == "Numeric block" && e.Control == "a1" && e.Outcome == journal.Confirmed
		})
	})
	r.eventually("it is told where it went", func() bool {
		h := r.hardware("Numeric block")
		return h.Last != nil && h.Last.Control == "KEY_KP7" && h.Last.To == "a1" && h.Last.Edge == "up"
	})
	last := r.hardware("Numeric block").Last
	r.touches("numeric", "KEY_A", "press")
	r.touches("numeric", "KEY_KP8", "down")
	r.eventually("the line is open", func() bool { return r.readingOf("talkback", "line/1/talk").Value == true })
	if h := r.hardware("Numeric block"); h.Last.Control != "KEY_KP8" || h.Last.At == last.At {
		t.Errorf("last was %+v", h.Last)
	}
	r.must(204, "PUT", "/api/v1/bench/numeric/faults", faults.Faults{Cut: true}, nil)
	r.eventually("unplugged, it lets go of the line", func() bool { return r.readingOf("talkback", "line/1/talk").Value == false })
	r.eventually("it is away", func() bool { return !r.hardware("Numeric block").Here })
	r.must(204, "PUT", "/api/v1/bench/numeric/faults", faults.Faults{}, nil)
	r.here("Numeric block")
	r.touches("numeric", "KEY_KP8", "down")
	r.eventually("plugged in again, it works", func() bool { return r.readingOf("talkback", "line/1/talk").Value == true })
	r.touches("numeric", "KEY_KP8", "up") // a tap leaves it open, the next one closes it
	r.touches("numeric", "KEY_KP8", "press")
	r.eventually("and closes", func() bool { return r.readingOf("talkback", "line/1/talk").Value == false })
}

// TestWhatPeopleTypeIsToldOnlyToWhoLooks: not in a row, not to a later client, and nowhere else.
func TestWhatPeopleTypeIsToldOnlyToWhoLooks(t *testing.T) {
	r := start(t).ready()
	h := r.here("Numeric block")
	l := r.follow("hardware", "touches:"+h.ID, "typed:"+h.ID)
	r.touches("numeric", "KEY_A", "press")
	l.until("who looks sees it", func() bool { return strings.Contains(string(l.values["touches/"+h.ID]), "KEY_A") })
	if strings.Contains(string(l.values["hardware/"+h.ID]), "KEY_A") {
		t.Error("the row has what was typed")
	}
	later := r.follow("hardware", "touches:"+h.ID)
	for key, v := range later.values {
		if strings.Contains(string(v), "KEY_A") {
			t.Errorf("%s tells a later client what was typed", key)
		}
	}
}

// TestMIDIOfTheHost: bytes through a pseudo-terminal, both ways. Pads have lamps, faders follow their level unless a hand is on them, dials
// turn without end, and time code is a reading of Synaptor.
func TestMIDIOfTheHost(t *testing.T) {
	r := start(t).ready()
	level := func(channel string) show.Call {
		return show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": channel}}
	}
	least, most := -60.0, 10.0
	r.deskFor("Fader row", map[string]show.Response{
		"pad1":   pressed("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "3"}),
		"pad2":   pressed("dome-switcher", "put-on-preview", map[string]string{"mix": "1", "input": "4"}),
		"fader1": {Gesture: "slide", Action: level("4"), Dial: &show.Dial{Param: "level", Min: &least, Max: &most, Jump: true}},
		"dial1":  {Gesture: "turn", Action: level("5"), Dial: &show.Dial{Param: "level", Step: 2, Min: &least, Max: &most}}})
	near := func(path string, want float64) bool {
		v, _ := r.readingOf("sound-desk", path).Value.(float64)
		return v > want-0.6 && v < want+0.6
	}
	r.touches("faders", "pad1", "press")
	r.eventually("the lamp of a pad says that it is on air", func() bool { return r.bench("faders", "/pad1/lamp") == 5 })
	r.touches("faders", "pad2", "press")
	r.eventually("another that it is on preview", func() bool { return r.bench("faders", "/pad2/lamp") == 21 })
	r.eventually("a level is known", func() bool { return r.readingOf("sound-desk", "channel/5/level").Quality == "confirmed" })
	before, _ := r.readingOf("sound-desk", "channel/5/level").Value.(float64)
	r.touches("faders", "dial1", -3)
	r.eventually("three detents to the left are six decibels less", func() bool { return near("channel/5/level", before-6) })
	r.touches("faders", "fader1", 0.5)
	r.eventually("half way up is half of the range", func() bool { return near("channel/4/level", -25) })
	r.must(204, "POST", "/api/v1/bench/mixer/operate", map[string]any{"address": "/channel/4/level", "value": 10}, nil)
	r.eventually("a hand on the device moves the fader", func() bool { at, _ := r.bench("faders", "/fader1").(float64); return at > 0.99 })
	r.touches("faders", "fader1/touch", "down")
	r.touches("faders", "fader1", 0.25)
	r.eventually("under a hand it goes its own way", func() bool { return near("channel/4/level", -42.5) })
	r.must(204, "POST", "/api/v1/bench/mixer/operate", map[string]any{"address": "/channel/4/level", "value": -60}, nil)
	r.eventually("and the device another", func() bool { return near("channel/4/level", -60) })
	if at := r.bench("faders", "/fader1"); at != 0.25 {
		t.Errorf("it was moved under the hand, to %v", at)
	}
	r.touches("faders", "fader1/touch", "up")
	r.eventually("let go, it follows", func() bool { at, _ := r.bench("faders", "/fader1").(float64); return at < 0.01 })
	r.eventually("it has said what it is", func() bool { return strings.Contains(r.hardware("Fader row").Via, "7d-") })
	r.touches("faders", "timecode", "run")
	r.eventually("time code comes in", func() bool {
		now, _ := r.readingOf("synaptor", "timecode/now").Value.(string)
		return strings.HasPrefix(now, "10:00:0") && r.readingOf("synaptor", "timecode/running").Value == true
	})
	r.touches("faders", "timecode", "stop")
	r.eventually("it stands", func() bool { return r.readingOf("synaptor", "timecode/running").Value == false })
}

// TestPedalsOfTheHost: axes through a pipe. One that is down as it is plugged in does nothing until it was up.
func TestPedalsOfTheHost(t *testing.T) {
	r := start(t).ready()
	r.here("Foot board")
	r.touches("foot", "pedal1", 1.0)
	r.must(204, "PUT", "/api/v1/bench/foot/faults", faults.Faults{Cut: true}, nil)
	r.eventually("it is gone", func() bool { return !r.hardware("Foot board").Here })
	r.must(204, "PUT", "/api/v1/bench/foot/faults", faults.Faults{}, nil)
	r.deskFor("Foot board", map[string]show.Response{"pedal1": pressed("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "5"}),
		"pedal2": pressed("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": "2"})})
	r.eventually("it is told that a pedal is stuck", func() bool { return strings.Contains(r.hardware("Foot board").Problem, "ABS_X has been down") })
	r.touches("foot", "pedal1", 0.9)
	r.touches("foot", "pedal2", "press")
	r.eventually("the other pedal works", func() bool { return r.reading("mix/1/program").Value == 2.0 })
	r.touches("foot", "pedal1", 0.0)
	r.eventually("let go, nothing is wrong any more", func() bool { return r.hardware("Foot board").Problem == "" })
	r.touches("foot", "pedal1", "press")
	r.eventually("and it works", func() bool { return r.reading("mix/1/program").Value == 5.0 })
}

// TestAKeyboardIsTaken: for a while, unless somebody says that all is well; another program may have it.
func TestAKeyboardIsTaken(t *testing.T) {
	r := start(t).ready()
	h := r.here("Numeric block")
	take := "/api/v1/hardware/" + h.ID + "/take"
	r.must(422, "POST", take, nil, nil) // it is attached to nothing
	r.deskFor("Numeric block", nil)
	r.must(204, "POST", take, nil, nil)
	if h := r.hardware("Numeric block"); !h.Taken || h.TakenUntil == nil || r.bench("numeric", "/taken") != true {
		t.Errorf("taken, it is %+v", h)
	}
	r.must(204, "DELETE", take, nil, nil)
	if r.hardware("Numeric block").Taken || r.bench("numeric", "/taken") != false {
		t.Error("passed on, it is taken")
	}
	r.must(422, "PUT", take, nil, nil) // too late
	r.must(204, "POST", take, nil, nil)
	r.must(204, "PUT", take, nil, nil)
	link := r.Edit.Program().Show.LinkTo(show.LinkKeysHost, "Numeric block", h.Place, true)
	if h := r.hardware("Numeric block"); !h.Taken || h.TakenUntil != nil || !link.Take {
		t.Errorf("confirmed, it is %+v, its link %+v", h, link)
	}
	r.must(204, "PUT", "/api/v1/bench/numeric/faults", faults.Faults{Cut: true}, nil)
	r.must(204, "PUT", "/api/v1/bench/numeric/faults", faults.Faults{}, nil)
	r.eventually("plugged in again, it is taken", func() bool { return r.hardware("Numeric block").Taken })
	r.undo()
	r.eventually("undone, it is passed on", func() bool { return !r.hardware("Numeric block").Taken && r.bench("numeric", "/taken") == false })
	r.must(404, "POST", "/api/v1/hardware/none/take", nil, nil)
}

// osc sends an OSC message without arguments.
func (r *rig) osc(address string) {
	r.Helper()
	c, err := net.Dial("udp", r.OSCAddr)
	if err != nil {
		r.Fatal(err)
	}
	defer c.Close()
	p, err := osc.Encode(device.Message{Address: address})
	if err == nil {
		_, err = c.Write(p)
	}
	if err != nil {
		r.Fatal(err)
	}
}

// TestAMappingIsPressedByItsID: over HTTP and OSC, wherever it is placed.
func TestAMappingIsPressedByItsID(t *testing.T) {
	r := start(t).ready()
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/mappings/cut-c1/input/press", nil, &made)
	if e := r.entry(made.ID, journal.Confirmed); e.Control != "c1" {
		t.Errorf("pressed was %+v", e)
	}
	r.must(404, "POST", "/api/v1/mappings/none/input/press", nil, nil)
	r.must(404, "POST", "/api/v1/mappings/cut-c1/input/turn", nil, nil)
	program := r.reading("mix/1/program").Value
	for _, control := range []string{"a1", "b1"} {
		r.osc(fmt.Sprintf("/synaptor/show/mapping/cut-%s/press", control))
		r.eventually("another input is on program", func() bool { return r.reading("mix/1/program").Value != program })
		program = r.reading("mix/1/program").Value
	}
}
