package midi

import (
	"fmt"

	"synaptor/internal/core/timecode"
)

// Clock reads MIDI time code: two frames take eight quarter frames, and say the time at which the first of these was sent. The zero
// value has heard nothing.
type Clock struct {
	nibbles [8]byte
	next    int  // the quarter frame that is expected
	whole   bool // all from the first came in their order
}

// rates are those of MIDI time code.
var rates = [4]timecode.Rate{timecode.R24, timecode.R25, timecode.R30Drop, timecode.R30}

// Heard takes a message; ok: a time is complete, and valid for when the message came, as HH:MM:SS:FF. Time code that runs backwards
// says no time.
func (c *Clock) Heard(m Message) (at string, ok bool) {
	switch {
	case m.Kind == Quarter:
		return c.quarter(m.Value>>4, byte(m.Value&0x0F))
	case m.Kind == Exclusive && len(m.Data) == 8 && m.Data[0] == 0x7F && m.Data[2] == 0x01 && m.Data[3] == 0x01:
		*c = Clock{}
		d := m.Data[4:]
		return after(0, int(d[0]), int(d[1]), int(d[2]), int(d[3]))
	}
	return "", false
}

// quarter takes a quarter frame.
func (c *Clock) quarter(piece int, nibble byte) (string, bool) {
	if piece != c.next {
		c.whole = false
	}
	if piece == 0 {
		c.whole = true
	}
	c.nibbles[piece], c.next = nibble, (piece+1)%8
	if piece != 7 || !c.whole {
		return "", false
	}
	n := func(i int) int { return int(c.nibbles[i]) | int(c.nibbles[i+1])<<4 }
	return after(2, n(6), n(4), n(2), n(0)) // it was said two frames ago
}

// after makes a time so many frames after the one that a device says; the rate stands beside the hours.
func after(later, hours, minutes, seconds, frames int) (string, bool) {
	r := rates[hours>>5&3]
	n, err := r.Parse(fmt.Sprintf("%02d:%02d:%02d:%02d", hours&0x1F, minutes, seconds, frames))
	return r.Format(n + later), err == nil
}
