// Package doors opens the addresses that Synaptor is reached at: those of the command line, and those its owner has opened. Begin with Open.
package doors

import (
	"fmt"
	"net"
	"net/netip"
	"slices"
	"strings"

	"synaptor/internal/certs"
)

// Config is what is open, besides the addresses of the command line.
type Config struct {
	// All opens every address of this computer, also one that it gets later; else Addresses are open.
	All       bool     `json:"all"`
	Addresses []string `json:"addresses"`
	// Names are host names that browsers may use besides the addresses.
	Names []string   `json:"names"`
	TLS   certs.Mode `json:"tls"`
	// Trusted lets a network in; nil: none.
	Trusted *Trusted `json:"trusted,omitempty"`
}

// Trusted is a network whose computers press some controllers without being known.
type Trusted struct {
	Network     string   `json:"network"`     // such as 192.168.1.0/24
	Controllers []string `json:"controllers"` // ids
}

// Bounds of what is configured.
const (
	//limit:count addresses, and names, that are opened | at the form
	maxAddresses = 20
	//limit:count characters of a name that browsers use | at the form
	maxName = 253
)

// Refused says what is wrong with a field of the configuration.
type Refused struct{ Field, Text string }

// Error implements error.
func (r *Refused) Error() string { return r.Text }

// Check says what is wrong with a configuration: a *Refused.
func (c Config) Check() error {
	if len(c.Addresses) > maxAddresses || len(c.Names) > maxAddresses {
		return &Refused{"addresses", fmt.Sprintf("At most %d addresses and names can be opened.", maxAddresses)}
	}
	for _, a := range c.Addresses {
		if ip, err := netip.ParseAddr(a); err != nil || isLoopback(a) || ip.IsUnspecified() || ip.IsMulticast() {
			return &Refused{"addresses", fmt.Sprintf("%q is not an address of this computer, such as 192.168.1.20.", a)}
		}
	}
	for _, n := range c.Names {
		if !goodName(n) {
			return &Refused{"names", fmt.Sprintf("%q is not a host name, such as desk.example.", n)}
		}
	}
	if !c.TLS.Valid() {
		return &Refused{"tls", "TLS is off, own or file."}
	}
	return c.Trusted.check()
}

func goodName(n string) bool {
	if n == "" || len(n) > maxName || strings.Trim(n, "abcdefghijklmnopqrstuvwxyz0123456789-.") != "" {
		return false
	}
	for label := range strings.SplitSeq(n, ".") {
		if label == "" || len(label) > 63 || label[0] == '-' || label[len(label)-1] == '-' {
			return false
		}
	}
	return true
}

func (t *Trusted) check() error {
	if t == nil {
		return nil
	}
	p, err := netip.ParsePrefix(t.Network)
	if err != nil || p != p.Masked() {
		return &Refused{"network", fmt.Sprintf("%q is not a network, such as 192.168.1.0/24.", t.Network)}
	}
	if a := p.Addr(); !a.IsPrivate() && !a.IsLinkLocalUnicast() || p.Bits() < 8 {
		return &Refused{"network", "Only a private network can be trusted (RFC 1918, RFC 4193): anybody could be in another one."}
	}
	if len(t.Controllers) == 0 || len(t.Controllers) > maxAddresses {
		return &Refused{"controllers", fmt.Sprintf("Name the controllers that the network may press, from 1 to %d.", maxAddresses)}
	}
	return nil
}

// Covers tells whether an address is in the network.
func (t *Trusted) Covers(address string) bool {
	if t == nil {
		return false
	}
	p, err := netip.ParsePrefix(t.Network)
	a, bad := netip.ParseAddr(address)
	return err == nil && bad == nil && p.Contains(a.Unmap().WithZone(""))
}

// Loopback tells whether a host is this computer itself.
func Loopback(host string) bool {
	if strings.EqualFold(host, "localhost") {
		return true
	}
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return err == nil && ip.Unmap().IsLoopback()
}

// Split takes addresses of a command line apart: host and port, with commas between them. It fails with a sentence.
func Split(list string) (out []string, err error) {
	for a := range strings.SplitSeq(list, ",") {
		a = strings.TrimSpace(a)
		if host, port, err := net.SplitHostPort(a); err != nil || port == "" || host == "" {
			return nil, fmt.Errorf("%q is not an address to listen on, such as 127.0.0.1:7420, or 0.0.0.0:7420 for all", a)
		}
		if slices.Contains(out, a) {
			return nil, fmt.Errorf("%s is named twice", a)
		}
		out = append(out, a)
	}
	return out, nil
}

// isLoopback is Loopback, except in tests, where a loopback address stands for one of a network.
var isLoopback = Loopback

// Wide tells whether an address of a command line lets other computers in.
func Wide(address string) bool {
	host, _, err := net.SplitHostPort(address)
	return err != nil || !isLoopback(host)
}

// Interface is an address of this computer.
type Interface struct {
	Address string `json:"address"`
	Name    string `json:"name"` // such as wlan0
	Words   string `json:"words"`
}

// Interfaces lists the addresses of this computer that others may reach, as they are now.
func Interfaces() []Interface {
	out := []Interface{}
	all, err := net.Interfaces()
	if err != nil {
		return out
	}
	for _, i := range all {
		addrs, err := i.Addrs()
		if err != nil || i.Flags&net.FlagUp == 0 || i.Flags&net.FlagLoopback != 0 {
			continue
		}
		for _, a := range addrs {
			p, err := netip.ParsePrefix(a.String())
			if err != nil || p.Addr().IsLinkLocalUnicast() && p.Addr().Is6() || p.Addr().IsLoopback() {
				continue
			}
			out = append(out, Interface{p.Addr().String(), i.Name, words(i.Name)})
		}
	}
	return out
}

// words say what an interface is, as far as its name tells (the predictable names of systemd, and those before them).
func words(name string) string {
	for _, w := range []struct{ prefix, words string }{{"wl", "wireless"}, {"en", "network cable"}, {"eth", "network cable"}, {"usb", "USB"}, {"ww", "mobile network"}, {"tun", "private network"}, {"wg", "private network"}, {"tailscale", "private network"}, {"docker", "containers"}, {"veth", "virtual cable"}, {"br", "bridge"}} {
		if strings.HasPrefix(strings.ToLower(name), w.prefix) {
			return w.words
		}
	}
	return "network"
}
