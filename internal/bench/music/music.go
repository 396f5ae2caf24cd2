// Package music is the bench's music: lists of pieces that play one after the other, behind a broker for MQTT 3.1.1.
package music

import (
	"fmt"
	"time"

	"synaptor/internal/bench/broker"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// User and Password let a client in.
const (
	User     = "larkfell"
	Password = "slow-turntable"
)

const model = "Larkfell bench music, version 1.2"

// piece is something to hear.
type piece struct {
	title, artist string
	seconds       int
}

var lists = []struct {
	name   string
	pieces []piece
}{
	{"Before the show", []piece{{"Doors at nine", "The Guy Ropes", 184}, {"Warm coats", "The Guy Ropes", 211}, {"Thermos", "Halma", 163}}},
	{"Long exposure", []piece{{"Thirty seconds", "Halma", 402}, {"Star trails", "Nadja Brehm", 512}, {"Dew heater", "Halma", 377}}},
	{"After midnight", []piece{{"The moon has set", "Nadja Brehm", 298}, {"Cold tripod", "The Guy Ropes", 246}}},
}

type machine struct {
	v     *panel.Values
	at    int // the piece of the list, from 0
	since time.Time
	base  int // seconds that had passed then
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	for i, l := range lists {
		m.v.Add(fmt.Sprintf("/list/%d/name", i+1), l.name)
	}
	m.v.Add("/current", 1)
	m.v.Add("/playing", false)
	p := lists[0].pieces[0]
	m.v.Add("/title", p.title)
	m.v.Add("/artist", p.artist)
	m.v.Add("/length", p.seconds)
	m.v.Add("/position", 0)
	m.v.Add("/volume", 50)
	m.v.Add("/muted", false)
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	arg := panel.Arg(msg, 0)
	pieces := lists[m.v.Int("/current")-1].pieces
	switch msg.Address {
	case "/next":
		return m.cue((m.at+1)%len(pieces), now), nil
	case "/previous":
		return m.cue((m.at+len(pieces)-1)%len(pieces), now), nil
	case "/current":
		n, err := panel.Accept("the list", 1, arg, panel.Limits{Min: 1, Max: float64(len(lists))})
		if err != nil {
			return nil, fmt.Errorf("there is no list %v", arg)
		}
		changed := []device.Message{m.v.Put("/current", n), m.v.Put("/playing", true)}
		return append(changed, m.cue(0, now)...), nil
	case "/playing", "/muted", "/volume":
		old, _ := m.v.Get(msg.Address)
		v, err := panel.Accept(msg.Address[1:], old, arg, panel.Limits{Max: 100})
		if err != nil {
			return nil, err
		}
		if msg.Address == "/playing" {
			m.base, m.since = m.position(now), now
		}
		return []device.Message{m.v.Put(msg.Address, v)}, nil
	}
	return nil, fmt.Errorf("%s cannot be set", msg.Address)
}

// position is how far it is in the piece, in seconds.
func (m *machine) position(now time.Time) int {
	if !m.v.Bool("/playing") {
		return m.base
	}
	return min(m.base+int(now.Sub(m.since).Seconds()), m.v.Int("/length"))
}

// cue goes to a piece of the list.
func (m *machine) cue(n int, now time.Time) []device.Message {
	p := lists[m.v.Int("/current")-1].pieces[n]
	m.at, m.base, m.since = n, 0, now
	return []device.Message{m.v.Put("/title", p.title), m.v.Put("/artist", p.artist), m.v.Put("/length", p.seconds), m.v.Put("/position", 0)}
}

// Tick implements panel.Machine: the piece goes on, and the next one follows.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if !m.v.Bool("/playing") {
		return nil, false
	}
	at := m.position(now)
	switch {
	case at >= m.v.Int("/length"):
		return m.cue((m.at+1)%len(lists[m.v.Int("/current")-1].pieces), now), true
	case at != m.v.Int("/position"):
		return []device.Message{m.v.Put("/position", at)}, true
	}
	return nil, true
}

// Server is the stand-in: the broker and the music.
type Server = broker.Server

// Start listens on a TCP address, such as 127.0.0.1:7443. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	return broker.Start(addr, broker.Gate{Root: "shelf", User: User, Password: Password}, panel.NewCore("music", "Music", 200*time.Millisecond, newMachine, changed))
}
