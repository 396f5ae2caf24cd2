// Package camera is the bench's remote camera head: presets that take their
// time, and the properties of its picture, spoken to in text lines over TCP. It
// has no hue, on purpose, and forgets what it was set to when its power goes.
package camera

import (
	"fmt"
	"maps"
	"net"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench camera head, version 2.1"

// travel is how long the head takes to a preset.
const travel = 2 * time.Second

var (
	presets = []string{"Wide dome", "Lectern", "Eyepiece", "Door"}
	// choices are what a property with words may be.
	choices = map[string][]string{
		"/exposure": {"auto", "1/25", "1/50", "1/100", "1/200"}, "/white": {"auto", "daylight", "lamps", "moonlight"}, "/focus": {"auto", "near", "far", "held"},
		"/iris": {"auto", "open", "half", "closed"},
	}
	// levels are the properties in percent, as the head begins with them.
	levels = map[string]int{"/brightness": 50, "/contrast": 50, "/saturation": 50, "/sharpness": 40, "/gain": 20}
)

type machine struct {
	v      *panel.Values
	target int // the preset it moves to; 0: it stands
	from   time.Time
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	for i, name := range presets {
		m.v.Add(fmt.Sprintf("/preset/%d/name", i+1), name)
	}
	m.v.Add("/at", 1)
	m.v.Add("/moving", 0)
	for _, at := range slices.Sorted(maps.Keys(levels)) {
		m.v.Add(at, levels[at])
	}
	for _, at := range slices.Sorted(maps.Keys(choices)) {
		m.v.Add(at, choices[at][0])
	}
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	switch msg.Address {
	case "/goto", "/store":
		n, ok := panel.Arg(msg, 0).(int)
		if !ok || n < 1 || n > len(presets) {
			return nil, fmt.Errorf("there is no preset %v", panel.Arg(msg, 0))
		}
		if msg.Address == "/store" {
			return []device.Message{m.v.Put("/at", n)}, nil
		}
		m.target, m.from = n, now
		return []device.Message{m.v.Put("/moving", 1)}, nil
	case "/stop":
		m.target = 0
		return []device.Message{m.v.Put("/moving", 0), m.v.Put("/at", 0)}, nil
	case "/hue":
		return nil, fmt.Errorf("hue is not supported by this head")
	}
	old, known := m.v.Get(msg.Address)
	limits := panel.Limits{}
	_, isLevel := levels[msg.Address]
	switch options, isChoice := choices[msg.Address]; {
	case isLevel:
		limits = panel.Limits{Min: 0, Max: 100}
	case isChoice:
		limits.Options = options
	case !known || !strings.HasPrefix(msg.Address, "/preset/"):
		return nil, fmt.Errorf("%s cannot be set", strings.TrimPrefix(msg.Address, "/"))
	}
	v, err := panel.Accept(strings.TrimPrefix(msg.Address, "/"), old, panel.Arg(msg, 0), limits)
	if err != nil {
		return nil, err
	}
	return []device.Message{m.v.Put(msg.Address, v)}, nil
}

// Tick implements panel.Machine: the head arrives.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if m.target == 0 {
		return nil, false
	}
	if now.Sub(m.from) < travel {
		return nil, true
	}
	at := m.target
	m.target = 0
	return []device.Message{m.v.Put("/at", at), m.v.Put("/moving", 0)}, false
}

// read understands a line: a word and a value.
func read(line string) (device.Message, bool) {
	word, value, _ := strings.Cut(line, " ")
	m := device.Message{Address: "/" + strings.ToLower(word)}
	if word == "PRESET" {
		n, name, ok := strings.Cut(value, " NAME ")
		return device.Message{Address: "/preset/" + n + "/name", Args: []any{name}}, ok
	}
	_, isLevel := levels[m.Address]
	_, isChoice := choices[m.Address]
	if n, err := strconv.Atoi(value); err == nil && !isChoice {
		m.Args = []any{n}
	} else if value != "" {
		m.Args = []any{value}
	}
	return m, isLevel || isChoice || slices.Contains([]string{"GOTO", "STORE", "STOP", "HUE"}, word)
}

// say reports a value as a line.
func say(m device.Message) string {
	if n, ok := strings.CutPrefix(m.Address, "/preset/"); ok {
		return fmt.Sprintf("PRESET %s NAME %v", strings.TrimSuffix(n, "/name"), m.Args[0])
	}
	return fmt.Sprintf("%s %v", strings.ToUpper(strings.TrimPrefix(m.Address, "/")), m.Args[0])
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Listener
}

// Start listens on a TCP address, such as 127.0.0.1:7435. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("camera", "Remote camera head", 50*time.Millisecond, newMachine, changed)}
	s.Listener = panel.NewListener(addr, func(c net.Conn) {
		s.ServeLines(c, panel.Talk{Read: read, Say: say, Everything: "STATE?", Model: "MODEL?"})
	})
	if err := s.Core.Start(s.Listener); err != nil {
		return nil, fmt.Errorf("start the bench's camera head: %w", err)
	}
	return s, nil
}
