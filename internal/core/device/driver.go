package device

import (
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/expr"
)

// Carries says where in its messages a protocol has values.
type Carries int

// The places of values.
const (
	Arguments Carries = iota // behind an address: numbers and texts
	Body                     // in a JSON value
	Line                     // in the words of a line of text
)

// Driver is what a protocol can, whatever device speaks it. This table is the only place
// that knows drivers by their names.
type Driver struct {
	Name string
	// Transports are what it runs over.
	Transports []string
	Carries    Carries
	// Slash says that addresses begin with a slash.
	Slash bool
	// Strict says that an address has only printable ASCII after its slash.
	Strict bool
	// Verbs are the methods of a request, the first of which asks and the second sets;
	// none where a message has no verb.
	Verbs []string
	// JSONBody says that a body written by hand has to be JSON.
	JSONBody bool
	// Derives says that a reading is reported at the address of its path, unless its
	// sheet says otherwise; else the sheet has to say where.
	Derives bool
	// SameAddress says that a reading is set and asked for at the address that reports it.
	SameAddress bool
	// Set is the message that sets a reading, unless the sheet says otherwise; nil: none.
	Set *MessageSpec
	// Answers says that every message is answered, and that an answer belongs to its
	// message by a number of the protocol.
	Answers bool
	// Requests says that a message waits for the answer of the one before it, unless the sheet says
	// how many a device takes at a time.
	Requests bool
	// Secure says that it can run over TLS.
	Secure bool
	// Path says that a link has a path, Topics that it subscribes to topics, Logins how a device is
	// signed in to; none: not at all.
	Path, Topics bool
	Logins       []string
	// Local says that it reaches this computer only, and needs no address.
	Local bool
}

// drivers are all protocols.
var drivers = []*Driver{
	{Name: "osc", Transports: []string{"udp", "tcp-slip"}, Carries: Arguments, Slash: true, Strict: true, Derives: true, SameAddress: true,
		Set: &MessageSpec{Address: "{address}", Args: []any{"{value}"}}},
	{Name: "jsonrpc", Transports: []string{"websocket"}, Carries: Body, JSONBody: true, Answers: true, Secure: true, Path: true, Logins: []string{"challenge"}},
	{Name: "http", Transports: []string{"http"}, Carries: Body, Slash: true, Verbs: []string{"GET", "PUT", "POST", "PATCH", "DELETE"}, Answers: true, Requests: true, Secure: true,
		Path: true, Logins: []string{"basic", "bearer"}},
	{Name: "mqtt", Transports: []string{"tcp"}, Carries: Body, Derives: true, SameAddress: true, Secure: true, Topics: true, Logins: []string{"password"},
		Set: &MessageSpec{Address: "{address}", Body: "{value}"}},
	{Name: "lines", Transports: []string{"tcp"}, Carries: Line, Derives: true},
	{Name: "local", Transports: []string{"computer"}, Carries: Arguments, Slash: true, Derives: true, SameAddress: true, Answers: true, Local: true,
		Set: &MessageSpec{Address: "{address}", Args: []any{"{value}"}}},
}

// DriverNamed gives a driver by its name, or nil.
func DriverNamed(name string) *Driver {
	for _, d := range drivers {
		if d.Name == name {
			return d
		}
	}
	return nil
}

// SamePort reports whether two links that have the same address lead to the same port: those of UDP and of TCP are numbered apart (RFC 6335).
func SamePort(a, b LinkSpec) bool { return (a.Transport == udp) == (b.Transport == udp) }

// udp is the transport that is no stream.
const udp = "udp"

// driverOf finds the driver that a sheet names; nil where there is none. One that
// does not run over the transport is a mistake.
func driverOf(link LinkSpec, m *mistakes) *Driver {
	d := DriverNamed(link.Driver)
	if d == nil {
		m.at("/link/driver", "there is no driver %q", link.Driver)
		return nil
	}
	if !slices.Contains(d.Transports, link.Transport) {
		m.at("/link/transport", "%s does not run over %q; it runs over %s", d.Name, link.Transport, strings.Join(d.Transports, " or "))
	}
	return d
}

// Apart tells whether what a device reports comes in no order with what it answers: requests and the stream of
// events have connections of their own.
func (d *Driver) Apart() bool { return d.Requests }

// tellsTypes tells whether values arrive with more than numbers and texts: true apart
// from 1, or as words that are read by the reading's type.
func (d *Driver) tellsTypes() bool { return d.Carries != Arguments }

// slash is what an address begins with.
func (d *Driver) slash() string {
	if d.Slash {
		return "/"
	}
	return ""
}

// inAddress is a value as it stands in an address, behind what is before it. source is the expression that it
// is of: an address that is one already stays as it is.
func (d *Driver) inAddress(source, before, value string) string {
	if len(d.Verbs) == 0 || source == "address" {
		return value
	}
	return encoded(before, value)
}

// encoded is a value as it stands in an address of HTTP, behind what is before it.
func encoded(before, value string) string {
	if strings.Contains(before, "?") {
		return expr.EscapeQuery(value)
	}
	return expr.EscapePath(value)
}

// Pairs lists every driver with each transport that it runs over, such as osc/udp.
func Pairs() []string {
	pairs := map[string]bool{}
	for _, d := range drivers {
		for _, t := range d.Transports {
			pairs[d.Name+"/"+t] = true
		}
	}
	return slices.Sorted(maps.Keys(pairs))
}
