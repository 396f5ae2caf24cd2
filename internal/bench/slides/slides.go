// Package slides is the bench's computer with the slides of a talk: it steps through them, blanks them, and has the notes and a timer for whoever
// speaks. It takes text lines over TCP.
package slides

import (
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench slides, version 2.0"

type machine struct {
	v     *panel.Values
	since time.Time // when the first slide was shown; zero: the timer stands
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	m.v.Add("/talk", name)
	for i, s := range talk {
		m.v.Add(fmt.Sprintf("/slide/%d/name", i+1), s[0])
	}
	m.v.Add("/count", len(talk))
	m.v.Add("/running", 0)
	m.v.Add("/at", 1)
	m.v.Add("/title", talk[0][0])
	m.v.Add("/notes", talk[0][1])
	m.v.Add("/next", talk[1][0])
	m.v.Add("/blank", 0)
	m.v.Add("/timer", 0)
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	n, isNumber := panel.Arg(msg, 0).(int)
	running := m.v.Int("/running") == 1
	switch msg.Address {
	case "/start":
		m.since = now
		return append(m.show(1), m.v.Put("/running", 1), m.v.Put("/blank", 0), m.v.Put("/timer", 0)), nil
	case "/end":
		m.since = time.Time{}
		return []device.Message{m.v.Put("/running", 0), m.v.Put("/blank", 0)}, nil
	case "/timer-reset":
		if running {
			m.since = now
		}
		return []device.Message{m.v.Put("/timer", 0)}, nil
	}
	if !running {
		return nil, fmt.Errorf("the talk has not started")
	}
	at := m.v.Int("/at")
	switch msg.Address {
	case "/goto":
		if !isNumber || n < 1 || n > len(talk) {
			return nil, fmt.Errorf("there is no slide %v; the talk has %d", panel.Arg(msg, 0), len(talk))
		}
		return m.show(n), nil
	case "/step":
		if !isNumber {
			return nil, fmt.Errorf("a step takes a number")
		}
		return m.show(min(max(at+n, 1), len(talk))), nil
	case "/next":
		if at == len(talk) {
			return nil, fmt.Errorf("this is the last slide")
		}
		return m.show(at + 1), nil
	case "/previous":
		if at == 1 {
			return nil, fmt.Errorf("this is the first slide")
		}
		return m.show(at - 1), nil
	case "/blank":
		if !isNumber || n != 0 && n != 1 {
			return nil, fmt.Errorf("blank takes 0 or 1")
		}
		return []device.Message{m.v.Put("/blank", n)}, nil
	}
	return nil, fmt.Errorf("%s cannot be set", strings.TrimPrefix(msg.Address, "/"))
}

// show goes to a slide.
func (m *machine) show(n int) []device.Message {
	next := ""
	if n < len(talk) {
		next = talk[n][0]
	}
	return []device.Message{m.v.Put("/at", n), m.v.Put("/title", talk[n-1][0]), m.v.Put("/notes", talk[n-1][1]), m.v.Put("/next", next)}
}

// Tick implements panel.Machine: the timer goes on.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if m.since.IsZero() {
		return nil, false
	}
	if s := int(now.Sub(m.since).Seconds()); s != m.v.Int("/timer") {
		return []device.Message{m.v.Put("/timer", s)}, true
	}
	return nil, true
}

// commands are the lines that are carried out, with the address of each.
var commands = map[string]string{"START": "/start", "END": "/end", "NEXT": "/next", "PREVIOUS": "/previous", "GOTO": "/goto", "STEP": "/step",
	"BLANK": "/blank", "TIMER-RESET": "/timer-reset"}

func read(line string) (device.Message, bool) {
	word, value, _ := strings.Cut(line, " ")
	address, ok := commands[word]
	m := device.Message{Address: address}
	if n, err := strconv.Atoi(value); err == nil {
		m.Args = []any{n}
	} else if value != "" {
		m.Args = []any{value}
	}
	return m, ok
}

// say reports a value as a line.
func say(m device.Message) string {
	if n, ok := strings.CutPrefix(m.Address, "/slide/"); ok {
		return fmt.Sprintf("SLIDE %s %v", strings.TrimSuffix(n, "/name"), m.Args[0])
	}
	return strings.ToUpper(strings.TrimPrefix(m.Address, "/")) + " " + fmt.Sprint(m.Args[0])
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Listener
}

// Start listens on a TCP address, such as 127.0.0.1:7439. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("slides", "Slides", 100*time.Millisecond, newMachine, changed)}
	s.Listener = panel.NewListener(addr, func(c net.Conn) {
		s.ServeLines(c, panel.Talk{Read: read, Say: say, Everything: "STATE?", Model: "MODEL?"})
	})
	if err := s.Core.Start(s.Listener); err != nil {
		return nil, fmt.Errorf("start the bench's slides: %w", err)
	}
	return s, nil
}
