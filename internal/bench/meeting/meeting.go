// Package meeting is the bench's meeting in another room, over the network: guests who come and go, speak and raise a hand, and one's own microphone and
// camera in it. It is spoken to over HTTP with a bearer token, and heard of by Server-Sent Events.
package meeting

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// Token lets a client in.
const Token = "guest-room-2026"

const model = "Larkfell bench meeting, version 4.0"

var guests = []string{"Noor Halvorsen", "Piet Rasmus", "Ada Lindqvist"}

type machine struct {
	v        *panel.Values
	happened []panel.Happening
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	m.v.Add("/joined", false)
	m.v.Add("/me/muted", true)
	m.v.Add("/me/camera", false)
	for i, name := range guests {
		at := fmt.Sprintf("/guest/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/here", i < 2)
		m.v.Add(at+"/muted", i > 0)
		m.v.Add(at+"/hand", false)
	}
	m.v.Add("/speaker", "")
	m.v.Add("/count", 0)
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Tick implements panel.Machine: nothing here moves by itself.
func (m *machine) Tick(time.Time) ([]device.Message, bool) { return nil, false }

// Happened implements panel.Eventful.
func (m *machine) Happened() (all []panel.Happening) {
	all, m.happened = m.happened, nil
	return all
}

func (m *machine) raise(name, who string) {
	if m.v.Bool("/joined") {
		m.happened = append(m.happened, panel.Happening{Name: name, Fields: map[string]any{"who": who}})
	}
}

// Do implements panel.Machine. That guests come, speak and raise a hand is their own doing, on the front panel.
func (m *machine) Do(msg device.Message, _ time.Time) ([]device.Message, error) {
	if msg.Address == "/others/silence" {
		if !m.v.Bool("/joined") {
			return nil, fmt.Errorf("join the meeting first")
		}
		return m.silence(), nil
	}
	if msg.Address == "/speaker" {
		return m.speak(panel.Arg(msg, 0))
	}
	old, known := m.v.Get(msg.Address)
	was, isBool := old.(bool)
	if !known || !isBool {
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), panel.Limits{})
	if err != nil {
		return nil, err
	}
	on := v.(bool)
	last := msg.Address[strings.LastIndexByte(msg.Address, '/')+1:]
	at := strings.TrimSuffix(msg.Address, "/"+last)
	name := m.v.Text(at + "/name")
	switch {
	case msg.Address == "/joined":
		changed := []device.Message{m.v.Put("/joined", on)}
		if !on { // whoever leaves is neither heard nor seen
			changed = append(changed, m.v.Put("/me/muted", true), m.v.Put("/me/camera", false), m.v.Put("/speaker", ""))
		}
		return append(changed, m.counted()), nil
	case last != "here" && !m.v.Bool("/joined"):
		return nil, fmt.Errorf("join the meeting first")
	case last != "here" && at != "/me" && !m.v.Bool(at+"/here"):
		return nil, fmt.Errorf("%s is not in the meeting", name)
	}
	changed := []device.Message{m.v.Put(msg.Address, on)}
	switch {
	case last == "here":
		changed = append(changed, m.came(at, name, was, on)...)
	case last == "muted" && on && m.v.Text("/speaker") == name:
		changed = append(changed, m.v.Put("/speaker", ""))
	case last == "hand" && on && !was:
		m.raise("hand", name)
	}
	return changed, nil
}

// came is what follows from somebody's coming or going.
func (m *machine) came(at, name string, was, on bool) []device.Message {
	changed := []device.Message{m.counted()}
	if on && !was {
		m.raise("came", name)
	}
	if !on {
		changed = append(changed, m.v.Put(at+"/hand", false), m.v.Put(at+"/muted", true))
		if m.v.Text("/speaker") == name {
			changed = append(changed, m.v.Put("/speaker", ""))
		}
		if was {
			m.raise("left", name)
		}
	}
	return changed
}

// counted is how many are in the meeting, with oneself.
func (m *machine) counted() device.Message {
	n := 0
	if m.v.Bool("/joined") {
		n = 1
		for i := range guests {
			if m.v.Bool(fmt.Sprintf("/guest/%d/here", i+1)) {
				n++
			}
		}
	}
	return m.v.Put("/count", n)
}

// silence mutes everybody but oneself.
func (m *machine) silence() (changed []device.Message) {
	for i := range guests {
		changed = append(changed, m.v.Put(fmt.Sprintf("/guest/%d/muted", i+1), true))
	}
	return append(changed, m.v.Put("/speaker", ""))
}

// speak is somebody's speaking, who unmutes for it; an empty name ends it.
func (m *machine) speak(v any) ([]device.Message, error) {
	who, _ := v.(string)
	if who == "" {
		return []device.Message{m.v.Put("/speaker", "")}, nil
	}
	for i, name := range guests {
		at := fmt.Sprintf("/guest/%d", i+1)
		if name == who && m.v.Bool("/joined") && m.v.Bool(at+"/here") {
			return []device.Message{m.v.Put(at+"/muted", false), m.v.Put("/speaker", who)}, nil
		}
	}
	return nil, fmt.Errorf("%s is not in the meeting", who)
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
}

// Start listens on a TCP address, such as 127.0.0.1:7442. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("meeting", "Meeting", 100*time.Millisecond, newMachine, changed)}
	e := panel.NewEvents(s.Core)
	mux := http.NewServeMux()
	mux.Handle("GET /events", e)
	mux.HandleFunc("GET /status", e.Ask)
	mux.HandleFunc("GET /status/", e.Ask)
	mux.HandleFunc("POST /others/silence", func(w http.ResponseWriter, r *http.Request) {
		e.Carry(w, r, device.Message{Address: r.URL.Path})
	})
	mux.HandleFunc("PUT /joined", e.Put)
	mux.HandleFunc("PUT /me/", e.Put)
	mux.HandleFunc("PUT /guest/{guest}/muted", e.Put)
	mux.HandleFunc("PUT /guest/{guest}/hand", e.Put)
	s.Web = panel.NewWeb(addr, e.Guard("Bearer", model, panel.Bearer(Token), mux))
	e.Web = s.Web
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's meeting: %w", err)
	}
	return s, nil
}
