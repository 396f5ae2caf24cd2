package socket

import (
	"net"
	"net/netip"
	"sync"

	"synaptor/internal/link"
)

// listening has the addresses where this process takes inputs.
var listening sync.Map // of netip.AddrPort

// Listens notes that this process takes inputs at an address, until forget is called. No device may be
// there: each press would press again.
func Listens(at net.Addr) (forget func()) {
	a, err := netip.ParseAddrPort(at.String())
	if err != nil {
		return func() {}
	}
	a = plain(a)
	listening.Store(a, true)
	return func() { listening.Delete(a) }
}

// plain is an address in the one form in which two can be compared.
func plain(a netip.AddrPort) netip.AddrPort { return netip.AddrPortFrom(a.Addr().Unmap(), a.Port()) }

// NotOwn closes a connection that leads to this process itself, and says so.
func NotOwn(c net.Conn) error {
	a, err := netip.ParseAddrPort(c.RemoteAddr().String())
	if err != nil {
		return nil
	}
	if _, own := listening.Load(plain(a)); !own {
		return nil
	}
	_ = c.Close()
	return link.Problem("This is Synaptor's own address. A device cannot be Synaptor itself, for each press would press again.")
}
