package socket

import (
	"net"
	"net/netip"
	"sync"

	"synaptor/internal/link"
)

// listening has the addresses where this process takes inputs.
var listening sync.Map // of place

// place is an address on a network: UDP and TCP have ports of their own with the same numbers.
type place struct {
	network string // tcp or udp
	at      netip.AddrPort
}

// placeOf gives an address in the one form in which two can be compared.
func placeOf(addr net.Addr) (place, bool) {
	a, err := netip.ParseAddrPort(addr.String())
	return place{addr.Network(), netip.AddrPortFrom(a.Addr().Unmap(), a.Port())}, err == nil
}

// Listens notes that this process takes inputs at an address, until forget is called. No device may be
// there: each press would press again.
func Listens(at net.Addr) (forget func()) {
	p, ok := placeOf(at)
	if !ok {
		return func() {}
	}
	listening.Store(p, true)
	return func() { listening.Delete(p) }
}

// NotOwn closes a connection that leads to this process itself, and says so.
func NotOwn(c net.Conn) error {
	p, ok := placeOf(c.RemoteAddr())
	if !ok {
		return nil
	}
	if _, own := listening.Load(p); !own {
		return nil
	}
	_ = c.Close()
	return link.Problem("This is Synaptor's own address. A device cannot be Synaptor itself, for each press would press again.")
}
