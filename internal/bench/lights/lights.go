// Package lights is the bench's lights: a broker for MQTT 3.1.1 and the lamps
// behind it. Each lamp has its topics, retained; a topic with /set behind it
// changes one, over a time where the payload says so.
package lights

import (
	"fmt"
	"math"
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

// fade is a brightness or a colour on its way.
type fade struct {
	from, to float64
	start    time.Time
	over     time.Duration
}

type machine struct {
	v     *panel.Values
	fades map[string]fade
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), fades: map[string]fade{}}
	for i, name := range lamps {
		at := fmt.Sprintf("/lamp/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/on", i < 2)
		m.v.Add(at+"/brightness", 60)
		m.v.Add(at+"/temperature", 3200)
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
	switch {
	case !known || msg.Address == "/model":
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	case strings.HasSuffix(msg.Address, "/brightness"):
		limits = panel.Limits{Min: 0, Max: 100}
	case strings.HasSuffix(msg.Address, "/temperature"):
		limits = panel.Limits{Min: 2700, Max: 6500}
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), limits)
	if err != nil {
		return nil, err
	}
	delete(m.fades, msg.Address)
	to, isNumber := v.(int)
	over, _ := panel.Arg(msg, 1).(float64)
	if isNumber && over > 0 && over <= 60_000 {
		m.fades[msg.Address] = fade{float64(old.(int)), float64(to), now, time.Duration(over) * time.Millisecond}
		return nil, nil
	}
	return []device.Message{m.v.Put(msg.Address, v)}, nil
}

// Tick implements panel.Machine: fades move.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	for at, f := range m.fades {
		share := min(1, now.Sub(f.start).Seconds()/f.over.Seconds())
		n := int(math.Round(f.from + (f.to-f.from)*share))
		if n != m.v.Int(at) || share == 1 {
			changed = append(changed, m.v.Put(at, n))
		}
		if share == 1 {
			delete(m.fades, at)
		}
	}
	return changed, len(m.fades) > 0
}

// Server is the stand-in: the broker and the lamps.
type Server = broker.Server

// Start listens on a TCP address, such as 127.0.0.1:7434. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	return broker.Start(addr, broker.Gate{Root: "dome", User: User, Password: Password}, panel.NewCore("lights", "Lights", 50*time.Millisecond, newMachine, changed))
}
