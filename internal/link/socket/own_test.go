package socket

import (
	"net"
	"testing"
)

// TestAPortOfUDPIsNoPortOfTCP: a device may have the number over TCP that Synaptor takes inputs at over UDP.
func TestAPortOfUDPIsNoPortOfTCP(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	dial := func() net.Conn {
		c, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = c.Close() })
		return c
	}
	at := l.Addr().(*net.TCPAddr)
	forget := Listens(&net.UDPAddr{IP: at.IP, Port: at.Port})
	if err := NotOwn(dial()); err != nil {
		t.Errorf("a device over TCP is taken for an input over UDP: %v", err)
	}
	forget()
	forget = Listens(at)
	if NotOwn(dial()) == nil {
		t.Error("Synaptor's own address is not known")
	}
	forget()
	if err := NotOwn(dial()); err != nil {
		t.Errorf("an address that is free again: %v", err)
	}
}
