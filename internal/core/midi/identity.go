package midi

import "fmt"

// AskIdentity is the universal identity request, to whatever is at the other end of the cable.
func AskIdentity() []byte { return []byte{statusExclusive, 0x7E, 0x7F, 0x06, 0x01, statusEnd} }

// Identity is what a device says that it is. Numbers stand for makers and their families of devices.
type Identity struct {
	Maker         string // one byte, or three that begin with 00, as hexadecimal digits
	Family, Model int
	Version       string
}

// String gives it as one word that is the same for devices of one make.
func (i Identity) String() string { return fmt.Sprintf("%s-%04x-%04x", i.Maker, i.Family, i.Model) }

// ReadIdentity reads the answer to AskIdentity; false: it is another message.
func ReadIdentity(m Message) (id Identity, ok bool) {
	d := m.Data
	if m.Kind != Exclusive || len(d) < 5 || d[0] != 0x7E || d[2] != 0x06 || d[3] != 0x02 {
		return Identity{}, false
	}
	maker := d[4:5]
	if d[4] == 0 {
		if len(d) < 7 {
			return Identity{}, false
		}
		maker = d[4:7]
	}
	rest := d[4+len(maker):]
	if len(rest) < 8 {
		return Identity{}, false
	}
	pair := func(b []byte) int { return int(b[0]) | int(b[1])<<7 }
	return Identity{Maker: fmt.Sprintf("%x", maker), Family: pair(rest), Model: pair(rest[2:]),
		Version: fmt.Sprintf("%d.%d.%d.%d", rest[4], rest[5], rest[6], rest[7])}, true
}
