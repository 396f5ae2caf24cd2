package doors

import (
	"net"
	"os"
	"slices"
	"strings"

	"synaptor/internal/certs"
)

// Row is an address in words.
type Row struct {
	Address string `json:"address"` // without the port
	URL     string `json:"url"`     // empty: it is not open
	Name    string `json:"name"`    // of the interface
	Words   string `json:"words"`
	// Fixed says that the command line opens it; Wide that other computers may reach it.
	Fixed   bool   `json:"fixed"`
	Wide    bool   `json:"wide"`
	Problem string `json:"problem,omitempty"`
}

// View is what is open, and to whom.
type View struct {
	Config  Config      `json:"config"`
	Rows    []Row       `json:"rows"`
	TLS     certs.State `json:"tls"`
	Pending *Pending    `json:"pending,omitempty"`
	// Withheld says what browsers keep from pages over plain HTTP; empty: nothing is open so.
	Withheld string `json:"withheld,omitempty"`
	// Trust says in a sentence what a trusted network means; empty: none is.
	Trust string `json:"trust,omitempty"`
	// Name is what other computers find this one by on the network.
	Name string `json:"name"`
}

// LocalName is the name of this computer in its network (RFC 6762).
func LocalName() string {
	host, err := os.Hostname()
	if err != nil {
		return "synaptor.local"
	}
	host, _, _ = strings.Cut(strings.ToLower(host), ".")
	return host + ".local"
}

// View shows all addresses of this computer. name gives the name of a controller.
func (s *Service) View(name func(controller string) string) View {
	s.mu.Lock()
	defer s.mu.Unlock()
	v := View{Config: s.config, Rows: []Row{}, Name: LocalName()}
	if v.Config.Addresses == nil {
		v.Config.Addresses = []string{}
	}
	if v.Config.Names == nil {
		v.Config.Names = []string{}
	}
	var hosts []string
	plain := false
	open := map[string]*door{} // by host
	for _, d := range s.doors {
		host, _, _ := net.SplitHostPort(d.address)
		open[host] = d
		plain = plain || Wide(d.address) && !d.secure
		if !Wide(d.address) {
			v.Rows = append(v.Rows, Row{Address: host, URL: scheme(d.secure) + d.address, Words: "this computer alone", Fixed: d.fixed})
		}
	}
	every := open["0.0.0.0"]
	if every == nil {
		every = open["::"]
	}
	seen := map[string]bool{}
	for _, i := range s.o.Interfaces() {
		d := open[i.Address]
		if d == nil {
			d = every
		}
		row := Row{Address: i.Address, Name: i.Name, Words: i.Words, Wide: true, Problem: s.trouble[net.JoinHostPort(i.Address, s.port)]}
		if d != nil {
			_, port, _ := net.SplitHostPort(d.address)
			row.URL, row.Fixed = scheme(d.secure)+net.JoinHostPort(i.Address, port), d.fixed
			hosts = append(hosts, i.Address)
		}
		seen[i.Address] = true
		v.Rows = append(v.Rows, row)
	}
	for _, a := range s.config.Addresses {
		if !seen[a] {
			v.Rows = append(v.Rows, Row{Address: a, Words: "not there now", Wide: true, Problem: s.trouble[net.JoinHostPort(a, s.port)]})
		}
	}
	slices.SortFunc(v.Rows, func(a, b Row) int { return strings.Compare(a.Words+a.Address, b.Words+b.Address) })
	if s.pending != nil {
		v.Pending = s.pending.view()
	}
	if plain {
		v.Withheld = "Over plain HTTP everybody on the way can read and change what goes to and fro, and browsers keep screens from staying awake, and MIDI and game controls from pages."
	}
	v.Trust = s.config.Trusted.sentence(name)
	v.TLS = s.o.Certs.State(s.config.TLS, append(hosts, s.config.Names...))
	return v
}

// Trust says in a sentence what the trusted network means; empty: none is.
func (s *Service) Trust(name func(controller string) string) string {
	return s.Config().Trusted.sentence(name)
}

func (t *Trusted) sentence(name func(controller string) string) string {
	if t == nil {
		return ""
	}
	names := []string{}
	for _, c := range t.Controllers {
		if n := name(c); n != "" {
			names = append(names, n)
		}
	}
	return "Everybody in " + t.Network + " presses " + strings.Join(names, ", ") + " without being known."
}

// Trusted is the network that is let in; nil: none.
func (s *Service) Trusted() *Trusted { return s.Config().Trusted }

// URLs are the addresses that are open to others, as browsers take them.
func (s *Service) URLs() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.urls()
}
