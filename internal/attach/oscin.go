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
	"synaptor/internal/engine"
	"synaptor/internal/incident"
	"synaptor/internal/link/osc"
	"synaptor/internal/link/socket"
	"synaptor/internal/program"
)

// OSCIn takes inputs as OSC datagrams: /synaptor/<controller>/<control>/<gesture>, or /synaptor/show/mapping/<id>/<gesture>.
type OSCIn struct {
	conn   *net.UDPConn
	done   chan struct{}
	forget func() // that it listens
	bad    atomic.Int64

	// Owned by the goroutine that reads.
	known map[string][]engine.Input // what datagrams meant that came before
	under *program.Program          // the show that they meant it in
}

// maxKnown bounds what is remembered.
//
//limit:count OSC addresses that are remembered | nowhere; they are looked up again
const maxKnown = 1024

// ListenOSC starts to take inputs on a UDP address.
func ListenOSC(addr string, shows Programs, e *engine.Engine) (*OSCIn, error) {
	udp, err := net.ResolveUDPAddr("udp", addr)
	if err != nil {
		return nil, fmt.Errorf("listen for OSC inputs: %w", err)
	}
	conn, err := net.ListenUDP("udp", udp)
	if err != nil {
		return nil, fmt.Errorf("listen for OSC inputs (is another Synaptor running?): %w", err)
	}
	o := &OSCIn{conn: conn, done: make(chan struct{}), forget: socket.Listens(conn.LocalAddr())}
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
		actor := "OSC from " + from.Addr().String()
		e.Input(Stamp(in, at, "osc", actor, actor))
	}
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
		in, err := inputOf(m, p)
		if err != nil {
			o.reject(from.String(), err)
			continue
		}
		ins = append(ins, in)
	}
	if len(ins) == len(msgs) {
		o.known[string(data)] = ins
	}
	return ins
}

// inputOf reads an input from an OSC message.
func inputOf(m device.Message, p *program.Program) (engine.Input, error) {
	parts := strings.Split(m.Address, "/")
	var a Address
	switch {
	case len(parts) == 5 && parts[1] == "synaptor":
		a = Address{Controller: parts[2], Control: parts[3], Gesture: parts[4]}
	case len(parts) == 6 && parts[1] == "synaptor" && parts[2] == "show" && parts[3] == "mapping":
		var err error
		if a, err = OfMapping(parts[4], parts[5], p); err != nil {
			return engine.Input{}, err
		}
	default:
		return engine.Input{}, fmt.Errorf("%q is neither /synaptor/<controller>/<control>/<gesture> nor /synaptor/show/mapping/<id>/<gesture>", m.Address)
	}
	in, err := a.Resolve(p)
	if err != nil || len(m.Args) == 0 || !TakesAmount(in.Gesture) {
		return in, err
	}
	switch v := m.Args[0].(type) {
	case int:
		in.Amount = float64(v)
	case float64:
		in.Amount = v
	}
	if !GoodAmount(in.Amount) {
		return in, fmt.Errorf("%v is not an amount; it is a number up to %d", m.Args[0], MaxAmount)
	}
	return in, nil
}

func (o *OSCIn) reject(from string, err error) {
	// A flood of nonsense must not become a flood of log lines.
	if n := o.bad.Add(1); n <= 10 || n%1000 == 0 {
		slog.Warn("OSC input refused", "from", from, "count", n, "reason", err)
	}
}
