package mqtt

import (
	"fmt"
	"net"

	"synaptor/internal/link"
)

// maxPacket is the largest packet, in bytes, that a broker may send. A larger payload than MaxPayload is passed over; one
// that large is none of a device, and the library would make room for all of it as soon as it is announced.
//
//limit:bytes an MQTT packet; the connection ends | as the device's problem
const maxPacket = 1 << 20

// bounded is a connection that ends where a packet is announced that is too large. It follows the fixed
// headers (MQTT 3.1.1, section 2.2): a type, then the length of the rest in one to four bytes of seven bits.
type bounded struct {
	net.Conn
	rest   int // bytes of the packet that are to come
	length int // as far as it has been read
	shift  int // of its next seven bits; -1: the type is next
}

func newBounded(c net.Conn) *bounded { return &bounded{Conn: c, shift: -1} }

// Read implements net.Conn.
func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.Conn.Read(p)
	for i := 0; i < n; {
		if b.rest > 0 {
			skip := min(b.rest, n-i)
			b.rest -= skip
			i += skip
			continue
		}
		if b.shift < 0 {
			b.shift, b.length = 0, 0
			i++
			continue
		}
		b.length |= int(p[i]&0x7F) << b.shift
		if b.length > maxPacket || b.shift > 21 {
			_ = b.Close()
			return i, link.Problem(fmt.Sprintf("The broker announces a message of %d bytes or more; %d is the most.", b.length, maxPacket))
		}
		if p[i]&0x80 != 0 {
			b.shift += 7
		} else {
			b.rest, b.shift = b.length, -1
		}
		i++
	}
	return n, err
}
