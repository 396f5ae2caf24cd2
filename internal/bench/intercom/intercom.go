// Package intercom is the bench's intercom: party lines and stations, spoken to
// over HTTP with a basic login, and heard of by Server-Sent Events.
package intercom

import (
	"crypto/subtle"
	"fmt"
	"net/http"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// User and Password let a client in.
const (
	User     = "desk"
	Password = "eyepiece"
)

const model = "Larkfell bench intercom, version 2.0"

var (
	lines    = []string{"Production", "Telescope", "Foyer"}
	stations = []string{"Desk", "Imke", "Oyelaran", "Saskia"}
)

// machine is the intercom as the desk's station has it.
type machine struct {
	v     *panel.Values
	calls map[string]time.Time // by station: until when it rings
}

// rings is how long a call rings.
const rings = 3 * time.Second

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), calls: map[string]time.Time{}}
	for i, name := range lines {
		at := fmt.Sprintf("/line/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/talk", false)
		m.v.Add(at+"/listen", i == 0)
		m.v.Add(at+"/level", -6.0)
		m.v.Add(at+"/members", 2)
		m.v.Add(at+"/talker", "")
	}
	for i, name := range stations {
		at := fmt.Sprintf("/station/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/calling", false)
		m.v.Add(at+"/online", true)
	}
	m.v.Add("/muted", false)
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	old, known := m.v.Get(msg.Address)
	last := msg.Address[strings.LastIndexByte(msg.Address, '/')+1:]
	limits := panel.Limits{}
	switch {
	case !known, last == "model", last == "members":
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	case last == "level":
		limits = panel.Limits{Min: -60, Max: 12}
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), limits)
	if err != nil {
		return nil, err
	}
	changed := []device.Message{m.v.Put(msg.Address, v)}
	on, _ := v.(bool)
	at := strings.TrimSuffix(msg.Address, "/"+last)
	switch last {
	case "calling":
		if delete(m.calls, at); on {
			m.calls[at] = now.Add(rings)
		}
	case "listen":
		members := m.v.Int(at + "/members")
		if on && old != v {
			members++
		} else if !on && old != v {
			members--
		}
		changed = append(changed, m.v.Put(at+"/members", members))
	}
	return changed, nil
}

// Tick implements panel.Machine: calls stop ringing.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	for at, until := range m.calls {
		if now.Before(until) {
			running = true
			continue
		}
		delete(m.calls, at)
		changed = append(changed, m.v.Put(at+"/calling", false))
	}
	return changed, running
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
}

// Start listens on a TCP address, such as 127.0.0.1:7433. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("intercom", "Intercom", 100*time.Millisecond, newMachine, changed)}
	e := panel.NewEvents(s.Core)
	mux := http.NewServeMux()
	mux.Handle("GET /events", e)
	mux.HandleFunc("GET /status", e.Ask)
	mux.HandleFunc("GET /status/", e.Ask)
	mux.HandleFunc("PUT /", e.Put)
	s.Web = panel.NewWeb(addr, e.Guard("Basic", model, func(r *http.Request) bool {
		user, password, ok := r.BasicAuth()
		return ok && user == User && subtle.ConstantTimeCompare([]byte(password), []byte(Password)) == 1
	}, mux))
	e.Web = s.Web
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's intercom: %w", err)
	}
	return s, nil
}
