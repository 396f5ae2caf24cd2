//go:build unix

package panel

import (
	"net/netip"
	"syscall"
)

// hold keeps the port of an IPv4 address for TCP and UDP while nobody listens
// there, so that no other program is given it: bound, it refuses what comes as
// a port does that nobody has. It returns what lets it go; what cannot be held
// is not.
func hold(addr string) (release func()) {
	at, err := netip.ParseAddrPort(addr)
	if err != nil || !at.Addr().Is4() || at.Port() == 0 {
		return func() {}
	}
	tcp, udp := bound(at, syscall.SOCK_STREAM), bound(at, syscall.SOCK_DGRAM)
	if udp >= 0 { // it hears only itself, and says nothing
		_ = syscall.Connect(udp, &syscall.SockaddrInet4{Port: int(at.Port()), Addr: at.Addr().As4()})
	}
	return func() {
		for _, fd := range []int{tcp, udp} {
			if fd >= 0 {
				_ = syscall.Close(fd)
			}
		}
	}
}

// bound is a socket of a kind at an address; below zero: there is none.
func bound(at netip.AddrPort, kind int) int {
	fd, err := syscall.Socket(syscall.AF_INET, kind, 0)
	if err != nil {
		return -1
	}
	syscall.CloseOnExec(fd)
	if kind == syscall.SOCK_STREAM { // connections that have just ended keep nobody from it, as net.Listen has it
		err = syscall.SetsockoptInt(fd, syscall.SOL_SOCKET, syscall.SO_REUSEADDR, 1)
	}
	if err == nil {
		err = syscall.Bind(fd, &syscall.SockaddrInet4{Port: int(at.Port()), Addr: at.Addr().As4()})
	}
	if err != nil {
		_ = syscall.Close(fd)
		return -1
	}
	return fd
}
