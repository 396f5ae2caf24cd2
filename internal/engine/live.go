package engine

import (
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/overlay"
	"synaptor/internal/core/reflex"
)

// LiveState is what lives and survives a restart.
type LiveState struct {
	Zones    []KeptZone        `json:"zones"`
	Profiles map[string]string `json:"profiles"`
	// Turns has the branch that each turns took last, by step.
	Turns map[string]string `json:"turns,omitempty"`
	// Runs are those that went on, with what they had changed.
	Runs []KeptRun `json:"runs,omitempty"`
	// Switches, Timers and Holds are those of reflexes.
	Switches Switches                `json:"switches"`
	Timers   map[string]reflex.Timer `json:"timers,omitempty"`
	// Overlays are how those stand, by id.
	Overlays map[string]overlay.State `json:"overlays,omitempty"`
	Holds    []KeptHold               `json:"holds,omitempty"`
	// Seen is when Synaptor was last there, where schedules need that.
	Seen time.Time `json:"seen"`
}

// KeptRun is a run that went on when Synaptor ended.
type KeptRun struct {
	Entry   string       `json:"entry"`
	Title   string       `json:"title"`
	Macro   string       `json:"macro"`
	At      time.Time    `json:"at"`
	Changed []macro.Kept `json:"changed"`
	// Reason is why it was cut off, where it had been by then.
	Reason string `json:"reason,omitempty"`
}

// KeptZone is where a zone of a controller stood.
type KeptZone struct {
	Controller string      `json:"controller"`
	Zone       string      `json:"zone"`
	Profile    string      `json:"profile,omitempty"` // missing: the one in force
	Pages      input.Pages `json:"pages"`
}
