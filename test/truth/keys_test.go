package truth

import (
	"fmt"

	"synaptor/internal/core/show"
	"synaptor/test/witness"
)

// The controllers of the test have one page each.
const (
	keysPage  = "truth-keys"
	dialsPage = "truth-dials"
	grid      = "truth-grid"
	console   = "truth-console"
)

// key is a key of the grid, with what the test knows of it by itself.
type key struct {
	control string
	action  action
	// role is the lamp that is lit where holds says so of the device's value; empty: none is looked at.
	role  string
	holds func(value any) bool
	// toggles: each press that leaves changes the value to the other one.
	toggles bool
	guard   *show.Guard
	gesture string // that fires it; empty: a press
}

func yes(v any) bool { return witness.Same(v, true) }
func no(v any) bool  { return witness.Same(v, false) }

func is(want string) func(any) bool { return func(v any) bool { return witness.Same(v, want) } }

// keys are those of the grid.
func keys() (out []key) {
	add := func(k key) {
		k.control = string(rune('a'+len(out)%6)) + fmt.Sprint(1+len(out)/6)
		out = append(out, k)
	}
	numbered := func(n int, of func(n string) key) {
		for i := range n {
			add(of(fmt.Sprint(i + 1)))
		}
	}
	numbered(3, func(n string) key {
		return key{action: action{"dome-switcher", "keyer-toggle", map[string]string{"keyer": n}, "dome-switcher:keyer/" + n + "/on", false}, role: "on-air", holds: yes, toggles: true}
	})
	add(key{action: action{"dome-switcher", "cut", map[string]string{"mix": "1"}, "dome-switcher:mix/1/program", false}})
	add(key{action: action{"dome-switcher", "put-on-preview", map[string]string{"input": "5", "mix": "1"}, "dome-switcher:mix/1/preview", false}, role: "preview", holds: is("5")})
	add(key{action: action{"dome-switcher", "put-on-program", map[string]string{"input": "3", "mix": "2"}, "dome-switcher:mix/2/program", false}, role: "on-air", holds: is("3")})
	numbered(6, func(n string) key {
		return key{action: action{"sound-desk", "mute-toggle", map[string]string{"channel": n}, "sound-desk:channel/" + n + "/mute", false}, role: "set", holds: no, toggles: true}
	})
	add(key{action: action{"talkback", "talk-on", map[string]string{"line": "1"}, "talkback:line/1/talk", false}, role: "armed", holds: yes, gesture: "talk"})
	numbered(2, func(n string) key {
		return key{action: action{"talkback", "listen-toggle", map[string]string{"line": n}, "talkback:line/" + n + "/listen", false}, role: "set", holds: yes, toggles: true}
	})
	add(key{action: action{"stream-pc", "source-toggle", map[string]string{"source": "2", "scene": "3", "set": "1"}, "stream-pc:set/1/scene/3/source/2/shown", false},
		role: "on-air", holds: yes, toggles: true})
	add(key{action: action{"stream-pc", "filter-toggle", map[string]string{"filter": "1"}, "stream-pc:filter/1/on", false}, role: "set", holds: yes, toggles: true})
	add(key{action: action{"stream-pc", "mute-toggle", map[string]string{"input": "1"}, "stream-pc:input/1/muted", false}, role: "set", holds: no, toggles: true})
	numbered(4, func(n string) key {
		return key{action: action{"dome-lights", "lamp-toggle", map[string]string{"lamp": n}, "dome-lights:lamp/" + n + "/on", false}, role: "set", holds: yes, toggles: true}
	})
	add(key{action: action{"stream-pc", "filter-toggle", map[string]string{"filter": "2"}, "stream-pc:filter/2/on", false}, role: "set", holds: yes, toggles: true,
		guard: &show.Guard{Kind: "twice", Ms: 1500}})
	add(key{action: action{"dome-camera", "brightness", map[string]string{"level": "30"}, "dome-camera:brightness", false}, role: "set", holds: is("30"), gesture: "hold"})
	return out
}

// dial is a dial or a slider of the console.
type dial struct {
	control, param string
	action         action
	least, most    float64
	step           float64 // of one detent; 0: a slider
}

func dials() []dial {
	level := func(device, name, which, n, key string) action {
		return action{device, name, map[string]string{which: n}, key, true}
	}
	return []dial{
		{"dial1", "level", level("sound-desk", "level", "channel", "4", "sound-desk:channel/4/level"), -60, 10, 1.5},
		{"dial2", "level", level("dome-lights", "brightness", "lamp", "3", "dome-lights:lamp/3/brightness"), 0, 100, 2},
		{"dial3", "level", level("stream-pc", "level", "input", "2", "stream-pc:input/2/level"), -50, 6, 1},
		{"slider1", "level", action{"sound-desk", "main-level", nil, "sound-desk:main/level", true}, -60, 10, 0},
		{"slider2", "level", level("talkback", "level", "line", "2", "talkback:line/2/level"), -40, 6, 0},
	}
}

// addKeys puts the controllers of the test into the show.
func addKeys(d *show.Draft) {
	d.Put(&show.Profile{ID: "truth", Slug: "truth", Name: "Truth", Position: 9})
	d.Put(&show.Page{ID: keysPage, Slug: keysPage, Name: "Keys", Profile: "truth", Layout: "grid-6x4", Zone: "keys", Position: 90})
	d.Put(&show.Page{ID: dialsPage, Slug: dialsPage, Name: "Dials", Profile: "truth", Layout: "console-3x3", Zone: "dials", Position: 91})
	d.Put(&show.Controller{ID: grid, Slug: grid, Name: "Truth grid", Layout: "grid-6x4", Profile: "truth", Position: 90})
	d.Put(&show.Controller{ID: console, Slug: console, Name: "Truth console", Layout: "console-3x3", Profile: "truth", Position: 91})
	for _, k := range keys() {
		gesture := k.gesture
		if gesture == "" {
			gesture = "press"
		}
		d.Put(&show.Mapping{ID: "k-" + k.control, Placements: []show.Placement{{Page: keysPage, Control: k.control}}, Guard: k.guard, HoldMs: 300,
			Responses: []show.Response{{Gesture: gesture, Action: *k.action.call()}}})
	}
	for _, c := range dials() {
		gesture := "turn"
		if c.step == 0 {
			gesture = "slide"
		}
		d.Put(&show.Mapping{ID: "d-" + c.control, Placements: []show.Placement{{Page: dialsPage, Control: c.control}},
			Responses: []show.Response{{Gesture: gesture, Action: *c.action.call(), Dial: &show.Dial{Param: c.param, Step: c.step, Min: &c.least, Max: &c.most, Jump: c.step == 0}}}})
	}
}
