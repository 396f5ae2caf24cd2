// Package lights is the bench's lights: a broker for MQTT 3.1.1 and the lamps
// behind it. Each lamp has its topics, retained; a topic with /set behind it
// changes one, over a time where the payload says so.
package lights

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/bench/broker"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// User and Password let a client in.
const (
	User     = "larkfell"
	Password = "red-light-only"
)

const model = "Larkfell bench lights, version 1.0"

var lamps = []string{"Red walkway", "Desk lamps", "Presenter key left", "Presenter key right"}

// patterns are what a lamp can do by itself.
var patterns = []string{"none", "breathe", "flicker", "chase", "twinkle"}

type machine struct {
	v     *panel.Values
	fades panel.Glides
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), fades: panel.Glides{}}
	for i, name := range lamps {
		at := fmt.Sprintf("/lamp/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/on", i < 2)
		m.v.Add(at+"/brightness", 60)
		m.v.Add(at+"/temperature", 3200)
		m.v.Add(at+"/hue", 30)
		m.v.Add(at+"/saturation", 0)
		m.v.Add(at+"/pattern", patterns[0])
		m.v.Add(at+"/speed", 30)
	}
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine. A second argument is how long a change takes, in
// milliseconds.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	old, known := m.v.Get(msg.Address)
	limits := panel.Limits{}
	last := msg.Address[strings.LastIndexByte(msg.Address, '/')+1:]
	switch {
	case !known || msg.Address == "/model":
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	case last == "brightness", last == "saturation":
		limits = panel.Limits{Min: 0, Max: 100}
	case last == "speed":
		limits = panel.Limits{Min: 1, Max: 120}
	case last == "hue":
		limits = panel.Limits{Min: 0, Max: 359}
	case last == "temperature":
		limits = panel.Limits{Min: 2700, Max: 6500}
	case last == "pattern":
		limits.Options = patterns
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), limits)
	if err != nil {
		return nil, err
	}
	changed := m.fades.Set(m.v, msg.Address, v, panel.Arg(msg, 1), now)
	if last == "temperature" { // white: whatever colour it had
		changed = append(changed, m.fades.Set(m.v, strings.TrimSuffix(msg.Address, last)+"saturation", 0, panel.Arg(msg, 1), now)...)
	}
	return changed, nil
}

// Tick implements panel.Machine: fades move.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	return m.fades.Move(m.v, now)
}

// Server is the stand-in: the broker and the lamps.
type Server = broker.Server

// Start listens on a TCP address, such as 127.0.0.1:7434. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	return broker.Start(addr, broker.Gate{Root: "dome", User: User, Password: Password}, panel.NewCore("lights", "Lights", 50*time.Millisecond, newMachine, changed))
}
