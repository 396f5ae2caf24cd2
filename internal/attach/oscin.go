package attach

import (
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/netip"
	"strings"
	"sync/atomic"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/incident"
	"synaptor/internal/link/osc"
	"synaptor/internal/link/socket"
	"synaptor/internal/program"
)

// OSCIn takes inputs as OSC datagrams: /synaptor/<controller>/<control>/<gesture>, or /synaptor/show/mapping/<id>/<gesture>. Where somebody has
// to be known, /synaptor/token <token> says for an address and port who sends from there, for tokenFor after the last input.
type OSCIn struct {
	conn   *net.UDPConn
	done   chan struct{}
	forget func() // that it listens
	who    Knower
	bad    atomic.Int64

	// Owned by the goroutine that reads.
	known map[string][]engine.Input // what datagrams meant that came before
	under *program.Program          // the show that they meant it in
	from  map[netip.AddrPort]*oscSender
	as    int64 // the version of the people that from is of
}

// Knower tells who sends something from an address, with a token or without. Who may not press is not known. Version is another one whenever what it
// would say may be.
type Knower interface {
	Sends(address, token string) (Sender, bool)
	Version() int64
}

// oscSender is who sends from an address and port.
type oscSender struct {
	Sender
	ok    bool
	token string // that it has said; empty: none
	until time.Time
}

const (
	// tokenFor is how long a token that was said is good after the last input.
	tokenFor = 10 * time.Minute
	//limit:count addresses that OSC inputs come from | nowhere; those say their token again
	maxSenders = 1024
)

// maxKnown bounds what is remembered.
//
//limit:count OSC addresses that are remembered | nowhere; they are looked up again
const maxKnown = 1024

// ListenOSC starts to take inputs on a UDP address; who tells who sends them.
func ListenOSC(addr string, shows Programs, e *engine.Engine, who Knower) (*OSCIn, error) {
	udp, err := net.ResolveUDPAddr("udp", addr)
	if err != nil {
		return nil, fmt.Errorf("listen for OSC inputs: %w", err)
	}
	conn, err := net.ListenUDP("udp", udp)
	if err != nil {
		return nil, fmt.Errorf("listen for OSC inputs (is another Synaptor running?): %w", err)
	}
	o := &OSCIn{conn: conn, done: make(chan struct{}), forget: socket.Listens(conn.LocalAddr()), who: who, from: map[netip.AddrPort]*oscSender{}}
	go o.run(shows, e)
	return o, nil
}

// Addr is the address it listens on.
func (o *OSCIn) Addr() string { return o.conn.LocalAddr().String() }

// Bad counts datagrams that made no sense.
func (o *OSCIn) Bad() int64 { return o.bad.Load() }

// Close stops listening.
func (o *OSCIn) Close() {
	_ = o.conn.Close()
	<-o.done
	o.forget()
}

func (o *OSCIn) run(shows Programs, e *engine.Engine) {
	defer close(o.done)
	buf := make([]byte, osc.MaxPacket+1)
	for {
		n, from, err := o.conn.ReadFromUDPAddrPort(buf)
		at := time.Now()
		if errors.Is(err, net.ErrClosed) {
			return
		}
		if err != nil {
			continue
		}
		incident.Contain("osc in", from.String(), func() { o.take(buf[:n], from, at, shows.Program(), e) })
	}
}

// take hands on what a datagram asks for.
func (o *OSCIn) take(data []byte, from netip.AddrPort, at time.Time, p *program.Program, e *engine.Engine) {
	for _, in := range o.inputs(data, from, p) {
		who, ok := o.sender(from, at)
		if !ok {
			o.reject(from.String(), errNoOSCToken)
			return
		}
		in, err := By(in, who, p)
		if err != nil {
			o.reject(from.String(), err)
			continue
		}
		actor := "OSC from " + from.Addr().String()
		if who.Person != "" {
			actor = who.Person
		}
		e.Input(Stamp(in, at, "osc", "OSC from "+from.Addr().String(), actor))
	}
}

var errNoOSCToken = errors.New("who sends this is not known: it says /synaptor/token and the token of an operator first, or its address stands with a token in People")

