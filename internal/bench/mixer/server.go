package mixer

import (
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"math"
	"net"
	"net/netip"
	"sync"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

// longest is how long a subscription lasts at most, unless it is renewed.
const longest = 30 * time.Second

// Server is the stand-in on its socket.
type Server struct {
	addr    string
	changed func() // called after every change, without locks held

	mu        sync.Mutex
	state     *state
	conn      *net.UDPConn // nil while the cable is out
	followers map[netip.AddrPort]time.Time
	faults    faults.Faults
	recent    panel.Recent
	wg        sync.WaitGroup
}

// Start listens on a UDP address, such as 127.0.0.1:7432. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	if changed == nil {
		changed = func() {}
	}
	s := &Server{addr: addr, changed: changed, state: newState(), followers: map[netip.AddrPort]time.Time{}}
	if err := s.listen(); err != nil {
		return nil, fmt.Errorf("start the bench's sound desk: %w", err)
	}
	return s, nil
}

func (s *Server) listen() error {
	at, err := net.ResolveUDPAddr("udp", s.Addr())
	if err != nil {
		return err
	}
	conn, err := net.ListenUDP("udp", at)
	if err != nil {
		return err
	}
	s.mu.Lock()
	s.addr, s.conn = conn.LocalAddr().String(), conn
	s.mu.Unlock()
	s.wg.Add(1)
	go func() {
		defer s.wg.Done()
		s.serve(conn)
	}()
	return nil
}

// ID implements panel.StandIn.
func (s *Server) ID() string { return "mixer" }

// Title implements panel.StandIn.
func (s *Server) Title() string { return "Sound desk" }

// Addr implements panel.StandIn.
func (s *Server) Addr() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.addr
}

// Close implements panel.StandIn.
func (s *Server) Close() {
	s.cut()
	s.wg.Wait()
}

func (s *Server) cut() {
	s.mu.Lock()
	conn := s.conn
	s.conn = nil
	clear(s.followers)
	s.mu.Unlock()
	if conn != nil {
		_ = conn.Close()
	}
}

func (s *Server) serve(conn *net.UDPConn) {
	buf := make([]byte, osc.MaxPacket+1)
	for {
		n, from, err := conn.ReadFromUDPAddrPort(buf)
		if errors.Is(err, net.ErrClosed) {
			return
		}
		if err != nil {
			continue // somebody who asked has gone
		}
		msgs, err := osc.Decode(buf[:n])
		s.mu.Lock()
		if s.faults.Silent {
			s.mu.Unlock()
			continue
		}
		if err != nil {
			s.send(from, refusal(err))
		}
		for _, m := range msgs {
			s.handle(from, m)
		}
		s.mu.Unlock()
		s.changed()
	}
}

func refusal(err error) device.Message {
	return device.Message{Address: "/error", Args: []any{err.Error()}}
}

// handle carries out a client's message; the lock is held.
func (s *Server) handle(from netip.AddrPort, m device.Message) {
	if m.Address != "/ask" && m.Address != "/follow" {
		s.recent.Note(m)
	}
	switch m.Address {
	case "/follow":
		lasts := longest
		if len(m.Args) == 1 {
			if n, ok := m.Args[0].(int); ok && n > 0 {
				lasts = min(longest, time.Duration(n)*time.Second)
			}
		}
		_, known := s.followers[from]
		s.followers[from] = time.Now().Add(lasts)
		if !known {
			s.recent.Note(m)
		}
		s.send(from, s.state.all()...)
	case "/ask":
		address := ""
		if len(m.Args) == 1 {
			address, _ = m.Args[0].(string)
		}
		v, ok := s.state.values[address]
		if !ok {
			s.send(from, refusal(fmt.Errorf("%q is not known here", address)))
			return
		}
		s.send(from, device.Message{Address: address, Args: []any{v}})
	default:
		if err := s.apply(m); err != nil {
			s.send(from, refusal(err))
		}
	}
}

// apply changes the state and tells every follower whose subscription lasts;
// the lock is held.
func (s *Server) apply(m device.Message) error {
	changes, err := s.state.do(m)
	if err != nil {
		return err
	}
	for to, until := range s.followers {
		if time.Now().After(until) {
			delete(s.followers, to)
			continue
		}
		s.send(to, changes...)
	}
	return nil
}

// send sends messages, later where the faults say so; the lock is held.
func (s *Server) send(to netip.AddrPort, msgs ...device.Message) {
	conn := s.conn
	if conn == nil || s.faults.Silent {
		return
	}
	for _, m := range msgs {
		p, err := osc.Encode(m)
		if err != nil {
			slog.Error("bench sound desk: encode", "err", err)
			continue
		}
		if d := s.faults.Delay(); d > 0 {
			time.AfterFunc(d, func() { _, _ = conn.WriteToUDPAddrPort(p, to) })
		} else {
			_, _ = conn.WriteToUDPAddrPort(p, to) // a datagram may be lost
		}
	}
}

// View implements panel.StandIn.
func (s *Server) View() panel.View {
	s.mu.Lock()
	defer s.mu.Unlock()
	values := maps.Clone(s.state.values)
	for a, v := range values {
		if f, ok := v.(float64); ok && math.IsInf(f, -1) {
			values[a] = "-inf" // JSON has no word for it
		}
	}
	clients := 0
	for _, until := range s.followers {
		if time.Now().Before(until) {
			clients++
		}
	}
	return panel.View{Values: values, Clients: clients, Faults: s.faults, Recent: append([]string{}, s.recent...)}
}

// Operate implements panel.StandIn.
func (s *Server) Operate(m device.Message) error {
	s.mu.Lock()
	err := s.apply(m)
	s.mu.Unlock()
	s.changed()
	return err
}

// SetFaults implements panel.StandIn.
func (s *Server) SetFaults(f faults.Faults) error {
	s.mu.Lock()
	was := s.faults
	s.faults = f
	s.mu.Unlock()
	var err error
	switch {
	case f.Cut && !was.Cut:
		s.cut()
	case !f.Cut && was.Cut:
		err = s.listen()
	}
	s.changed()
	return err
}
