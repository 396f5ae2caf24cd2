package hands

import (
	"fmt"

	"synaptor/internal/core/midi"
)

// OfMIDI makes events of a message of MIDI. Sources are called as in "note 1 60": what it is, the channel from 1, the number.
func OfMIDI(m midi.Message) []Event {
	named := func(what string) string { return fmt.Sprintf("%s %d %d", what, m.Channel, m.Number) }
	switch m.Kind {
	case midi.NoteOn:
		return []Event{{Source: named("note"), Sort: On}}
	case midi.NoteOff:
		return []Event{{Source: named("note"), Sort: Off}}
	case midi.Controller:
		return []Event{{Source: named("controller"), Sort: At, Value: float64(m.Value), High: 127}}
	case midi.Bend:
		return []Event{{Source: fmt.Sprintf("bend %d", m.Channel), Sort: At, Value: float64(m.Value), High: fullScale}}
	case midi.Program: // it has no end
		return []Event{{Source: named("program"), Sort: On}, {Source: named("program"), Sort: Off}}
	}
	return nil
}

// ToMIDI are the bytes that tell a source a value from 0 to 127; nil: nothing can be sent to it.
func ToMIDI(source string, value int) []byte {
	var m midi.Message
	switch n, _ := fmt.Sscanf(source, "note %d %d", &m.Channel, &m.Number); n {
	case 2:
		m.Kind, m.Value = midi.NoteOn, value
		return m.Bytes()
	}
	if n, _ := fmt.Sscanf(source, "controller %d %d", &m.Channel, &m.Number); n == 2 {
		m.Kind, m.Value = midi.Controller, value
		return m.Bytes()
	}
	return nil
}

// LevelToMIDI are the bytes that have a fader go to a place from 0 to 1; nil: nothing can be sent to it. A fader that says its place in
// two halves is told it so.
func LevelToMIDI(source string, pair bool, share float64) []byte {
	var channel int
	if n, _ := fmt.Sscanf(source, "bend %d", &channel); n == 1 {
		return midi.Message{Kind: midi.Bend, Channel: channel, Value: int(share*fullScale + 0.5)}.Bytes()
	}
	low := lowerHalf(source)
	if !pair || low == "" {
		return ToMIDI(source, int(share*127+0.5))
	}
	whole := int(share*fullScale + 0.5)
	return append(ToMIDI(source, whole>>7), ToMIDI(low, whole&0x7F)...)
}

// lowerHalf is the source of the lower half of a controller; empty: it can have none. It is that 32 above (MIDI 1.0, control change).
func lowerHalf(source string) string {
	var channel, number int
	if n, _ := fmt.Sscanf(source, "controller %d %d", &channel, &number); n != 2 || number < 0 || number > 31 {
		return ""
	}
	return fmt.Sprintf("controller %d %d", channel, number+32)
}
