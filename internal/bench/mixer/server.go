package mixer

import (
	"errors"
	"fmt"
	"net"
	"net/netip"
	"sync"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/incident"
	"synaptor/internal/link/osc"
)

// longest is how long a subscription lasts at most, unless it is renewed.
const longest = 30 * time.Second

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core

	mu            sync.Mutex
	addr          string
	conn          *net.UDPConn // nil while the cable is out
	subscriptions map[netip.AddrPort]subscription
	wg            sync.WaitGroup
}

// subscription is a follower that is told until it expires.
type subscription struct {
	follower *panel.Follower
	expires  *time.Timer
}

// Start listens on a UDP address, such as 127.0.0.1:7432. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{addr: addr, subscriptions: map[netip.AddrPort]subscription{}}
	s.Core = panel.NewCore("mixer", "Sound desk", time.Second, NewMachine, changed)
	if err := s.Core.Start(s); err != nil {
		return nil, fmt.Errorf("start the bench's sound desk: %w", err)
	}
	return s, nil
}

// Open implements panel.Socket.
func (s *Server) Open() error {
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
		incident.Contain("bench", "mixer", func() { s.serve(conn) })
	}()
	return nil
}

// Addr implements panel.StandIn.
func (s *Server) Addr() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.addr
}

// Cut implements panel.Socket.
func (s *Server) Cut() {
	s.mu.Lock()
	conn, subs := s.conn, s.subscriptions
	s.conn, s.subscriptions = nil, map[netip.AddrPort]subscription{}
	s.mu.Unlock()
	for _, sub := range subs {
		sub.expires.Stop()
		s.Leave(sub.follower)
	}
	if conn != nil {
		_ = conn.Close()
	}
	s.wg.Wait()
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
		if err != nil && !s.Faults().Silent {
			send(conn, from, s.Due(), refusal("", err))
		}
		for _, m := range msgs {
			if answer := s.answer(conn, from, m); answer != nil {
				send(conn, from, s.Due(), answer)
			}
		}
	}
}

// refusal says what is refused, and why.
func refusal(of string, err error) []device.Message {
	return []device.Message{{Address: "/error", Args: []any{err.Error(), of}}}
}

// answer carries out a message and returns what it is answered with, if
// anything.
func (s *Server) answer(conn *net.UDPConn, from netip.AddrPort, m device.Message) []device.Message {
	switch m.Address {
	case "/follow":
		s.subscribe(conn, from, m)
		return nil
	case "/ask":
		address := ""
		if len(m.Args) == 1 {
			address, _ = m.Args[0].(string)
		}
		heard, values := s.Asked(address)
		if heard && (len(values) != 1 || address == "") {
			return refusal(m.Address, fmt.Errorf("%q is not known here", address))
		}
		return values
	}
	if heard, err := s.Handle(m); heard && err != nil {
		return refusal(m.Address, err)
	}
	return nil
}

// subscribe tells a client everything, and every change until the subscription
// expires.
func (s *Server) subscribe(conn *net.UDPConn, from netip.AddrPort, m device.Message) {
	lasts := longest
	if len(m.Args) == 1 {
		if n, ok := m.Args[0].(int); ok && n > 0 {
			lasts = min(longest, time.Duration(n)*time.Second)
		}
	}
	tell := func(due time.Time, msgs []device.Message) { send(conn, from, due, msgs) }
	s.mu.Lock()
	old, had := s.subscriptions[from]
	s.mu.Unlock()
	if had {
		old.expires.Stop()
		s.Leave(old.follower)
	}
	f := s.FollowAll(tell)
	s.mu.Lock()
	s.subscriptions[from] = subscription{f, time.AfterFunc(lasts, func() {
		s.mu.Lock()
		if s.subscriptions[from].follower == f {
			delete(s.subscriptions, from)
		}
		s.mu.Unlock()
		s.Leave(f)
	})}
	s.mu.Unlock()
}

// send sends messages when they are due.
func send(conn *net.UDPConn, to netip.AddrPort, due time.Time, msgs []device.Message) {
	for _, m := range msgs {
		p, err := osc.Encode(m)
		if err != nil {
			continue
		}
		if d := time.Until(due); d > 0 {
			time.AfterFunc(d, func() { _, _ = conn.WriteToUDPAddrPort(p, to) })
		} else {
			_, _ = conn.WriteToUDPAddrPort(p, to) // a datagram may be lost
		}
	}
}
