//go:build !linux

package host

import "synaptor/internal/core/hands"

// Unread says why no hardware of this computer itself is here to be touched; empty: it can be.
const Unread = "On this system Synaptor cannot read keyboards, pedals and MIDI of the computer itself. A browser's keys and MIDI, or a bridge, bring them."

// Folders are those of this computer: on this system it has none that Synaptor can read. Hardware comes by a browser or a bridge.
func Folders() []Folder { return nil }

// Simulated is none on this system.
func Simulated(string) []Folder { return nil }

// decoder decodes nothing on this system.
type decoder struct{}

func newDecoder([]hands.Axis) *decoder { return &decoder{} }

func (*decoder) read([]byte, func(hands.Event)) bool { return false }
