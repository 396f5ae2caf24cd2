//go:build unix

package panel_test

import (
	"errors"
	"net"
	"net/netip"
	"syscall"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/switcher"
)

// TestAPortIsHeldWhileTheCableIsOut: no other program is given it, nobody is answered there, the stand-in comes back where it was, and gives it up
// with the last of it.
func TestAPortIsHeldWhileTheCableIsOut(t *testing.T) {
	sw, err := switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	mx, err := mixer.Start("127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	// A call that leaves from the port needs it for itself, as one does that is given any port.
	takes := func(network, addr string) error {
		from, other := net.Addr(net.TCPAddrFromAddrPort(addrOf(t, addr))), "127.0.0.1:9"
		if network == "udp" {
			from = net.UDPAddrFromAddrPort(addrOf(t, addr))
		}
		c, err := (&net.Dialer{LocalAddr: from}).Dial(network, other)
		if err == nil {
			_ = c.Close()
		}
		return err
	}
	for network, s := range map[string]panel.StandIn{"tcp": sw, "udp": mx} {
		addr := s.Addr()
		if err := s.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		if err := takes(network, addr); !errors.Is(err, syscall.EADDRINUSE) {
			t.Errorf("%s: while the cable is out, another program takes the port: %v", network, err)
		}
		if _, err := net.Dial("tcp", addr); network == "tcp" && !errors.Is(err, syscall.ECONNREFUSED) {
			t.Errorf("while the cable is out, a caller gets %v", err)
		}
		if err := s.SetFaults(faults.Faults{}); err != nil || s.Addr() != addr {
			t.Errorf("%s: it comes back at %s instead of %s, %v", network, s.Addr(), addr, err)
		}
		if err := s.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		s.Close()
		if err := takes(network, addr); errors.Is(err, syscall.EADDRINUSE) {
			t.Errorf("%s: its port is held after its end", network)
		}
	}
}

func addrOf(t *testing.T, addr string) netip.AddrPort {
	t.Helper()
	at, err := netip.ParseAddrPort(addr)
	if err != nil {
		t.Fatal(err)
	}
	return at
}
