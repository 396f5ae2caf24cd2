// Package streaming is the bench's streaming software: scenes in sets, sources,
// filters, sound inputs, a stream, a recording and a look-back, spoken to in
// JSON-RPC 2.0 over WebSocket, behind a password.
package streaming

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench streaming software, version 3.2"

// Password lets a client in. It is not the one it was delivered with.
const Password = "meteor-shower"

// lookback is how much of the past the look-back holds.
const lookback = 30 * time.Second

var sets = []struct {
	id, name string
	scenes   [][2]string // id and name
}{
	{"1", "Meteor Night", [][2]string{{"1", "Countdown"}, {"2", "Presenter"}, {"3", "Telescope"}, {"4", "Scope + presenter"},
		{"5", "Sky map"}, {"6", "Guest corner"}, {"7", "Back soon"}, {"8", "Good night"}}},
	{"2", "Sound check", [][2]string{{"9", "Colour bars"}}},
}

var (
	sources = [][2]string{{"1", "Lower third"}, {"2", "Meteor counter"}, {"3", "Sky map overlay"}, {"4", "Chat wall"}}
	inputs  = [][2]string{{"1", "Imke"}, {"2", "Guest"}, {"3", "Dome room"}, {"4", "Music"}}
	filters = [][2]string{{"1", "Night tint"}, {"2", "Soft focus"}}
	kinds   = []string{"cut", "fade", "wipe"}
)

type machine struct {
	v       *panel.Values
	next    string // the scene that a transition under way ends with; empty: none
	ends    time.Time
	on      time.Time // since when it streams
	looking time.Time // since when the look-back runs
	saved   int
	second  time.Time // of the last clock tick
	taken   string    // what was on program when the preview was taken; empty: it was not
	picture
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), picture: newPicture()}
	add := m.v.Add
	for _, s := range sets {
		add("/set/"+s.id+"/name", s.name)
		for _, sc := range s.scenes {
			at := "/set/" + s.id + "/scene/" + sc[0]
			add(at+"/name", sc[1])
			add(at+"/gone", false)
			for _, src := range sources {
				add(at+"/source/"+src[0]+"/name", src[1])
				add(at+"/source/"+src[0]+"/shown", src[0] == "1" && sc[0] == "2")
				m.addPlace(at + "/source/" + src[0])
			}
		}
	}
	add("/loaded/set", "1")
	add("/program/scene", "1")
	add("/preview/scene", "2")
	for _, i := range inputs {
		add("/input/"+i[0]+"/name", i[1])
		add("/input/"+i[0]+"/muted", i[0] != "4")
		add("/input/"+i[0]+"/level", 0.5)
	}
	for _, f := range filters {
		add("/filter/"+f[0]+"/name", f[1])
		add("/filter/"+f[0]+"/on", false)
	}
	add("/transition/kind", "fade")
	add("/transition/ms", 300)
	add("/transition/running", false)
	add("/stream/on", false)
	add("/stream/seconds", 0)
	add("/stream/dropped", 0)
	add("/stream/bitrate", 0)
	add("/record/on", false)
	add("/lookback/on", false)
	add("/lookback/seconds", 0)
	add("/lookback/file", "")
	m.addRest()
	add("/disk/free", 412)
	add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// setOf finds the set that a scene belongs to.
func (m *machine) setOf(scene string) (set string, ok bool) {
	for _, s := range sets {
		for _, sc := range s.scenes {
			if sc[0] == scene {
				return s.id, true
			}
		}
	}
	return "", false
}

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	switch msg.Address {
	case "/program/scene":
		return m.show(panel.Arg(msg, 0), now)
	case "/loaded/set":
		return m.load(panel.Arg(msg, 0))
	case "/stream/on", "/record/on", "/lookback/on", "/virtual/on":
		return m.turn(msg.Address, panel.Arg(msg, 0), now)
	case "/lookback/save":
		return m.save(now)
	case "/preview/scene":
		return m.ready(panel.Arg(msg, 0))
	case "/take":
		on := m.v.Text("/program/scene")
		changed, err := m.show(m.v.Text("/preview/scene"), now)
		if err != nil {
			return nil, err
		}
		if m.taken = on; m.next == "" {
			changed = append(changed, m.swapped()...)
		}
		return changed, nil
	}
	if changed, mine, err := m.more(msg, now); mine {
		return changed, err
	}
	return m.set(msg)
}

func (m *machine) set(msg device.Message) ([]device.Message, error) {
	old, known := m.v.Get(msg.Address)
	last := msg.Address[strings.LastIndexByte(msg.Address, '/')+1:]
	l := panel.Limits{}
	switch {
	case !known:
		return nil, fmt.Errorf("%s is not known here", msg.Address)
	case last == "level":
		l = panel.Limits{Min: 0, Max: 1}
	case last == "kind":
		l.Options = kinds
	case msg.Address == "/transition/ms":
		l = panel.Limits{Min: 20, Max: 10_000}
	case last == "name", last == "shown", last == "gone", last == "muted", strings.HasPrefix(msg.Address, "/filter/"):
	default:
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), l)
	if err != nil {
		return nil, err
	}
	return []device.Message{m.v.Put(msg.Address, v)}, nil
}

