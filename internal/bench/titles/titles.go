// Package titles is the bench's titles: name plates with two fields, filled by hand or from a list, shown over the picture for as long as one wants. It
// is spoken to in JSON-RPC 2.0 over WebSocket.
package titles

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench titles, version 1.1"

// people are the list as it is delivered.
var people = [][2]string{{"Imke Vardal", "Presenter"}, {"Oyelaran Bassey", "At the telescope"}, {"Noor Halvorsen", "Watches meteors"},
	{"Piet Rasmus", "Draws sky maps"}, {"Ada Lindqvist", "Grinds mirrors"}}

// fields of a plate, from 1.
var fields = []string{"Name", "Role"}

// longest is how many characters a field takes, and most how many entries a list has.
const (
	longest = 2000
	most    = 5000
)

type machine struct {
	v    *panel.Values
	ends time.Time // when the plate goes by itself; zero: it stays
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	m.v.Add("/shown", false)
	m.v.Add("/left", 0)
	for i, name := range fields {
		m.v.Add(fmt.Sprintf("/field/%d/name", i+1), name)
		m.v.Add(fmt.Sprintf("/field/%d/text", i+1), people[0][i])
	}
	m.v.Add("/count", len(people))
	m.v.Add("/position", 1)
	m.v.Add("/at", "1")
	for i, p := range people {
		m.add(i+1, p)
	}
	m.v.Add("/model", model)
	return m
}

// add puts somebody at a place of the list.
func (m *machine) add(n int, p [2]string) {
	m.v.Add(fmt.Sprintf("/entry/%d/name", n), p[0])
	m.v.Add(fmt.Sprintf("/entry/%d/role", n), p[1])
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine. /fill is a hand at the list: so many entries.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	parts := strings.Split(strings.TrimPrefix(msg.Address, "/"), "/")
	arg := panel.Arg(msg, 0)
	switch {
	case msg.Address == "/shown":
		on, err := panel.Accept("shown", false, arg, panel.Limits{})
		if err != nil {
			return nil, err
		}
		m.ends = time.Time{}
		return []device.Message{m.v.Put("/shown", on), m.v.Put("/left", 0)}, nil
	case msg.Address == "/show-for":
		n, err := panel.Accept("the time", 0, arg, panel.Limits{Min: 1, Max: 600})
		if err != nil {
			return nil, err
		}
		m.ends = now.Add(time.Duration(n.(int)) * time.Second)
		return []device.Message{m.v.Put("/shown", true), m.v.Put("/left", n)}, nil
	case msg.Address == "/at":
		n, err := strconv.Atoi(fmt.Sprint(arg))
		if err != nil || n < 1 || n > m.v.Int("/count") {
			return nil, fmt.Errorf("there is no entry %v in the list", arg)
		}
		return m.take(n), nil
	case msg.Address == "/next":
		return m.step(1)
	case msg.Address == "/previous":
		return m.step(-1)
	case msg.Address == "/clear":
		return []device.Message{m.v.Put("/field/1/text", ""), m.v.Put("/field/2/text", ""), m.v.Put("/at", "0")}, nil
	case msg.Address == "/fill":
		return m.fill(arg)
	case len(parts) == 3 && (parts[0] == "field" && parts[2] == "text" || parts[0] == "entry"):
		return m.write(msg.Address, parts[0], arg)
	}
	return nil, fmt.Errorf("%s cannot be set", msg.Address)
}

// take fills the fields from an entry of the list.
func (m *machine) take(n int) []device.Message {
	at := fmt.Sprintf("/entry/%d", n)
	return []device.Message{m.v.Put("/at", strconv.Itoa(n)), m.v.Put("/position", n), m.v.Put("/field/1/text", m.v.Text(at+"/name")), m.v.Put("/field/2/text", m.v.Text(at+"/role"))}
}

func (m *machine) step(by int) ([]device.Message, error) {
	n := m.v.Int("/position") + by
	switch {
	case n < 1:
		return nil, fmt.Errorf("this is the first entry of the list")
	case n > m.v.Int("/count"):
		return nil, fmt.Errorf("this is the last entry of the list")
	}
	return m.take(n), nil
}

func (m *machine) fill(v any) ([]device.Message, error) {
	n, err := panel.Accept("the list", 0, v, panel.Limits{Min: 1, Max: most})
	if err != nil {
		return nil, err
	}
	var changed []device.Message
	for i := m.v.Int("/count") + 1; i <= n.(int); i++ {
		m.add(i, [2]string{fmt.Sprintf("Guest %d", i), "Guest of the night"})
		changed = append(changed, m.v.Put(fmt.Sprintf("/entry/%d/name", i), fmt.Sprintf("Guest %d", i)), m.v.Put(fmt.Sprintf("/entry/%d/role", i), "Guest of the night"))
	}
	return append(changed, m.v.Put("/count", max(n.(int), m.v.Int("/count")))), nil
}

// write sets a text. What is on the plate is then no longer what the list says.
func (m *machine) write(address, what string, v any) ([]device.Message, error) {
	text, ok := v.(string)
	if _, known := m.v.Get(address); !known {
		return nil, fmt.Errorf("%s is not known here", address)
	}
	if !ok || utf8.RuneCountInString(text) > longest {
		return nil, fmt.Errorf("a field takes a text of at most %d characters", longest)
	}
	changed := []device.Message{m.v.Put(address, text)}
	if what == "field" {
		changed = append(changed, m.v.Put("/at", "0"))
	}
	return changed, nil
}

// Tick implements panel.Machine: a plate that is shown for a time goes.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if m.ends.IsZero() {
		return nil, false
	}
	left := int((m.ends.Sub(now) + time.Second - 1) / time.Second)
	switch {
	case left <= 0:
		m.ends = time.Time{}
		return []device.Message{m.v.Put("/shown", false), m.v.Put("/left", 0)}, false
	case left != m.v.Int("/left"):
		return []device.Message{m.v.Put("/left", left)}, true
	}
	return nil, true
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
}

// methods are those besides setting values.
var methods = map[string]panel.Method{"list.next": {Address: "/next"}, "list.previous": {Address: "/previous"}, "plate.clear": {Address: "/clear"},
	"plate.show": {Address: "/show-for", Takes: []string{"seconds"}}}

// Start listens on a TCP address, such as 127.0.0.1:7438. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("titles", "Titles", 50*time.Millisecond, newMachine, changed)}
	rpc := &panel.RPC{Core: s.Core, Model: model, Methods: methods}
	mux := http.NewServeMux()
	mux.Handle("/titles", rpc)
	s.Web = panel.NewWeb(addr, mux)
	rpc.Web = s.Web
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's titles: %w", err)
	}
	return s, nil
}
