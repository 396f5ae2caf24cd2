// Package panel is what the front panels of all stand-ins have in common.
package panel

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
)

// View is what a front panel shows.
type View struct {
	Values  map[string]any `json:"values"` // by OSC address
	Clients int            `json:"clients"`
	Faults  faults.Faults  `json:"faults"`
	Recent  []string       `json:"recent"` // the last messages, newest last
}

// StandIn is a simulated device on its socket.
type StandIn interface {
	ID() string
	Title() string
	Addr() string
	View() View
	// Operate is a hand on the front panel, in the words of the protocol.
	Operate(device.Message) error
	SetFaults(faults.Faults) error
	Close()
}

// Recent keeps the last messages that reached a stand-in.
type Recent []string

const kept = 12

// Note adds a message.
func (r *Recent) Note(m device.Message) {
	text := m.Address
	for _, a := range m.Args {
		text += fmt.Sprintf(" %v", a)
	}
	*r = append(*r, time.Now().Format("15:04:05.000 ")+text)
	if len(*r) > kept {
		*r = slices.Delete(*r, 0, len(*r)-kept)
	}
}
