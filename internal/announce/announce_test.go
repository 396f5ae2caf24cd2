package announce

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/hashicorp/mdns"
)

// inside says that the test binary runs in a network namespace of its own: what it announces reaches no real network.
const inside = "SYNAPTOR_TEST_NETNS"

// TestSynaptorIsHeardAndHearsOthers in a network namespace of the test's own, by a cable within it.
func TestSynaptorIsHeardAndHearsOthers(t *testing.T) {
	if os.Getenv(inside) == "" {
		again(t)
		return
	}
	for _, args := range [][]string{{"link", "set", "lo", "up"}, {"link", "add", "syn-a", "type", "veth", "peer", "name", "syn-b"}, {"addr", "add", "10.213.9.1/24", "dev", "syn-a"}, {"addr", "add", "10.213.9.2/24", "dev", "syn-b"}, {"link", "set", "syn-a", "up"}, {"link", "set", "syn-b", "up"}, {"route", "add", "default", "dev", "syn-a"}} {
		if out, err := exec.Command("ip", args...).CombinedOutput(); err != nil {
			t.Fatalf("ip %v: %v %s", args, err, out)
		}
	}
	var a Announcer
	defer a.Close()
	here := What{Name: "Desk", Host: "desk.local", Port: 7420, Addresses: map[string][]net.IP{"syn-a": {net.IPv4(10, 213, 9, 1)}, "gone": nil}, Text: []string{"tls=1", "fp=AA:BB"}}
	a.Set(here)
	a.Set(here) // nothing changes
	if len(a.servers) != 1 {
		t.Fatalf("it is announced on %d interfaces", len(a.servers))
	}
	got := Look(context.Background(), []string{Service, "_osc._udp"}, []string{"syn-a"})
	if len(got) != 1 || got[0] != (Heard{"Desk", Service, "10.213.9.1", 7420}) {
		t.Errorf("heard are %+v", got)
	}
	here.Addresses = nil
	a.Set(here)
	if got := Look(context.Background(), []string{Service}, []string{"syn-a"}); len(got) != 0 {
		t.Errorf("closed, it is heard: %+v", got)
	}
}

// again runs the test once more in a network namespace.
func again(t *testing.T) {
	t.Helper()
	if _, err := exec.LookPath("ip"); err != nil || os.Geteuid() != 0 {
		t.Skip("only root makes network namespaces, with iproute2")
	}
	ns := fmt.Sprintf("synaptor-mdns-%d", os.Getpid())
	if out, err := exec.Command("ip", "netns", "add", ns).CombinedOutput(); err != nil {
		t.Skipf("this machine makes no network namespaces: %s", out)
	}
	defer func() { _ = exec.Command("ip", "netns", "del", ns).Run() }()
	cmd := exec.Command("ip", "netns", "exec", ns, os.Args[0], "-test.run", "^"+t.Name()+"$", "-test.v")
	cmd.Env = append(os.Environ(), inside+"=1")
	out, err := cmd.CombinedOutput()
	if err != nil || !strings.Contains(string(out), "--- PASS") {
		t.Errorf("inside: %v\n%s", err, out)
	}
}

func TestWhatMakesNoSenseIsNotHeard(t *testing.T) {
	ip := net.IPv4(10, 0, 0, 7)
	for name, e := range map[string]mdns.ServiceEntry{
		"another service": {Name: "Desk._http._tcp.local.", AddrV4: ip, Port: 80},
		"no address":      {Name: "Desk._osc._udp.local.", Port: 80},
		"no port":         {Name: "Desk._osc._udp.local.", AddrV4: ip},
		"no name":         {Name: "_osc._udp.local.", AddrV4: ip, Port: 80},
	} {
		if h, ok := heard(&e, "_osc._udp"); ok {
			t.Errorf("%s: %+v", name, h)
		}
	}
	h, ok := heard(&mdns.ServiceEntry{Name: "A\\ lo\x07ng" + strings.Repeat("x", 200) + "._osc._udp.local.", AddrV6: net.ParseIP("fd00::7"), Port: 7431}, "_osc._udp")
	if !ok || h.Host != "fd00::7" || len(h.Name) != maxName || strings.ContainsAny(h.Name, "\\\x07") {
		t.Errorf("heard: %+v", h)
	}
}