// ready puts a scene of the set that is loaded on preview.
func (m *machine) ready(v any) ([]device.Message, error) {
	scene := fmt.Sprint(v)
	if set, ok := m.setOf(scene); !ok || set != m.v.Text("/loaded/set") || m.v.Bool("/set/"+set+"/scene/"+scene+"/gone") {
		return nil, fmt.Errorf("there is no scene %v in the set that is loaded", v)
	}
	return []device.Message{m.v.Put("/preview/scene", scene)}, nil
}

// swapped puts on preview what was on program before the take.
func (m *machine) swapped() []device.Message {
	was := m.taken
	if m.taken = ""; was == "" {
		return nil
	}
	return []device.Message{m.v.Put("/preview/scene", was)}
}

// show starts the transition to a scene of the set that is loaded.
func (m *machine) show(v any, now time.Time) ([]device.Message, error) {
	scene := fmt.Sprint(v)
	set, ok := m.setOf(scene)
	switch {
	case !ok || m.v.Bool("/set/"+set+"/scene/"+scene+"/gone"):
		return nil, fmt.Errorf("there is no scene %v", v)
	case set != m.v.Text("/loaded/set"):
		return nil, fmt.Errorf("the scene %s belongs to a set that is not loaded", m.v.Text("/set/"+set+"/scene/"+scene+"/name"))
	case m.v.Text("/transition/kind") == "cut" || scene == m.v.Text("/program/scene"):
		m.next = ""
		return []device.Message{m.v.Put("/program/scene", scene), m.v.Put("/transition/running", false)}, nil
	}
	m.taken = ""
	m.next, m.ends = scene, now.Add(time.Duration(m.v.Int("/transition/ms"))*time.Millisecond)
	return []device.Message{m.v.Put("/transition/running", true)}, nil
}

func (m *machine) load(v any) ([]device.Message, error) {
	id := fmt.Sprint(v)
	for _, s := range sets {
		if s.id == id {
			m.next, m.taken = "", ""
			return []device.Message{m.v.Put("/loaded/set", id), m.v.Put("/program/scene", s.scenes[0][0]), m.v.Put("/preview/scene", s.scenes[0][0]), m.v.Put("/transition/running", false)}, nil
		}
	}
	return nil, fmt.Errorf("there is no set %v", v)
}

func (m *machine) turn(address string, v any, now time.Time) ([]device.Message, error) {
	on, err := panel.Accept(address, false, v, panel.Limits{})
	if err != nil {
		return nil, err
	}
	changed := []device.Message{m.v.Put(address, on)}
	switch address {
	case "/stream/on":
		m.on = now
		changed = append(changed, m.v.Put("/stream/seconds", 0), m.v.Put("/stream/bitrate", 6000*boolInt(on.(bool))))
	case "/lookback/on":
		m.looking = now
		changed = append(changed, m.v.Put("/lookback/seconds", 0))
	}
	return changed, nil
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// save writes what the look-back holds to a file.
func (m *machine) save(now time.Time) ([]device.Message, error) {
	if !m.v.Bool("/lookback/on") {
		return nil, fmt.Errorf("the look-back does not run")
	}
	m.saved++
	held := min(lookback, now.Sub(m.looking)).Round(time.Second)
	file := fmt.Sprintf("look-back %d (%d s).mkv", m.saved, int(held.Seconds()))
	return []device.Message{m.v.Put("/lookback/file", file)}, nil
}

// Tick implements panel.Machine: transitions end, and the clocks of the stream
// and the look-back go on.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	if m.next != "" && !now.Before(m.ends) {
		changed = append(changed, m.v.Put("/program/scene", m.next), m.v.Put("/transition/running", false))
		m.next = ""
		changed = append(changed, m.swapped()...)
	}
	more, moves := m.moveOn(now)
	changed = append(changed, more...)
	streams, looks := m.v.Bool("/stream/on"), m.v.Bool("/lookback/on")
	if (streams || looks || m.v.Bool("/record/on")) && now.Sub(m.second) >= time.Second {
		m.second = now
		if streams {
			changed = append(changed, m.v.Put("/stream/seconds", int(now.Sub(m.on).Seconds())))
		}
		if held := int(min(lookback, now.Sub(m.looking)).Seconds()); looks && held != m.v.Int("/lookback/seconds") {
			changed = append(changed, m.v.Put("/lookback/seconds", held))
		}
	}
	return changed, m.next != "" || streams || looks || moves
}
