// Package prompter is the bench's prompter: scripts that roll past the lens at a speed, forwards and back, mirrored for its glass. It is spoken to in
// OSC over TCP with SLIP framing.
package prompter

import (
	"fmt"
	"math"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

const model = "Larkfell bench prompter, version 1.3"

// page is how many lines are on its glass.
const page = 5

// lowest and highest are the ends of the speed, in lines a minute.
const (
	lowest  = 5
	highest = 120
)

var scripts = []struct{ name, text string }{
	{"Opening", `Good evening from Larkfell.
It is dark, it is clear,
and the shower is at its best tonight.
My name is Imke Vardal.
Oyelaran is at the telescope,
and Tobin makes all of this visible.
If you are outside, look to the north-east.
If you are inside, put the lamp out.
We will count together.
Write to us what you see,
and from where.
The first one is yours.`},
	{"Clouds", `There are clouds over the dome.
They come from the west
and they will be gone before long.
Until then we show you last night,
which was very good,
and we answer your questions.
Keep looking up.`},
	{"Good night", `That was the peak of the shower.
You have counted more than four hundred.
Thank you for staying up.
Thanks to the volunteers,
and to everybody who gave something.
The dome is open on Saturdays.
Good night from Larkfell.`},
}

type machine struct {
	v    *panel.Values
	rest float64   // of a line that has passed
	last time.Time // when it last moved; zero: it stands
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	for i, s := range scripts {
		m.v.Add(fmt.Sprintf("/script/%d/name", i+1), s.name)
		m.v.Add(fmt.Sprintf("/script/%d/gone", i+1), 0)
	}
	m.v.Add("/loaded", 1)
	m.v.Add("/running", 0)
	m.v.Add("/speed", 30)
	m.v.Add("/mirror", 1)
	m.v.Add("/line", 1)
	m.v.Add("/lines", m.count())
	m.v.Add("/text", m.at(1))
	m.v.Add("/model", model) // last: its report ends the full state
	return m
}

// lines are those of the script that is loaded; none where none is.
func (m *machine) lines() []string {
	n := m.v.Int("/loaded")
	if n < 1 || n > len(scripts) {
		return nil
	}
	return strings.Split(scripts[n-1].text, "\n")
}

func (m *machine) count() int { return len(m.lines()) }

// at is a line, from 1.
func (m *machine) at(n int) string {
	if all := m.lines(); n >= 1 && n <= len(all) {
		return all[n-1]
	}
	return ""
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	arg := panel.Arg(msg, 0)
	switch msg.Address {
	case "/running":
		return m.run(arg, now)
	case "/speed":
		v, err := panel.Accept("the speed", 0, arg, panel.Limits{Min: lowest, Max: highest})
		if err != nil {
			return nil, err
		}
		return []device.Message{m.v.Put("/speed", v)}, nil
	case "/mirror":
		v, err := panel.Accept("the mirror", 0, arg, panel.Limits{Max: 1})
		if err != nil {
			return nil, err
		}
		return []device.Message{m.v.Put("/mirror", v)}, nil
	case "/line":
		v, err := panel.Accept("the line", 0, arg, panel.Limits{Min: 1, Max: float64(max(1, m.count()))})
		if err != nil {
			return nil, err
		}
		return m.move(v.(int)), nil
	case "/back-line":
		return m.move(m.v.Int("/line") - 1), nil
	case "/back-page":
		return m.move(m.v.Int("/line") - page), nil
	case "/loaded":
		return m.load(arg)
	}
	if n, ok := strings.CutSuffix(strings.TrimPrefix(msg.Address, "/script/"), "/gone"); ok {
		return m.remove(n, msg.Address, arg)
	}
	return nil, fmt.Errorf("%s cannot be set", msg.Address)
}

func (m *machine) run(v any, now time.Time) ([]device.Message, error) {
	on, err := panel.Accept("running", 0, v, panel.Limits{Max: 1})
	switch {
	case err != nil:
		return nil, err
	case on == 0:
		m.last = time.Time{}
		return []device.Message{m.v.Put("/running", 0)}, nil
	case m.count() == 0:
		return nil, fmt.Errorf("no script is loaded")
	case m.v.Int("/line") >= m.count():
		return nil, fmt.Errorf("the script is at its end")
	}
	m.last, m.rest = now, 0
	return []device.Message{m.v.Put("/running", 1)}, nil
}

// move goes to a line, or as near as there is one.
func (m *machine) move(n int) []device.Message {
	n = min(max(n, 1), max(1, m.count()))
	m.rest = 0
	return []device.Message{m.v.Put("/line", n), m.v.Put("/text", m.at(n))}
}

func (m *machine) load(v any) ([]device.Message, error) {
	n, ok := v.(int)
	if !ok || n < 1 || n > len(scripts) || m.v.Int(fmt.Sprintf("/script/%d/gone", n)) == 1 {
		return nil, fmt.Errorf("there is no script %v", v)
	}
	m.last = time.Time{}
	changed := []device.Message{m.v.Put("/running", 0), m.v.Put("/loaded", n)}
	return append(append(changed, m.v.Put("/lines", m.count())), m.move(1)...), nil
}

// remove takes a script off the list, or puts it back. One that rolls stops, and the glass is empty.
func (m *machine) remove(n, address string, v any) ([]device.Message, error) {
	gone, err := panel.Accept(address, 0, v, panel.Limits{Max: 1})
	if _, known := m.v.Get(address); !known || err != nil {
		return nil, fmt.Errorf("there is no script %s, or this is neither 0 nor 1", n)
	}
	changed := []device.Message{m.v.Put(address, gone)}
	if gone == 1 && fmt.Sprint(m.v.Int("/loaded")) == n {
		m.last = time.Time{}
		changed = append(changed, m.v.Put("/loaded", 0), m.v.Put("/running", 0), m.v.Put("/lines", 0))
		changed = append(changed, m.move(1)...)
	}
	return changed, nil
}

// Tick implements panel.Machine: the script rolls, and stands at its end.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if m.last.IsZero() {
		return nil, false
	}
	m.rest += now.Sub(m.last).Minutes() * float64(m.v.Int("/speed"))
	m.last = now
	whole := math.Floor(m.rest)
	if whole < 1 {
		return nil, true
	}
	rest := m.rest - whole
	changed := m.move(m.v.Int("/line") + int(whole))
	m.rest = rest
	if m.v.Int("/line") < m.count() {
		return changed, true
	}
	m.last = time.Time{}
	return append(changed, m.v.Put("/running", 0)), false
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Listener
}

// Start listens on a TCP address, such as 127.0.0.1:7440. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("prompter", "Prompter", 50*time.Millisecond, newMachine, changed)}
	s.Listener = panel.NewListener(addr, s.ServeOSC)
	if err := s.Core.Start(s.Listener); err != nil {
		return nil, fmt.Errorf("start the bench's prompter: %w", err)
	}
	return s, nil
}
