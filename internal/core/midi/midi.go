// Package midi reads and writes the messages of MIDI 1.0 (the MIDI Association's specification 4.2), as they come over a cable: cut
// anywhere, with running status, and with real-time bytes in between. Begin with Reader.
//
// The packages that are to be had for this end the process at a byte that belongs nowhere; a cable that is pulled sends such.
package midi

// Kind is what a message is.
type Kind byte

// The kinds of messages that are told; others are read over.
const (
	NoteOff    Kind = iota + 1 // Number is the note, Value the velocity
	NoteOn                     // with velocity 0 it is a NoteOff, and told as one
	Pressure                   // of one note
	Controller                 // Number is the controller, Value from 0 to 127
	Program                    // Number is the program
	Bend                       // Value from 0 to 16383; 8192 is the middle
	Exclusive                  // Data is what stands between the first and the last byte
	Quarter                    // Value is the data of a quarter frame of MIDI time code
)

// Message is one message. Channel counts from 1 to 16; system messages have none.
type Message struct {
	Kind    Kind
	Channel int
	Number  int
	Value   int
	Data    []byte // of Exclusive: valid until the next byte is read
}

// maxExclusive is how much of an exclusive message is kept; a longer one is read over.
//
//limit:bytes an exclusive message of MIDI | nowhere; it is read over
const maxExclusive = 4 << 10

// Status bytes of the specification.
const (
	statusExclusive = 0xF0
	statusQuarter   = 0xF1
	statusPosition  = 0xF2
	statusSong      = 0xF3
	statusEnd       = 0xF7
	firstRealTime   = 0xF8
)

// Reader reads a stream of bytes. The zero value is at its beginning.
type Reader struct {
	status byte // in force: of a channel for as long as it runs, or a system message that is not complete; 0: none
	data   [2]byte
	have   int
	long   []byte // the exclusive message that is being read
	over   bool   // it is too long: it is read over
}

// lengths are how many data bytes a channel message has, by the upper half of its status.
var lengths = map[byte]int{0x80: 2, 0x90: 2, 0xA0: 2, 0xB0: 2, 0xC0: 1, 0xD0: 1, 0xE0: 2}

// Read reads bytes, and hands on each message as it is complete. What belongs to no message is read over.
func (r *Reader) Read(bytes []byte, got func(Message)) {
	for _, b := range bytes {
		switch {
		case b >= firstRealTime: // may stand anywhere, and changes nothing
		case b == statusEnd:
			if r.status == statusExclusive && !r.over {
				got(Message{Kind: Exclusive, Data: r.long})
			}
			r.begin(0)
		case b >= 0x80: // also ends an exclusive message that has no end
			r.begin(b)
		case r.status == statusExclusive:
			if len(r.long) == maxExclusive {
				r.over = true
			} else {
				r.long = append(r.long, b)
			}
		default:
			r.take(b, got)
		}
	}
}

// begin takes a status byte.
func (r *Reader) begin(status byte) {
	r.status, r.have, r.long, r.over = status, 0, r.long[:0], false
}

// take takes a data byte of a short message.
func (r *Reader) take(b byte, got func(Message)) {
	want := r.want()
	if want == 0 {
		return // it belongs to nothing
	}
	r.data[r.have] = b
	if r.have++; r.have < want {
		return
	}
	r.have = 0
	if m := r.message(); m.Kind != 0 {
		got(m)
	}
	if r.status >= statusExclusive { // no running status after a system message
		r.status = 0
	}
}

// want is how many data bytes the message has that is being read.
func (r *Reader) want() int {
	switch r.status {
	case statusQuarter, statusSong:
		return 1
	case statusPosition:
		return 2
	}
	return lengths[r.status&0xF0]
}

// message makes the message of a status and its data; of no kind: nothing that is told.
func (r *Reader) message() Message {
	m := Message{Channel: int(r.status&0x0F) + 1, Number: int(r.data[0]), Value: int(r.data[1])}
	switch r.status & 0xF0 {
	case 0x80:
		m.Kind = NoteOff
	case 0x90:
		if m.Kind = NoteOn; m.Value == 0 {
			m.Kind = NoteOff
		}
	case 0xA0:
		m.Kind = Pressure
	case 0xB0:
		m.Kind = Controller
	case 0xC0:
		m.Kind, m.Value = Program, 0
	case 0xE0:
		m.Kind, m.Number, m.Value = Bend, 0, int(r.data[0])|int(r.data[1])<<7
	case 0xF0:
		if r.status == statusQuarter {
			return Message{Kind: Quarter, Value: int(r.data[0])}
		}
	}
	return m
}

// Bytes are those of a message; nil: it is of no kind that is sent, or has a number out of its range.
func (m Message) Bytes() []byte {
	in := func(n, most int) bool { return n >= 0 && n <= most }
	if m.Kind == Exclusive {
		return append(append([]byte{statusExclusive}, m.Data...), statusEnd)
	}
	if !in(m.Channel-1, 15) || !in(m.Number, 127) {
		return nil
	}
	three := func(status byte) []byte {
		if !in(m.Value, 127) {
			return nil
		}
		return []byte{status | byte(m.Channel-1), byte(m.Number), byte(m.Value)}
	}
	switch m.Kind {
	case NoteOff:
		return three(0x80)
	case NoteOn:
		return three(0x90)
	case Pressure:
		return three(0xA0)
	case Controller:
		return three(0xB0)
	case Program:
		return []byte{0xC0 | byte(m.Channel-1), byte(m.Number)}
	case Bend:
		if in(m.Value, 1<<14-1) {
			return []byte{0xE0 | byte(m.Channel-1), byte(m.Value & 0x7F), byte(m.Value >> 7)}
		}
	}
	return nil
}
