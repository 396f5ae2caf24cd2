package device

import (
	"strings"
	"testing"
)

func TestADriverAndATransportHaveToBelongTogether(t *testing.T) {
	for _, pair := range Pairs() {
		name, transport, _ := strings.Cut(pair, "/")
		m := &mistakes{}
		if d := driverOf(LinkSpec{Driver: name, Transport: transport}, m); len(m.found) > 0 || d.Name != name {
			t.Errorf("%s: %v", pair, m.found)
		}
	}
	for _, link := range []LinkSpec{{Driver: "lines", Transport: "udp"}, {Driver: "osc", Transport: "tcp"}, {Driver: "mqtt", Transport: "websocket"}, {Driver: "http"}} {
		m := &mistakes{}
		if driverOf(link, m); len(m.found) != 1 || m.found[0].Where != "/link/transport" {
			t.Errorf("%s over %q: %v", link.Driver, link.Transport, m.found)
		}
	}
	if d := driverOf(LinkSpec{Driver: "smoke"}, &mistakes{}); d != nil {
		t.Error("a driver that does not exist was taken")
	}
}

func TestARangeHasALimit(t *testing.T) {
	for _, s := range []string{"9223372036854775807..9223372036854775807", "0..1000", "1..1001", "-9223372036854775808..9223372036854775807",
		"5000000..5000001", "-9223372036854775808..-9223372036854775808", "2..1", "1", "a..b", "1..99999999999999999999"} {
		if got, err := parseRange(s); err == nil {
			t.Errorf("%s was taken: %d values", s, len(got))
		}
	}
	for s, want := range map[string]int{"1..1000": 1000, "0..0": 1, "-2..2": 5} {
		if got, err := parseRange(s); err != nil || len(got) != want {
			t.Errorf("%s gave %d values, %v", s, len(got), err)
		}
	}
}

// TestPortsOfUDPAndTCPAreNumberedApart so that a mixer by OSC is not the web service that happens to have its number.
func TestPortsOfUDPAndTCPAreNumberedApart(t *testing.T) {
	for _, c := range []struct {
		a, b string
		same bool
	}{{"udp", "udp", true}, {"udp", "http", false}, {"tcp-slip", "udp", false}, {"websocket", "http", true}, {"tcp", "tcp-slip", true}} {
		if got := SamePort(LinkSpec{Transport: c.a}, LinkSpec{Transport: c.b}); got != c.same {
			t.Errorf("%s and %s: %v", c.a, c.b, got)
		}
	}
}
