// Package panel is what all stand-ins have in common: their state by address,
// their front panels, their faults, and how they keep clients up to date.
package panel

import (
	"slices"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
)

// View is what a front panel shows.
type View struct {
	Values  map[string]any `json:"values"` // by address
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
	// Operate is a hand on the front panel: an address and what is done to it.
	Operate(device.Message) error
	SetFaults(faults.Faults) error
	// Restart is what a power cut does: every connection is lost, and after a
	// while the device is back as it was delivered.
	Restart()
	Close()
}

// Recent keeps the last messages that reached a stand-in.
type Recent []string

const kept = 12

// Note adds a message.
func (r *Recent) Note(text string) {
	*r = append(*r, time.Now().Format("15:04:05.000 ")+text)
	if len(*r) > kept {
		*r = slices.Delete(*r, 0, len(*r)-kept)
	}
}