// sender is who sends from an address now.
func (o *OSCIn) sender(from netip.AddrPort, at time.Time) (Sender, bool) {
	if v := o.who.Version(); v != o.as || len(o.from) >= maxSenders {
		tokens := map[netip.AddrPort]*oscSender{} // who has said one is asked for anew
		for a, s := range o.from {
			if s.token != "" && at.Before(s.until) && len(o.from) < maxSenders {
				tokens[a] = o.ask(a, s.token, s.until)
			}
		}
		o.from, o.as = tokens, v
	}
	s := o.from[from]
	if s == nil || s.token != "" && at.After(s.until) {
		s = o.ask(from, "", at)
		o.from[from] = s
	}
	if s.token != "" {
		s.until = at.Add(tokenFor)
	}
	return s.Sender, s.ok
}

func (o *OSCIn) ask(from netip.AddrPort, token string, until time.Time) *oscSender {
	who, ok := o.who.Sends(from.Addr().Unmap().String(), token)
	return &oscSender{who, ok, token, until}
}

// inputs gives what a datagram asks for. Keys are pressed again and again: what one that
// made sense meant is remembered for as long as the show is the same, since reading it
// takes a third of what a press takes until it is decided.
func (o *OSCIn) inputs(data []byte, from netip.AddrPort, p *program.Program) (ins []engine.Input) {
	if o.under != p || len(o.known) >= maxKnown {
		o.known, o.under = map[string][]engine.Input{}, p
	}
	if ins, known := o.known[string(data)]; known {
		return ins
	}
	msgs, err := osc.Decode(data)
	if err != nil {
		o.reject(from.String(), err)
		return nil
	}
	for _, m := range msgs {
		if m.Address == tokenAddress && len(m.Args) == 1 {
			o.tell(from, m.Args[0])
			continue
		}
		in, err := inputOf(m, p)
		if err != nil {
			o.reject(from.String(), err)
			continue
		}
		ins = append(ins, in)
	}
	if len(ins) > 0 && len(ins) == len(msgs) {
		o.known[string(data)] = ins
	}
	return ins
}

// tokenAddress is where a program says who it is.
const tokenAddress = "/synaptor/token"

// tell notes who sends from an address: it has said so.
func (o *OSCIn) tell(from netip.AddrPort, token any) {
	text, _ := token.(string)
	s := o.ask(from, text, time.Now().Add(tokenFor))
	if !s.ok || text == "" {
		o.reject(from.String(), errNoOSCToken)
		return
	}
	if len(o.from) < maxSenders {
		o.from[from] = s
	}
}

// inputOf reads an input from an OSC message.
func inputOf(m device.Message, p *program.Program) (engine.Input, error) {
	parts := strings.Split(m.Address, "/")
	var a Address
	switch {
	case len(parts) == 4 && parts[1] == "synaptor" && parts[2] == "signal":
		if why := show.CheckSignal(parts[3]); why != "" {
			return engine.Input{}, errors.New(why)
		}
		fields := map[string]any{}
		for i, a := range m.Args {
			fields[[]string{"value", "value2", "value3", "value4"}[min(i, 3)]] = a
		}
		return engine.Input{Signal: parts[3], Fields: fields}, nil
	case len(parts) == 5 && parts[1] == "synaptor":
		a = Address{Controller: parts[2], Control: parts[3], Gesture: parts[4]}
	case len(parts) == 6 && parts[1] == "synaptor" && parts[2] == "show" && parts[3] == "mapping":
		var err error
		if a, err = OfMapping(parts[4], parts[5], p); err != nil {
			return engine.Input{}, err
		}
	default:
		return engine.Input{}, fmt.Errorf("%q is none of /synaptor/<controller>/<control>/<gesture>, /synaptor/signal/<name> and /synaptor/show/mapping/<id>/<gesture>", m.Address)
	}
	in, err := a.Resolve(p)
	if err != nil || len(m.Args) == 0 {
		return in, err
	}
	if _, isText := m.Args[0].(string); isText || TakesAmount(in.Gesture) {
		return Valued(in, m.Args[0])
	}
	return in, nil // many programs send a 1 with every press
}

func (o *OSCIn) reject(from string, err error) {
	// A flood of nonsense must not become a flood of log lines.
	if n := o.bad.Add(1); n <= 10 || n%1000 == 0 {
		slog.Warn("OSC input refused", "from", from, "count", n, "reason", err)
	}
}
