// Package announce says in the network that Synaptor is there, and hears what else is: DNS-based service discovery (RFC 6763) over multicast
// DNS (RFC 6762). It asks when it is asked to, and probes nothing.
package announce

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"log"
	"log/slog"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/hashicorp/mdns"
)

// Service is the service type of Synaptor.
const Service = "_synaptor._tcp"

// What is announced.
type What struct {
	Name string // of the instance, such as that of the computer
	Host string // such as desk.local
	Port int
	// Addresses are those that are open, by the name of their interface.
	Addresses map[string][]net.IP
	Text      []string // key=value
}

// same tells whether two announcements are.
func (w What) same(o What) bool {
	return w.Name == o.Name && w.Host == o.Host && w.Port == o.Port && slices.Equal(w.Text, o.Text) && fmt.Sprint(w.Addresses) == fmt.Sprint(o.Addresses)
}

// Announcer announces one thing; nothing at first. It is safe for concurrent use.
type Announcer struct {
	mu      sync.Mutex
	now     What
	servers []*mdns.Server
}

// Set announces something in place of what was announced before; without addresses nothing is. An interface that does not do is left out.
func (a *Announcer) Set(w What) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if w.same(a.now) {
		return
	}
	a.stop()
	a.now = w
	for name, ips := range w.Addresses {
		if err := a.on(name, ips, w); err != nil {
			slog.Debug("Synaptor is not announced", "interface", name, "reason", err)
		}
	}
}

func (a *Announcer) on(name string, ips []net.IP, w What) error {
	i, err := net.InterfaceByName(name)
	if err != nil {
		return err
	}
	zone, err := mdns.NewMDNSService(w.Name, Service, "local.", strings.TrimSuffix(w.Host, ".")+".", w.Port, ips, w.Text)
	if err != nil {
		return err
	}
	s, err := mdns.NewServer(&mdns.Config{Zone: zone, Iface: i, Logger: silent})
	if err != nil {
		return err
	}
	a.servers = append(a.servers, s)
	return nil
}

// silent keeps what others send wrong out of the log.
var silent = log.New(io.Discard, "", 0)

func (a *Announcer) stop() {
	for _, s := range a.servers {
		_ = s.Shutdown() // it always works (mdns)
	}
	a.servers = nil
}

// Close announces nothing any more.
func (a *Announcer) Close() { a.Set(What{}) }

// Heard is something that announces itself.
type Heard struct {
	Name    string `json:"name"`
	Service string `json:"service"`
	Host    string `json:"host"` // its address
	Port    int    `json:"port"`
}

const (
	// listenFor is how long answers are waited for.
	listenFor = 1200 * time.Millisecond
	//limit:count services that are listed of those that announce themselves | nowhere; the others are left out
	maxHeard = 200
	//limit:count characters of the name of what announces itself | nowhere; it is cut
	maxName = 80
)

// Look asks on some interfaces, all where none is named, what there is of some services, and lists what answers, each once.
func Look(ctx context.Context, services []string, interfaces []string) []Heard {
	ctx, cancel := context.WithTimeout(ctx, listenFor+time.Second)
	defer cancel()
	var mu sync.Mutex
	found := map[Heard]bool{}
	var all sync.WaitGroup
	for _, i := range multicasting(interfaces) {
		for _, service := range services {
			for _, v6 := range []bool{false, true} {
				all.Go(func() {
					for _, h := range ask(ctx, service, i, v6) {
						mu.Lock()
						if len(found) < maxHeard {
							found[h] = true
						}
						mu.Unlock()
					}
				})
			}
		}
	}
	all.Wait()
	out := []Heard{}
	for h := range found {
		out = append(out, h)
	}
	slices.SortFunc(out, func(a, b Heard) int {
		return cmp.Or(strings.Compare(a.Name, b.Name), strings.Compare(a.Service, b.Service), strings.Compare(a.Host, b.Host), a.Port-b.Port)
	})
	return out
}

// multicasting are the interfaces that can be asked on.
func multicasting(names []string) (out []*net.Interface) {
	all, err := net.Interfaces()
	if err != nil {
		return nil
	}
	const can = net.FlagUp | net.FlagMulticast
	for _, i := range all {
		if i.Flags&can == can && i.Flags&net.FlagLoopback == 0 && (len(names) == 0 || slices.Contains(names, i.Name)) {
			out = append(out, &i)
		}
	}
	return out
}

// ask asks for one service on one interface, over IPv4 or IPv6: where one of them is not there, asking on both would fail.
func ask(ctx context.Context, service string, i *net.Interface, v6 bool) (out []Heard) {
	entries := make(chan *mdns.ServiceEntry, maxHeard)
	err := mdns.QueryContext(ctx, &mdns.QueryParam{Service: service, Domain: "local", Timeout: listenFor, Interface: i, Entries: entries, Logger: silent, DisableIPv4: v6, DisableIPv6: !v6})
	if err != nil {
		slog.Debug("nothing is heard of a service", "service", service, "interface", i.Name, "reason", err)
	}
	close(entries) // only now: until then what was heard is still added to
	for e := range entries {
		if h, ok := heard(e, service); ok {
			out = append(out, h)
		}
	}
	return out
}

// heard is what an answer says; ok is false where it answers something else, or makes no sense.
func heard(e *mdns.ServiceEntry, service string) (h Heard, ok bool) {
	name, is := strings.CutSuffix(strings.TrimSuffix(e.Name, "."), "."+service+".local")
	ip := e.AddrV4
	if ip == nil {
		ip = e.AddrV6
	}
	if !is || ip == nil || e.Port < 1 || e.Port > 65535 {
		return h, false
	}
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == '\\' {
			return -1
		}
		return r
	}, name)
	if r := []rune(name); len(r) > maxName {
		name = string(r[:maxName])
	}
	return Heard{name, service, ip.String(), e.Port}, true
}
